import type { FiscalCalendar } from '../../core/books/calendar'
import type { Catalog } from '../../core/books/catalog'
import { arrayText } from '../../core/catalog/dialect'
import { findTable } from '../../core/catalog/types'
import { blankLevel } from '../../core/definition/edits/ownTables'
import type { LevelDefinition } from '../../core/definition/levels'
import { parameterTypes } from '../../core/definition/parameters'
import type { ReportDefinition } from '../../core/definition/report'
import type { ElsewhereTable } from '../../core/definition/tables'
import { levelTree } from '../../core/model/levels'
import { readAnswers } from '../../core/parameter/answers'
import { type Plan, planDataSet } from '../../core/sql/plan'
import type { Query } from '../../core/sql/query'
import { valueAt } from '../../core/value/columns'
import { type Day, dayText } from '../../core/value/date'
import { plainText } from '../../core/value/plain'
import type { Answer, Value } from '../../core/value/value'
import type { Context } from '../access/context'
import type { Snapshot, Source } from '../sources/contract'
import type { Sources } from '../sources/sources'
import { keysWanted, type WantedKeys } from './elsewhereKeys'
import { RunError } from './input'

/**
 * Rows that a report takes of another source's table at most: they go along with every statement. Of a table that has more, those are read
 * that its joins ask for.
 */
export const mostElsewhere = 100_000

/** The report for which they are read. */
interface Asking {
  definition: ReportDefinition
  answers: Record<string, string>
  /** of the source that the report stands on */
  today: Day
  calendar?: FiscalCalendar | undefined
}

/** A definition with its tables of other sources as these are now, and their rows. */
export interface Elsewhere {
  definition: ReportDefinition
  rows: Record<string, string[]>
  /** tells what was found apart from what will be */
  version: string
}

/** The other sources that a report reads. */
export const elsewhereSources = (definition: ReportDefinition): string[] => elsewhereOf(definition).map(each => each.source)

const elsewhereOf = (definition: ReportDefinition) =>
  (definition.tables ?? []).filter((table): table is ElsewhereTable => table.kind === 'elsewhere')

/**
 * Reads the tables of other sources that a report names, each source at one moment. What they hold is said by their catalogs as they are
 * now: digits that were not there before are kept. Answers, periods and today() are those of the report, whatever the other source says; as
 * long as an answer is missing or wrong, nothing is read, and who runs the report is told of it.
 * @throws RunError or SourceError with one sentence
 */
export async function readElsewhere(
  context: Context,
  sources: Sources,
  { definition, answers, today, calendar }: Asking,
): Promise<Elsewhere | undefined> {
  const wanted = elsewhereOf(definition)
  if (!wanted.length) return undefined
  const { values: parameters, problems } = readAnswers(definition.parameters, answers, {
    today,
    language: definition.language,
    ...(calendar ? { calendar } : {}),
  })
  if (problems.length) return undefined
  const known = new Map<string, ElsewhereTable>()
  const rows: Record<string, string[]> = {}
  const versions: string[] = []
  for (const id of new Set(wanted.map(each => each.source))) {
    if (!sources.has(id)) {
      const [first] = wanted.filter(each => each.source === id)
      throw new RunError([`The source of “${first!.name}” is not here any more; choose another for it under Data.`])
    }
    const { catalog, version } = await sources.catalog(context, id)
    const { calendar: _, ...rest } = catalog
    const within: Catalog = { ...rest, ...(calendar ? { calendar } : {}) }
    versions.push(version)
    await sources.reading(context, id, async (snapshot, source) => {
      for (const table of wanted.filter(each => each.source === id)) {
        const now = asNow(table, source, findTable(catalog, table.table))
        known.set(table.name, now)
        const wanted = () => keysWanted(context, sources, { definition, parameters, today }, { name: now.name, table: now.table, catalog })
        rows[table.name] = await rowsOf(context, { snapshot, source, definition, parameters, today, table: now, catalog: within, wanted })
      }
    })
  }
  return {
    definition: { ...definition, tables: (definition.tables ?? []).map(each => known.get(each.name) ?? each) },
    rows,
    version: versions.join(' '),
  }
}

/** @throws RunError where the source does not have it as it was any more */
function asNow(table: ElsewhereTable, { name }: Source, found: ReturnType<typeof findTable>): ElsewhereTable {
  if (!found) throw new RunError([`“${name}” has no table “${table.table}” any more; choose another for “${table.name}” under Data.`])
  const columns = table.columns.map(column => {
    const now = found.columns.find(each => each.name === column.name)
    if (!now)
      throw new RunError([
        `“${table.table}” of “${name}” has no column “${column.name}” any more; leave it out of “${table.name}” under Data.`,
      ])
    if (now.type !== column.type)
      throw new RunError([
        `“${column.name}” of “${table.table}” in “${name}” is ${now.databaseType} now; take it into “${table.name}” anew under Data.`,
      ])
    const { scale: _, ...rest } = column
    return { ...rest, databaseType: now.databaseType, ...(now.scale === undefined ? {} : { scale: now.scale }) }
  })
  return { ...table, columns }
}

interface Reading {
  snapshot: Snapshot
  source: Source
  definition: ReportDefinition
  parameters: Readonly<Record<string, Answer>>
  today: Day
  table: ElsewhereTable
  catalog: Catalog
  /** values by which the report joins it, where it joins it only */
  wanted: () => Promise<WantedKeys | undefined>
}

/** The rows of a table of another source, or those that its joins ask for where it has more than can go along: an array a column. */
async function rowsOf(context: Context, reading: Reading): Promise<string[]> {
  const { snapshot, source, table } = reading
  const fields = table.columns.map(each => each.name)
  const read = async (query: Query) => {
    const limited = { ...query, text: `select * from (${query.text}) as found limit ${mostElsewhere + 1}` }
    const rows = await snapshot.query(limited, context.signal ? { signal: context.signal } : {})
    return rows.count > mostElsewhere ? undefined : { rows, query }
  }
  let found = await read(planned(reading, { ...blankLevel(table.name, table.table), fields, filters: table.filters }).roots)
  const keys = found ? undefined : await reading.wanted()
  if (keys) {
    const on = keys.columns.map(name => ({ from: name, to: name }))
    const joined = { ...blankLevel('joined', table.table), on, fields, filters: table.filters }
    const plan = planned(reading, { ...blankLevel(table.name, table.table), fields: keys.columns, details: [joined] })
    found = await read(plan.records(1, keys.values))
  }
  if (!found)
    throw new RunError([
      `“${table.table}” of “${source.name}” has more than ${mostElsewhere.toLocaleString('en')} rows, and a report takes no more of ` +
        `another source’s, nor does a join ask for so few of them; narrow “${table.name}” with a filter, or read the report on that ` +
        `source.`,
    ])
  const { rows, query } = found
  return table.columns.map(({ name, type }) => {
    const column = rows.columns[query.columns.findIndex(each => each.path === name)]!
    const written = (value: Value) => (value === null ? null : type === 'boolean' ? String(value) : plainText(value, dayText))
    return arrayText(Array.from({ length: rows.count }, (_, row) => written(valueAt(column, row))))
  })
}

/** Statements over levels of a table of another source, with the answers that the report is run with. */
function planned({ source, definition, parameters, today, table, catalog }: Reading, root: LevelDefinition): Plan {
  const { levels } = levelTree({ name: table.name, source: source.id, root, fields: {} }, catalog)
  return planDataSet({
    levels,
    catalog,
    schema: source.schema,
    used: levels.map(level => new Set(level.definition.fields)),
    parameterTypes: parameterTypes(definition.parameters),
    parameters,
    today,
  })
}
