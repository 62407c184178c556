import { periodCode } from '../../../core/books/calendar'
import type { Catalog } from '../../../core/books/catalog'
import { quotedName as quoted } from '../../../core/sql/statementParts'
import { valueAt } from '../../../core/value/columns'
import type { Snapshot } from '../contract'

/** A period that the books have closed; `on` is what they say of when, as text, where they say it. */
export interface ClosedPeriod {
  code: string
  on?: string
}

/** The column of a table of periods that tells which are closed: a yes or no, a day or a moment. None where there is none. */
export function closedColumn(catalog: Catalog): { table: string; column: string; flag: boolean } | undefined {
  for (const name of Object.keys(catalog.calendar?.from ?? {})) {
    const table = catalog.tables.find(each => each.name === name)
    const column = table?.columns.find(
      each => /^(is_)?(closed|locked)(_(on|at|date))?$/i.test(each.name) && ['boolean', 'date', 'moment'].includes(each.type),
    )
    if (column) return { table: name, column: column.name, flag: column.type === 'boolean' }
  }
  return undefined
}

/** Periods that the books have closed, in no order; none where the books do not say it. @throws SourceError */
export async function closedPeriods(snapshot: Snapshot, catalog: Catalog, schema: string): Promise<ClosedPeriod[]> {
  const found = closedColumn(catalog)
  if (!found) return []
  const [year, number] = catalog.calendar!.from![found.table]!.map(quoted)
  const column = quoted(found.column)
  const rows = await snapshot.query({
    text:
      `select ${year}::text, ${number}::text, ${found.flag ? 'null::text' : `${column}::text`} ` +
      `from ${quoted(schema)}.${quoted(found.table)} where ${found.flag ? column : `${column} is not null`} order by 1, 2`,
    values: [],
    columns: ['year', 'number', 'on'].map(path => ({ path, type: 'text' as const })),
  })
  return Array.from({ length: rows.count }, (_, row) => {
    const [of, nth, on] = rows.columns.map(each => valueAt(each, row) as string | null)
    return { code: periodCode(Number(of), Number(nth)), ...(on ? { on } : {}) }
  })
}
