import type { FiscalCalendar } from '../../core/books/calendar'
import type { Catalog } from '../../core/books/catalog'
import { arrayText } from '../../core/catalog/dialect'
import { findTable } from '../../core/catalog/types'
import { blankLevel } from '../../core/definition/edits/ownTables'
import { parameterTypes } from '../../core/definition/parameters'
import type { ReportDefinition } from '../../core/definition/report'
import type { ElsewhereTable } from '../../core/definition/tables'
import { levelTree } from '../../core/model/levels'
import { readAnswers } from '../../core/parameter/answers'
import { planDataSet } from '../../core/sql/plan'
import { valueAt } from '../../core/value/columns'
import { type Day, dayText } from '../../core/value/date'
import { plainText } from '../../core/value/plain'
import type { Answer, Value } from '../../core/value/value'
import type { Context } from '../access/context'
import type { Snapshot, Source } from '../sources/contract'
import type { Sources } from '../sources/sources'
import { RunError } from './input'

/** Rows that a report takes of another source's table at most: they go along with every statement. */
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
    const { catalog, version } = await sources.catalog(id)
    const { calendar: _, ...rest } = catalog
    const within: Catalog = { ...rest, ...(calendar ? { calendar } : {}) }
    versions.push(version)
    await sources.reading(context, id, async (snapshot, source) => {
      for (const table of wanted.filter(each => each.source === id)) {
        const now = asNow(table, source, findTable(catalog, table.table))
        known.set(table.name, now)
        rows[table.name] = await rowsOf(context, { snapshot, source, definition, parameters, today, table: now, catalog: within })
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
}

async function rowsOf(context: Context, { snapshot, source, definition, parameters, today, table, catalog }: Reading): Promise<string[]> {
  const root = { ...blankLevel(table.name, table.table), fields: table.columns.map(each => each.name), filters: table.filters }
  const { levels } = levelTree({ name: table.name, source: source.id, root, fields: {} }, catalog)
  const plan = planDataSet({
    levels,
    catalog,
    schema: source.schema,
    used: [new Set(root.fields)],
    parameterTypes: parameterTypes(definition.parameters),
    parameters,
    today,
  })
  const found = await snapshot.query(plan.roots, { rowLimit: mostElsewhere + 1, ...(context.signal ? { signal: context.signal } : {}) })
  if (found.count > mostElsewhere)
    throw new RunError([
      `“${table.table}” of “${source.name}” has more than ${mostElsewhere.toLocaleString('en')} rows, and a report takes no more of ` +
        `another source’s; narrow “${table.name}” with a filter, or read the report on that source.`,
    ])
  return table.columns.map(({ name, type }) => {
    const column = found.columns[plan.roots.columns.findIndex(each => each.path === name)]!
    const written = (value: Value) => (value === null ? null : type === 'boolean' ? String(value) : plainText(value, dayText))
    return arrayText(Array.from({ length: found.count }, (_, row) => written(valueAt(column, row))))
  })
}
