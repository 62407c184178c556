import type { Catalog } from '../../core/books/catalog'
import { findTable } from '../../core/catalog/types'
import { blankLevel } from '../../core/definition/edits/ownTables'
import { joinsTo, type JoinTo } from '../../core/definition/joinsTo'
import type { LevelDefinition, RelatedDefinition } from '../../core/definition/levels'
import { parameterTypes } from '../../core/definition/parameters'
import type { ReportDefinition } from '../../core/definition/report'
import { levelTree } from '../../core/model/levels'
import { boundValue } from '../../core/read/read'
import { type Plan, planDataSet } from '../../core/sql/plan'
import { valueAt } from '../../core/value/columns'
import type { Day } from '../../core/value/date'
import type { Answer } from '../../core/value/value'
import type { Context } from '../access/context'
import type { Sources } from '../sources/sources'

/** Values by which rows of another source's table are sought at most. */
export const mostKeys = 100_000

/** Types of columns whose values can be sought whatever they are: none of them is refused as one of the type. */
const sought = /^(integer|bigint|numeric|text|character varying|date)\b/

type KeyValue = ReturnType<typeof boundValue>

/** Values by which a table of another source is joined: a list for each of its columns, of the same length. */
export interface WantedKeys {
  columns: string[]
  values: KeyValue[][]
}

interface Asking {
  definition: ReportDefinition
  parameters: Readonly<Record<string, Answer>>
  /** of the source that the report stands on */
  today: Day
}

/**
 * The values by which a report joins a table of another source: all that it may need, and no more than the filters of its levels leave.
 * Nothing where the table is read otherwise than by a join, or where there are too many of them.
 */
export async function keysWanted(
  context: Context,
  sources: Sources,
  asking: Asking,
  { name, catalog, table }: { name: string; table: string; catalog: Catalog },
): Promise<WantedKeys | undefined> {
  const joins = joinsTo(asking.definition, name)
  if (!joins?.length) return undefined
  const columns = [...new Set(joins[0]!.on.map(pair => pair.to))]
  const types = new Map(findTable(catalog, table)?.columns.map(each => [each.name, each.databaseType]))
  const same = joins.every(({ on }) => on.length === columns.length && on.every(pair => columns.includes(pair.to)))
  if (!same || !columns.every(each => sought.test(types.get(each) ?? ''))) return undefined
  const rows = new Map<string, KeyValue[]>()
  for (const join of joins) {
    const found = await keysOf(context, sources, asking, join, columns)
    for (const row of found ?? []) if (row.every((value, at) => fits(value, types.get(columns[at]!)!))) rows.set(JSON.stringify(row), row)
    if (!found || rows.size > mostKeys) return undefined
  }
  return { columns, values: columns.map((_, at) => [...rows.values()].map(row => row[at]!)) }
}

/** What a column of whole numbers cannot hold is in none of its rows, and cannot be asked for. */
function fits(value: KeyValue, type: string): boolean {
  if (value === null) return false
  if (type !== 'integer' && type !== 'bigint') return true
  if (!/^-?\d+$/.test(String(value))) return false
  const limit = type === 'integer' ? 2n ** 31n : 2n ** 63n
  const whole = BigInt(value)
  return whole >= -limit && whole < limit
}

/** Related records of tables of the source alone. */
const plainly = (related: readonly RelatedDefinition[]): RelatedDefinition[] =>
  related.flatMap(each => (each.table.startsWith('@') ? [] : [{ ...each, related: plainly(each.related) }]))

/** The values of one join in the report's own source, each once, in the order of `columns`; nothing where there are too many. */
async function keysOf(
  context: Context,
  sources: Sources,
  { definition, parameters, today }: Asking,
  { source: id, on, table, level }: JoinTo,
  columns: readonly string[],
): Promise<KeyValue[][] | undefined> {
  const { catalog } = await sources.catalog(context, id)
  // what a level works out may be called as a column is, and means another value
  const made = [...(level?.calculated ?? []), ...(level?.totals ?? []), ...(level?.ageings ?? [])].map(each => each.name)
  const speaksOfMade = (filter: string) => made.some(name => filter.includes(name))
  const fields = columns.map(column => on.find(pair => pair.to === column)!.from)
  const root: LevelDefinition = { ...blankLevel(level?.name ?? 'rows', table), fields, related: plainly(level?.related ?? []) }
  return sources.reading(context, id, async (snapshot, source) => {
    const planned = (filters: string[]): Plan => {
      const { levels } = levelTree({ name: 'keys', source: id, root: { ...root, filters }, fields: {} }, catalog)
      const types = parameterTypes(definition.parameters)
      return planDataSet({ levels, catalog, schema: source.schema, used: [new Set(fields)], parameterTypes: types, parameters, today })
    }
    // a filter that speaks of what is not here only leaves more than are needed
    const plan = planned((level?.filters ?? []).filter(each => !speaksOfMade(each) && isPlanned(() => planned([each]))))
    const { text, values, columns: given } = plan.roots
    const wanted = fields.map(path => given.find(each => each.path === path)!)
    const names = given.map((_, at) => `c${at}`)
    const chosen = wanted.map(each => names[given.indexOf(each)]!)
    const found = await snapshot.query(
      {
        text: `select distinct ${chosen.join(', ')} from (${text}) as found(${names.join(', ')}) limit ${mostKeys + 1}`,
        values,
        columns: wanted,
      },
      context.signal ? { signal: context.signal } : {},
    )
    if (found.count > mostKeys) return undefined
    return Array.from({ length: found.count }, (_, row) => found.columns.map(column => boundValue(valueAt(column, row))))
  })
}

function isPlanned(plan: () => unknown): boolean {
  try {
    plan()
    return true
  } catch {
    return false
  }
}
