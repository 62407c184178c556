import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import { demoDatabase, plainFetch } from '../../tests/support'
import { sourceDocument } from './document'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const find = (number: string) => sourceDocument(catalog, 'company', number, 'journals', plainFetch(db))

it('every kind of document that a journal names is found, with its own rows', async () => {
  const sources = (
    await db.query<{ source: string; number: string }>(
      'select source, min(document_number) as number from journals where document_number is not null group by source order by 1',
    )
  ).rows
  expect(sources.length).toBeGreaterThan(4)
  for (const { source, number } of sources)
    expect(await find(number), `${source} ${number}`).toMatchObject({
      fields: expect.arrayContaining([expect.objectContaining({ value: number })]),
    })
})
it('an invoice shows its customer by name, its lines and its taxes', async () => {
  const [invoice] = (
    await db.query<{ number: string; customer: string; total: string; lines: number; taxes: number }>(
      'select i.number, c.name as customer, i.total::text as total, (select count(*)::int from invoice_lines l where l.invoice_id = ' +
        'i.id) as lines, (select count(*)::int from invoice_taxes t where t.invoice_id = i.id) as taxes from invoices i ' +
        'join customers c on ' +
        'c.id = i.customer_id order by lines desc limit 1',
    )
  ).rows
  const found = (await find(invoice!.number))!
  expect(found.table).toBe('Invoices')
  expect(found.fields).toEqual(
    expect.arrayContaining([
      { caption: 'Customer', value: invoice!.customer, number: false },
      expect.objectContaining({ value: invoice!.total }),
    ]),
  )
  expect(found.parts.find(part => part.caption === 'Invoice lines')).toMatchObject({ count: invoice!.lines })
  expect(found.parts.find(part => part.caption === 'Invoice lines')!.rows).toHaveLength(Math.min(60, invoice!.lines))
  expect(found.parts.find(part => part.caption === 'Invoice taxes')).toMatchObject({ count: invoice!.taxes })
})
it('a number that is none, however it is written, finds nothing', async () => {
  expect(await find('nothing')).toBeUndefined()
  expect(await find("' or true --")).toBeUndefined()
})
