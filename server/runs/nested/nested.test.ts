import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import type { Page } from '../../../core/compose/page'
import type { Block } from '../../../core/definition/blocks/block'
import type { NestedBlock } from '../../../core/definition/blocks/nested'
import type { ParameterDefinition } from '../../../core/definition/parameters'
import { formatVersion, type ReportDefinition } from '../../../core/definition/report'
import { plainTable } from '../../../core/definition/upgrade'
import { by, column, level, related, text } from '../../../demo/reports/invoice'
import { pagesOfRun, runOver } from '../../../tests/runs'
import { demoDatabase, sourceOfTests } from '../../../tests/support'
import type { RunInput } from '../input'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

const width = 460
/** All on one page however long, so that only what stands there is compared. */
const tall = (blocks: Block[], margins = { top: 0, right: 0, bottom: 0, left: 0 }) => [
  {
    name: 'Page',
    page: { size: 'own' as const, width: width + margins.left + margins.right, height: 5000, orientation: 'portrait' as const, margins },
    blocks,
  },
]
const dataSet = (root: ReportDefinition['dataSets'][0]['root']): ReportDefinition['dataSets'] => [
  { name: 'main', source: sourceOfTests.source, fields: {}, root },
]
const base = { format: formatVersion, language: 'en-GB' } as const

/** Ways in which the register says which customer it is of: the first two can be dealt out, the others are read for each. */
const filters = {
  equal: 'customer_id = param.customer',
  under: 'customer.id = param.customer',
  around: 'customer_id >= param.customer and customer_id <= param.customer',
  sum: 'customer_id * 2 = param.customer + param.customer',
}
/** What stands in the register beside its lines. */
const looks = {
  plain: '{{ sum(total) | #,##0.00 }}',
  parameter: 'Customer {{ param.customer }}: {{ count(invoice) }}',
  whole: '{{ sum(total, over: report) | #,##0.00 }} of all',
  lines: '{{ sum(lines.quantity) | 0.000 }} pieces, {{ max(invoice_date) | d MMM y }}',
}
interface Wanted {
  filter: keyof typeof filters
  look: keyof typeof looks
  grouped: boolean
  crossed: boolean
  /** the running sum is a field of the records instead of a formula of the page */
  field?: boolean
}

function register({ filter, look, grouped, crossed, field }: Wanted): ReportDefinition {
  const parameters: ParameterDefinition[] = [{ name: 'customer', label: 'Customer', kind: 'whole', required: true }]
  const right = { style: { align: 'right' as const } }
  const table = plainTable(
    'list',
    'invoice',
    [
      column('number', 'Number', '{{ number }}', 90),
      column('date', 'Date', '{{ invoice_date | dd.MM.y }}', 80),
      column('so_far', 'So far', field ? '{{ so_far }}' : '{{ running(total) }}', 90, right),
      column('total', 'Total', '{{ total }}', 0, right),
    ],
    grouped ? { groups: [{ id: 'year', by: 'invoice_date', step: 'year', order: { by: 'value', descending: true } }] } : {},
  )
  const end = { id: 'end', kind: 'end' as const, cells: { number: { text: 'All' }, total: { text: looks[look] } } }
  return {
    ...base,
    parameters,
    dataSets: dataSet(
      level('invoice', 'invoices', {
        fields: ['number', 'invoice_date', 'total'],
        related: [related('customer', 'customers', 'customer_id', 'id', ['code', 'name'])],
        filters: [filters[filter], 'kind = "invoice"'],
        sort: [by('invoice_date', true), by('number')],
        ...(field ? { calculated: [{ name: 'so_far', formula: 'running(total)' }] } : {}),
        details: [level('lines', 'invoice_lines', { on: [{ from: 'id', to: 'invoice_id' }], fields: ['line_no', 'quantity'] })],
      }),
    ),
    layouts: tall([
      { ...table, rows: [...table.rows.filter(row => row.kind !== 'end'), end] },
      ...(crossed
        ? [
            {
              kind: 'crosstab' as const,
              id: 'grid',
              level: 'invoice',
              left: 0,
              width: 0,
              after: 10,
              rows: [
                {
                  id: 'year',
                  by: 'invoice_date',
                  step: 'year' as const,
                  order: { by: 'value' as const, descending: false },
                  total: 'after' as const,
                },
              ],
              columns: [
                { id: 'currency', by: 'currency_code', order: { by: 'name' as const, descending: false }, total: 'after' as const },
              ],
              measures: [{ id: 'sum', formula: 'sum(base_total)' }],
              wide: 'down' as const,
              repeatTitles: true,
            },
          ]
        : []),
    ]),
    handsOut: [
      { name: 'all', formula: 'sum(base_total)' },
      { name: 'pieces', formula: 'sum(lines.quantity)' },
    ],
  }
}

