import type { Catalog } from '../../books/catalog'
import { nestedReport } from './make'
import type { NestedReport, NestedReports, NestedSource } from './reports'

/** A nested report as it is sent along with records: without its catalog where that is the one of the report around it. */
export interface SentNested extends Omit<NestedSource, 'catalog'> {
  catalog?: Catalog
  nested?: Record<string, SentNested>
}

/** Nested reports to be sent with records of a report over a catalog. */
export function sentNested(reports: NestedReports, around: Catalog): Record<string, SentNested> {
  const sent = ({ name, definition, catalog, today, layout, labels, nested }: NestedReport): SentNested => ({
    name,
    definition,
    today,
    ...(catalog === around ? {} : { catalog }),
    ...(layout ? { layout } : {}),
    ...(labels ? { labels } : {}),
    ...(nested ? { nested: sentNested(nested, catalog) } : {}),
  })
  return Object.fromEntries([...reports].map(([block, report]) => [block, sent(report)]))
}

/** What was sent, made ready again. */
export function takenNested(sent: Readonly<Record<string, SentNested>>, around: Catalog): NestedReports {
  return new Map(
    Object.entries(sent).map(([block, { nested, ...own }]): [string, NestedReport] => {
      const catalog = own.catalog ?? around
      return [block, nestedReport({ ...own, catalog }, nested && takenNested(nested, catalog))]
    }),
  )
}
