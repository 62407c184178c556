import type { PGlite } from '@electric-sql/pglite'
import ExcelJS from 'exceljs'
import fc from 'fast-check'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../core/books/catalog'
import type { ReportDefinition } from '../../core/definition/report'
import { clock } from '../../demo/company/clock'
import { schema as sourceSchema } from '../../demo/source'
import { demoDatabase, plainFetch, sourceOfTests, temporaryFolder } from '../../tests/support'
import { HtmlWriter } from './formats/html'
import { readyRun } from './ready'
import { RunMeter } from './meter'
import { addAll, rowsTo, workbookTo } from './write'
import { runGrid, runPages } from './execute'
import { PassThrough } from 'node:stream'
import { text } from 'node:stream/consumers'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const folder = temporaryFolder()

const ofInvoice = {
  total: 'total',
  so_far: 'running(total)',
  of_all: 'sum(total, over: report)',
  part: 'round(share(total), 6)',
  lines_of_all: 'count(lines, over: report)',
  beyond: 'if(running(lines_total) > 100000, 1, 0)',
  own: 'sum(lines.amount)',
}
const ofLine = {
  amount: 'amount',
  of_report: 'sum(amount, over: report)',
  of_invoice: 'running(amount)',
  share: 'round(share(amount), 8)',
  header: 'so_far',
}
type OfInvoice = keyof typeof ofInvoice
type OfLine = keyof typeof ofLine

/** Invoices one after another, with calculated fields and formulas of the page that look beyond their own record. */
function repeated(fields: OfInvoice[], inner: OfLine[], more: { panel: string; line: string }): ReportDefinition {
  const column = (id: string, cell: string) => ({ id, width: 80, cells: cell })
  const columns = [column('no', '{{ line_no }}'), column('more', `{{ ${more.line} | 0.######## }}`)]
  return {
    language: 'en-GB',
    parameters: [],
    dataSets: [
      {
        name: 'Invoices',
        source: sourceOfTests.source,
        fields: {},
        root: {
          name: 'invoice',
          table: 'invoices',
          on: [],
          fields: ['number'],
          related: [],
          filters: ['id <= 40'],
          sort: [{ field: 'number', descending: true }],
          calculated: fields
            .map(name => ({ name: `c_${name}`, formula: ofInvoice[name] }))
            .concat({ name: 'so_far', formula: 'running(total)' }),
          details: [
            {
              name: 'lines',
              table: 'invoice_lines',
              on: [{ from: 'id', to: 'invoice_id' }],
              fields: ['line_no'],
              related: [],
              details: [],
              filters: [],
              sort: [{ field: 'line_no', descending: false }],
              calculated: inner.map(name => ({ name: `c_${name}`, formula: ofLine[name] })),
            },
          ],
        },
      },
    ],
    layouts: [
      {
        name: 'Page',
        page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } },
        blocks: [
          {
            kind: 'repeat',
            id: 'each',
            level: 'invoice',
            newPage: false,
            restartNumbers: false,
            after: 0,
            blocks: [
              {
                kind: 'panel',
                id: 'head',
                after: 4,
                items: [{ kind: 'text', id: 'a', x: 0, y: 0, width: 300, text: `{{ number }} {{ ${more.panel} | 0.######## }}` }],
              },
              {
                kind: 'table',
                id: 'lines',
                level: 'lines',
                left: 0,
                after: 0,
                columns: columns.map(({ id, width }) => ({ id, width })),
                groups: [],
                rows: [{ id: 'line', kind: 'line', cells: Object.fromEntries(columns.map(each => [each.id, { text: each.cells }])) }],
              },
            ],
          },
        ],
      },
    ],
  } as unknown as ReportDefinition
}

let files = 0
/** What each output of a report says, read at so many roots at a time. */
async function told(definition: ReportDefinition, chunk: number): Promise<Record<string, unknown>> {
  const ready = readyRun({
    name: 'test',
    definition,
    catalog,
    schema: sourceSchema,
    ...sourceOfTests,
    answers: {},
    today: clock,
    moment: 0,
    chunk,
  })
  const fetch = plainFetch(db)
  const now = async (work: () => unknown) => void (await work())
  const file = (end: string) => join(folder, `${++files}.${end}`)
  const pages: string[] = []
  for await (const page of runPages(ready, fetch, new RunMeter()))
    pages.push(page.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])).join('|'))
  const rows = async (output: Parameters<typeof rowsTo>[1]) => {
    await rowsTo(ready, output, new RunMeter(), fetch, now)
    return readFileSync(output.file, 'utf8')
  }
  const book = file('xlsx')
  await workbookTo(ready, { format: 'xlsx', file: book, rows: 'lines' }, new RunMeter(), fetch, now)
  const read = new ExcelJS.Workbook()
  await read.xlsx.readFile(book)
  const out = new PassThrough()
  const html = text(out)
  const { columns, events } = await runGrid(ready, fetch, new RunMeter(), false, true)
  const writer = new HtmlWriter(out, 'test', 'en-GB', columns)
  for await (const some of events) await addAll(writer, some)
  await writer.end()
  out.end()
  return {
    pages,
    json: await rows({ format: 'json', file: file('json') }),
    csv: await rows({ format: 'csv', level: 'lines', file: file('csv') }),
    headers: await rows({ format: 'csv', level: 'invoice', file: file('csv') }),
    xml: await rows({ format: 'xml', file: file('xml') }),
    book: read.worksheets.map(sheet => sheet.getSheetValues()),
    html: await html,
  }
}

describe('what speaks of all records', () => {
  it('is the same on pages and in every file, however many records are read at a time', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.constantFrom(...(Object.keys(ofInvoice) as OfInvoice[])), { maxLength: 3 }),
        fc.uniqueArray(fc.constantFrom(...(Object.keys(ofLine) as OfLine[])), { maxLength: 3 }),
        fc.record({
          panel: fc.constantFrom(...Object.values(ofInvoice), 'so_far'),
          line: fc.constantFrom(...Object.values(ofLine), 'invoice.so_far'),
        }),
        async (fields, inner, more) => {
          const definition = repeated(fields, inner, more)
          const [one, three, many] = [await told(definition, 1), await told(definition, 3), await told(definition, 500)]
          expect(one).toEqual(many)
          expect(three).toEqual(many)
        },
      ),
      { numRuns: 25 },
    )
  })

  it('equals what SQL says of the whole', async () => {
    const definition = repeated(['so_far', 'of_all', 'part'], ['of_report', 'share'], { panel: 'running(total)', line: 'share(amount)' })
    const said = await told(definition, 3)
    const { rows } = await db.query<{ number: string; so_far: string; of_all: string; part: string }>(
      `select number, (sum(total) over (order by number collate "unicode" desc))::text as so_far, (sum(total) over ())::text as of_all,
        round(total / sum(total) over (), 6)::text as part from invoices where id <= 40 order by number collate "unicode" desc`,
    )
    const json = JSON.parse(said.json as string) as { number: string; c_so_far: number; c_of_all: number; c_part: number }[]
    expect(json.map(each => [each.number, each.c_so_far, each.c_of_all, each.c_part])).toEqual(
      rows.map(each => [each.number, Number(each.so_far), Number(each.of_all), Number(each.part)]),
    )
    const heads = (said.pages as string[]).flatMap(page => page.split('|')).filter(line => rows.some(each => line.startsWith(each.number)))
    expect(heads).toEqual(rows.map(each => `${each.number} ${Number(each.so_far)}`))
  })
})