const nested: NestedBlock = {
  kind: 'nested',
  id: 'register',
  report: 'register',
  name: 'Register',
  feeds: [{ parameter: 'customer', formula: 'id' }],
  totals: [
    { name: 'all', type: 'number', scale: 2 },
    { name: 'pieces', type: 'number', scale: 3 },
  ],
  left: 0,
  width: 0,
  after: 12,
  most: 200,
}

/** Customers with their registers, each under a line with what they hand out, and a line of all of them. */
const customers = (block: NestedBlock = nested): ReportDefinition => ({
  ...base,
  parameters: [],
  dataSets: dataSet(level('buyer', 'customers', { fields: ['code', 'name'], filters: ['id <= 24'], sort: [by('name')] })),
  layouts: tall([
    {
      kind: 'repeat',
      id: 'each',
      level: 'buyer',
      newPage: true,
      restartNumbers: false,
      after: 0,
      blocks: [
        {
          kind: 'panel',
          id: 'head',
          height: 20,
          after: 0,
          items: [text('code', 0, 0, width, '{{ code }} {{ register.all | 0.00 }} {{ register.pieces | 0.000 }}')],
        },
        block,
      ],
    },
    { kind: 'panel', id: 'foot', height: 20, after: 0, items: [text('sum', 0, 0, width, 'All: {{ sum(register.all) | 0.00 }}')] },
  ]),
})

const runOf = (definition: ReportDefinition, more: Partial<RunInput> = {}) => runOver(catalog, definition, more)
const pagesOf = (input: RunInput) => pagesOfRun(db, input)

/** What is written on a page from a height on, each text with where it stands. */
const written = (page: Page | undefined, from: number, to = Infinity) =>
  (page?.items ?? []).flatMap(item =>
    item.kind === 'text' && item.y > from && item.y < to
      ? [[item.text, Math.round(item.x * 100), Math.round((item.y - from) * 100), item.font]]
      : [],
  )

