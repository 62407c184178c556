import { sql, type SQL } from 'drizzle-orm'
import { bound } from '../catalog/dialect'
import type { Catalog } from '../books/catalog'
import { type CatalogTable, findTable, type ForeignKey } from '../catalog/types'
import { checkFormula } from '../formula/check'
import { fieldsUsed } from '../formula/parts'
import { formulaSql, hasSql } from '../formula/sql'
import { FormulaError, parseFormula, pathsOf } from '../formula/syntax'
import type { LevelInfo, Typed } from '../formula/typed'
import { tableLevel } from '../model/levels'
import type { Day } from '../value/date'
import type { Guard } from './guards'

/** Who looks: the teams of a person by their ids, and what is known of the person: lists of texts by their names. */
export interface Observer {
  teams: readonly string[]
  attributes: Readonly<Record<string, readonly string[]>>
}

/** Which records of a table are seen: `of` gives its columns, `seen` what is seen of another table, as it can stand after `from`. */
type Test = (of: (column: string) => SQL, seen: (table: string) => SQL) => SQL

/** What somebody sees of a source. */
export interface Sight {
  /** tells it apart from others; empty where all is seen */
  told: string
  /** of guarded tables, a test that holds for the records that are seen */
  tests: ReadonlyMap<string, Test>
  /** columns that are hidden, by table */
  hidden: ReadonlyMap<string, ReadonlySet<string>>
  /** guards that cannot be worked out, so that nothing of their tables is seen: a sentence each */
  faults: readonly string[]
}

export const allSeen: Sight = { told: '', tests: new Map(), hidden: new Map(), faults: [] }

/** Nothing of a table is seen. */
const nothing: Test = () => sql`false`

const attributesUsed = (formula: string): string[] =>
  pathsOf(parseFormula(formula)).fields.flatMap(({ names }) =>
    names[0] === 'person' && names.length > 1 ? [names.slice(1).join('.')] : [],
  )

/** A guard's formula over the fields of its table. @throws FormulaError */
function typedGuard(formula: string, level: LevelInfo): { typed: Typed; attributes: string[] } {
  const attributes = attributesUsed(formula)
  const typed = checkFormula(formula, { levels: [level], level: level.index, parameters: {}, person: new Set(attributes), filter: true })
  if (typed.type !== 'boolean') throw new FormulaError('A guard is a test, such as branch_code in (person.branches).', 0, formula.length)
  if (!hasSql(typed, level.index)) throw new FormulaError('A guard asks for fields of its own table only.', 0, formula.length)
  return { typed, attributes }
}

/** The relation by which records of a table go with another's. */
const relationOf = (catalog: Catalog, { table, key }: Guard & { is: 'with' }): ForeignKey | undefined =>
  catalog.foreignKeys.find(each => each.name === key && each.from.table === table)

/** Does a table, by way of the records that it goes with, go with itself? */
function goesInCircles(table: string, catalog: Catalog, all: readonly Guard[]): boolean {
  const next = (at: string) =>
    all.flatMap(each => (each.is === 'with' && each.table === at ? (relationOf(catalog, each)?.to.table ?? []) : []))
  const known = new Set<string>()
  const waiting = next(table)
  while (waiting.length) {
    const at = waiting.pop()!
    if (at === table) return true
    if (known.has(at)) continue
    known.add(at)
    waiting.push(...next(at))
  }
  return false
}

/** Why a guard of records cannot be worked out over what the source holds now, in one sentence. */
export function guardFault(guard: Guard & { is: 'records' | 'with' }, catalog: Catalog, all: readonly Guard[]): string | undefined {
  const table = findTable(catalog, guard.table)
  if (!table) return `There is no table “${guard.table}” in the source any more; take its guard away.`
  if (guard.is === 'with') {
    if (!relationOf(catalog, guard))
      return `The relation by which records of “${guard.table}” were seen is not in the source any more; choose another for the guard.`
    return goesInCircles(guard.table, catalog, all)
      ? `Records of “${guard.table}” would be seen where they are seen; let one of the guards on the way be a formula.`
      : undefined
  }
  try {
    typedGuard(guard.formula, tableLevel(table, table.name))
    return undefined
  } catch (error) {
    if (!(error instanceof FormulaError)) throw error
    return `The guard “${guard.formula}” of “${guard.table}” cannot be used: ${error.message}`
  }
}

