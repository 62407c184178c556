import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, describe, expect, it } from 'vitest'
import { groupedLines } from '../../bench/groups'
import type { Catalog } from '../../core/books/catalog'
import type { Page } from '../../core/compose/page'
import type { ReportDefinition } from '../../core/definition/report'
import { clock } from '../../demo/company/clock'
import { schema as sourceSchema } from '../../demo/source'
import { demoDatabase, plainFetch, sourceOfTests } from '../../tests/support'
import { earlyPage, runPages } from './execute'
import { readyRun } from './ready'
import { RunMeter } from './meter'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const ready = (definition: ReportDefinition) =>
  readyRun({ name: 'test', definition, catalog, schema: sourceSchema, ...sourceOfTests, answers: {}, today: clock }, false)
async function firstPage(definition: ReportDefinition): Promise<Page> {
  for await (const page of runPages(ready(definition), plainFetch(db), new RunMeter())) return page
  throw new Error('There is no page.')
}
/** Everything on a page but how many pages there are. */
const shown = (page: Page) => page.items.filter(item => item.kind !== 'text' || !/\bof\b/.test(item.text))
describe('the early page of a list in groups', () => {
  it.each([
    ['three levels', groupedLines(8000)],
    ['by a date', groupedLines(8000, ['invoice.invoice_date'], { by: 'value', descending: false })],
    ['downwards', groupedLines(8000, ['invoice.customer.name', 'invoice.salesperson.name'], { by: 'name', descending: true })],
    ['by a field that may be empty', groupedLines(8000, ['invoice.salesperson.name', 'description'])],
  ])('%s: it is the first page of the whole run', async (_, definition) => {
    const early = await earlyPage(ready(definition), plainFetch(db))
    expect(early, 'there is one').toBeDefined()
    const first = await firstPage(definition)
    expect(shown(early!).length).toBeGreaterThan(40)
    expect(shown(early!)).toEqual(shown(first))
  })
  it('there is none where a total over all stands on it, or groups follow a total', async () => {
    const share = groupedLines(8000)
    const list = share.layouts[0]!.blocks[0]! as { columns: { id: string }[] }
    expect(list.columns.map(each => each.id)).toContain('amount')
    const text = JSON.stringify(share)
    const withTotal = JSON.parse(text.replace('{{ quantity }}', '{{ share(base) | 0.0 %}}')) as ReportDefinition
    const byTotal = JSON.parse(
      text.replaceAll('"by":"name","descending":false', '"by":"total","total":"sum(base)","descending":true'),
    ) as ReportDefinition
    for (const definition of [withTotal, byTotal]) {
      expect(definition).not.toEqual(share)
      expect(await earlyPage(ready(definition), plainFetch(db))).toBeUndefined()
    }
  })
})
