import { sql } from 'drizzle-orm'
import { findTable, type JoinPair } from '../../core/catalog/types'
import { type ChoicesWanted, choicesQueries } from '../../core/sql/choices'
import { matchQuery, sampleQuery } from '../../core/sql/match'
import { profileQuery } from '../../core/sql/profile'
import { type Query, withTexts } from '../../core/sql/query'
import type { NestedTotal } from '../../core/definition/blocks/nested'
import type { ValueType } from '../../core/value/value'
import { totalsHanded } from './nested/ready'
import { planningOf, planRun } from './execute'
import { RunError, type RunInput } from './input'
import { type ReadyRun, readyRun } from './ready'
import { choicesPlanning } from './choicesPlanning'
import { bound } from '../../core/catalog/dialect'
import { tableSql } from '../../core/sql/planner'

/** What an author asks of a report's rows while it is made, and readers of its choices. */
export type Question =
  | { kind: 'count' }
  | { kind: 'levels' }
  /** the totals that a report hands out where it is nested */
  | { kind: 'handsOut' }
  /** `sample`: a first look at some rows, before all are counted */
  | { kind: 'match'; from: string; to: string; on: readonly JoinPair[]; direction: 'related' | 'detail'; sample?: boolean | undefined }
  | { kind: 'profile'; level: string; path: string; search?: string | undefined }
  | { kind: 'split'; table: string; key: readonly string[]; columns: readonly string[] }
  | { kind: 'choices'; parameter: string; wanted: ChoicesWanted }

/** The statements that answer it, in the order of its kind, the type of the field it is about, the names of the levels, and totals. */
export interface Planned {
  queries: Query[]
  type?: ValueType
  levels?: string[]
  totals?: NestedTotal[]
}

/** Plans the answer to a question. @throws RunError, PlanError, SqlTextError with sentences */
export function planQuestion(input: RunInput, question: Question): Planned {
  if (question.kind === 'choices') {
    const parameter = input.definition.parameters.find(each => each.name === question.parameter)!
    const { page, count, all } = choicesQueries(choicesPlanning(input), parameter, question.wanted)
    return { queries: [page, count, all] }
  }
  const ready = readyRun(input, true)
  switch (question.kind) {
    case 'count':
      return { queries: [planRun(ready, 'pages').count] }
    case 'levels':
      return { queries: [], levels: ready.report.tree.levels.map(level => level.name) }
    case 'handsOut':
      return { queries: [], totals: totalsHanded(ready.name, ready.definition, ready.report) }
    case 'match':
      return { queries: [matching(ready, question)] }
    case 'profile':
      return profiling(ready, question)
    case 'split':
      return { queries: [splitting(ready, question)] }
  }
}

function needColumns(ready: ReadyRun, table: string, columns: readonly string[]): void {
  const found = findTable(planningOf(ready).catalog, table)
  const missing = columns.find(column => !found?.columns.some(each => each.name === column))
  if (missing !== undefined) throw new RunError([`There is no column “${missing}” in “${table}”.`])
}

/** How well a join fits. */
function matching(ready: ReadyRun, { from, to, on, direction, sample }: Question & { kind: 'match' }): Query {
  needColumns(
    ready,
    from,
    on.map(pair => pair.from),
  )
  needColumns(
    ready,
    to,
    on.map(pair => pair.to),
  )
  const planning = planningOf(ready)
  const [left, right] = [tableSql(planning, from), tableSql(planning, to)]
  return (sample ? sampleQuery : matchQuery)(left.sql, right.sql, on, direction, [...left.texts, ...right.texts])
}

/** What a field really holds, whatever the filters are. */
function profiling(ready: ReadyRun, { level: name, path, search }: Question & { kind: 'profile' }): Planned {
  const { levels } = ready.report.tree
  const level = levels.find(each => each.name === name)
  const field = level?.fields.get(path)
  if (!level || !field) throw new RunError([`There is no field “${path}” on level “${name}”.`])
  if (field.inSql === false)
    throw new RunError([`“${field.caption}” is worked out after reading; its profile is that of the fields it is made from.`])
  return { queries: [profileQuery({ levels, used: [], ...planningOf(ready) }, level.index, path, search)], type: field.type }
}

/** Within how many keys each column changes, and how many rows have no key. */
function splitting(ready: ReadyRun, { table, key, columns }: Question & { kind: 'split' }): Query {
  needColumns(ready, table, [...key, ...columns])
  const source = tableSql(planningOf(ready), table)
  const groups = sql.join(
    key.map(column => sql`t.${sql.identifier(column)}`),
    sql`, `,
  )
  // empty beside a value is a change too
  const changes = columns.map(
    (column, index) =>
      sql`(count(distinct t.${sql.identifier(column)}) + (count(*) > count(t.${sql.identifier(column)}))::int) > 1 as
        ${sql.identifier(`c${index}`)}`,
  )
  const counts = columns.map((_, index) => sql`count(*) filter (where g.${sql.identifier(`c${index}`)})`)
  const without = sql`count(*) filter (where ${sql.join(
    key.map(column => sql`t.${sql.identifier(column)} is null`),
    sql` or `,
  )}) as ${sql.identifier('without')}`
  const { text, values } = bound(
    sql`select ${sql.join(counts, sql`, `)}, coalesce(sum(g.${sql.identifier('without')}), 0) from (select
      ${sql.join(changes, sql`, `)}, ${without} from ${source.sql} as t group by ${groups}) as g`,
  )
  return { text, values, columns: [...columns, ''].map(path => ({ path, type: 'number' as const, scale: 0 })), ...withTexts(source.texts) }
}