/**
 * What somebody sees of a source. All guards of one team hold; of several teams that guard a table, what one of them shows is seen; teams
 * that say nothing of a table leave it to the others. Where a guard cannot be worked out, or a list that it asks for is empty, it shows
 * nothing.
 * @param observers who looks; of several (an author who looks as a team does), what all of them see
 * @param today the source's day, for `today()` in a guard
 */
export function sightOf(catalog: Catalog, guards: readonly Guard[], observers: readonly Observer[], today: Day): Sight {
  const faults = new Set<string>()
  const tests = new Map<string, Test>()
  const hidden = new Map<string, Set<string>>()
  const also = (table: string, test: Test) => {
    const before = tests.get(table)
    tests.set(table, before ? (of, seen) => sql`(${before(of, seen)}) and (${test(of, seen)})` : test)
  }
  for (const observer of observers) {
    const own = guards.filter(each => observer.teams.includes(each.team))
    for (const name of new Set(own.map(each => each.table))) {
      const table = findTable(catalog, name)
      if (!table) continue
      const here = own.filter(each => each.table === name)
      const rows = here.filter(each => each.is !== 'hidden')
      if (rows.length)
        also(
          name,
          anyTeam(rows, each => testOf(each, table, observer)),
        )
      for (const column of hiddenColumns(here)) hidden.set(name, (hidden.get(name) ?? new Set()).add(column))
    }
  }
  if (!tests.size && !hidden.size) return allSeen
  const sight = { tests, hidden, faults: [...faults] }
  return { ...sight, told: toldOf(sight) }

  function testOf(guard: Guard & { is: 'records' | 'with' }, table: CatalogTable, observer: Observer): Test {
    const fault = guardFault(guard, catalog, guards)
    if (fault) {
      faults.add(`${fault.replace(/\.$/, '')}; until then nothing of “${table.name}” is shown.`)
      return nothing
    }
    if (guard.is === 'with') {
      const { from, to } = relationOf(catalog, guard)!
      return (of, seen) =>
        sql`(${sql.join(from.columns.map(of), sql`, `)}) in (select ${sql.join(
          to.columns.map(column => sql`${sql.identifier('with')}.${sql.identifier(column)}`),
          sql`, `,
        )} from ${seen(to.table)} as ${sql.identifier('with')})`
    }
    const level = tableLevel(table, table.name)
    const { typed, attributes } = typedGuard(guard.formula, level)
    if (attributes.some(each => !observer.attributes[each]?.length)) return nothing
    const parameters = Object.fromEntries(attributes.map(each => [`person.${each}`, observer.attributes[each]!]))
    return of =>
      formulaSql(
        typed,
        {
          column: path => of(level.fields.get(path)!.column.name),
          parameters,
          today,
          ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
        },
        true,
      )
  }
}

/** What one of the teams shows whose guards these are. */
function anyTeam<G extends Guard>(guards: readonly G[], testOf: (guard: G) => Test): Test {
  const teams = [...new Set(guards.map(each => each.team))].map(team => guards.filter(each => each.team === team).map(testOf))
  return (of, seen) =>
    sql.join(
      teams.map(
        tests =>
          sql`(${sql.join(
            tests.map(test => sql`(${test(of, seen)})`),
            sql` and `,
          )})`,
      ),
      sql` or `,
    )
}

/** Columns that every team hides that hides some of the table. */
function hiddenColumns(guards: readonly Guard[]): string[] {
  const teams = new Map<string, Set<string>>()
  for (const each of guards) if (each.is === 'hidden') teams.set(each.team, new Set([...(teams.get(each.team) ?? []), ...each.columns]))
  const [first, ...rest] = teams.values()
  return [...(first ?? [])].filter(column => rest.every(other => other.has(column)))
}

/** All that a sight is made of, as a text. */
function toldOf({ tests, hidden }: Pick<Sight, 'tests' | 'hidden'>): string {
  const named = (column: string) => sql`${sql.identifier(column)}`
  return JSON.stringify([
    [...tests].map(([table, test]) => [table, bound(test(named, named))]).sort(),
    [...hidden].map(([table, columns]) => [table, [...columns].sort()]).sort(),
  ])
}

/** Columns of a table that a guard's formula asks for. */
export const columnsUsed = (formula: string, table: CatalogTable): string[] =>
  fieldsUsed(typedGuard(formula, tableLevel(table, table.name)).typed).map(each => each.path)
