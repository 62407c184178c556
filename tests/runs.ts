import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../core/books/catalog'
import type { Page } from '../core/compose/page'
import type { ReportDefinition } from '../core/definition/report'
import { readDefinition } from '../core/definition/schema'
import { nestedPlaces } from '../core/model/nested'
import type { Query } from '../core/sql/query'
import { clock } from '../demo/company/clock'
import { schema } from '../demo/source'
import { runPages } from '../server/runs/execute'
import type { RunInput } from '../server/runs/input'
import { RunMeter } from '../server/runs/meter'
import { readyRun } from '../server/runs/ready'
import { plainFetch, sourceOfTests } from './support'

/** What a run of a report over the demo company is made from. */
export const runOver = (catalog: Catalog, definition: ReportDefinition, more: Partial<RunInput> = {}): RunInput => ({
  name: 'Test',
  definition: readDefinition(definition),
  catalog,
  schema,
  ...sourceOfTests,
  answers: {},
  today: clock,
  moment: 0,
  ...more,
})

/** The pages of a run, and how many statements were sent for them. */
export async function pagesOfRun(db: PGlite, input: RunInput, boxes = false): Promise<{ pages: Page[]; statements: number }> {
  let statements = 0
  const read = plainFetch(db)
  const fetch = (query: Query) => {
    statements++
    return read(query)
  }
  const pages: Page[] = []
  for await (const page of runPages(readyRun(input), fetch, new RunMeter(), boxes)) pages.push(page)
  return { pages, statements }
}

/** The reports nested in one of some reports, as a run of it is given them. */
export function nestedOf(
  catalog: Catalog,
  definition: ReportDefinition,
  library: readonly { name: string; definition: ReportDefinition }[],
): Pick<RunInput, 'nested'> {
  const places = nestedPlaces(definition)
  if (!places.length) return {}
  const read = (name: string) => {
    const found = library.find(each => each.name === name)!
    return runOver(catalog, found.definition, nestedOf(catalog, found.definition, library))
  }
  return { nested: Object.fromEntries(places.map(({ block }) => [block.id, read(block.report)])) }
}