describe('a nested report', () => {
  it('is the report run by itself with the same answers, whatever it asks and shows', async () => {
    const { rows } = await db.query<{ id: number; code: string; all: string | null }>(
      `select c.id, c.code, (select sum(base_total)::text from invoices where customer_id = c.id and kind = 'invoice') as all
        from customers c where c.id <= 24 order by c.name collate "unicode", c.id`,
    )
    await fc.assert(
      fc.asyncProperty(
        fc.record<Wanted>({
          filter: fc.constantFrom(...(Object.keys(filters) as Wanted['filter'][])),
          look: fc.constantFrom(...(Object.keys(looks) as Wanted['look'][])),
          grouped: fc.boolean(),
          crossed: fc.boolean(),
          field: fc.boolean(),
        }),
        fc.constantFrom(1, 7, 500),
        async (wanted, chunk) => {
          const inner = runOf(register(wanted))
          const { pages } = await pagesOf(runOf(customers(), { nested: { register: inner }, chunk }))
          const some = rows.filter((_, at) => at % 6 === chunk % 6)
          for (const { id, code, all } of some) {
            const own = pages.find(page => page.items.some(item => item.kind === 'text' && item.text.startsWith(`${code} `)))
            const alone = await pagesOf({ ...inner, answers: { customer: String(id) } })
            const there = written(alone.pages[0], 0)
            if (all) expect(there.length).toBeGreaterThan(wanted.crossed ? 12 : 8)
            expect(written(own, 20, own === pages.at(-1) ? bottomOf(own!) : Infinity)).toEqual(there)
            if (all) expect(own!.items.some(item => item.kind === 'text' && item.text.startsWith(`${code} ${all} `))).toBe(true)
          }
          const sum = rows.reduce((total, each) => total + Number(each.all ?? 0), 0)
          expect(written(pages.at(-1), 0).map(([words]) => words)).toContain(`All: ${sum.toFixed(2)}`)
        },
      ),
      { numRuns: 24 },
    )
  })

  it('stands under the rows of a table too, goes on over pages, and begins none of its own', async () => {
    const inner = register({ filter: 'equal', look: 'plain', grouped: true, crossed: false })
    const outer = customers()
    const table = plainTable('list', 'buyer', [column('code', 'Code', '{{ code }}', 80), column('name', 'Name', '{{ name }}', 0)])
    const page = { size: 'own' as const, width: width + 40, height: 300, orientation: 'portrait' as const }
    const margins = { top: 20, right: 20, bottom: 20, left: 20 }
    outer.layouts = [
      {
        name: 'Page',
        page: { ...page, margins },
        blocks: [
          {
            ...table,
            id: 'buyers',
            rows: [...table.rows, { id: 'register', kind: 'extra', cells: {}, report: { ...nested, left: 20, after: 0 } }],
          },
        ],
      },
    ]
    const { pages } = await pagesOf(runOf(outer, { nested: { register: runOf(inner) } }))
    const { rows } = await db.query<{ code: string; number: string | null }>(
      `select c.code, i.number from customers c left join invoices i on i.customer_id = c.id and i.kind = 'invoice' where c.id <= 24
        order by c.name collate "unicode", c.id, extract(year from i.invoice_date) desc, i.invoice_date desc, i.number collate "unicode"`,
    )
    const wanted = rows.flatMap(({ code, number }, at) => [...(rows[at - 1]?.code === code ? [] : [code]), ...(number ? [number] : [])])
    const known = new Set(wanted)
    const shown = pages.flatMap(each => each.items.flatMap(item => (item.kind === 'text' && known.has(item.text) ? [item.text] : [])))
    expect(shown).toEqual(wanted)
    expect(pages.length).toBeGreaterThan(8)
    // each page that goes on begins with the titles of the table around, and then those of the report
    for (const each of pages.slice(1))
      expect(each.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])).slice(0, 2)).toEqual(['Code', 'Name'])
  })

  it('is read by as many statements for many records as for few, where its answers are compared with a field', async () => {
    const wanted: Wanted = { filter: 'equal', look: 'plain', grouped: false, crossed: false }
    const counted = async (most: number) => {
      const outer = customers()
      outer.dataSets[0]!.root.filters = [`id <= ${most}`]
      return (await pagesOf(runOf(outer, { nested: { register: runOf(register(wanted)) } }))).statements
    }
    expect(await counted(200)).toBe(await counted(3))
  })

  it('is so too where another of its answers is the same for all of them', async () => {
    const inner = register({ filter: 'equal', look: 'plain', grouped: false, crossed: false })
    inner.parameters.push({ name: 'since', label: 'Since', kind: 'date', required: true })
    inner.dataSets[0]!.root.filters.push('invoice_date >= param.since and invoice_date >= addDays(param.since, -1)')
    const feeds = [...nested.feeds, { parameter: 'since', formula: 'date(2025, 1, 1)' }]
    const counted = async (most: number) => {
      const outer = customers({ ...nested, feeds, most: 1 })
      outer.dataSets[0]!.root.filters = [`id <= ${most}`]
      return pagesOf(runOf(outer, { nested: { register: runOf(inner) } }))
    }
    const [many, few] = [await counted(60), await counted(3)]
    expect(many.statements).toBe(few.statements)
    const { rows } = await db.query<{ all: string }>(
      `select sum(base_total)::text as all from invoices where customer_id <= 60 and kind = 'invoice' and invoice_date >= '2025-01-01'`,
    )
    expect(written(many.pages.at(-1), 0).map(([words]) => words)).toContain(`All: ${rows[0]!.all}`)
  })

  it('that has to be read for each of its answers is read for so many at most, and says so', async () => {
    const inner = runOf(register({ filter: 'sum', look: 'plain', grouped: false, crossed: false }))
    const outer = customers({ ...nested, most: 5 })
    await expect(pagesOf(runOf(outer, { nested: { register: inner } }))).rejects.toThrow(/“Test” would be read more than 5 times/)
  })
})

/** Where the line under all of them begins. */
const bottomOf = (page: Page) => {
  const last = page.items.find(item => item.kind === 'text' && item.text.startsWith('All: '))
  return last?.kind === 'text' ? last.y : Infinity
}
