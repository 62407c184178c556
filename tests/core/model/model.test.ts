import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import { demoDatabase, plainFetch } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import type { LevelDefinition } from '../../../core/definition/levels'
import type { ReportDefinition } from '../../../core/definition/report'
import type { TableDefinition } from '../../../core/definition/tables'
import { checkFormula } from '../../../core/formula/check'
import { compileFormula } from '../../../core/formula/evaluate'
import { dayText, parseDay } from '../../../core/value/date'
import { type Decimal, decimalText } from '../../../core/value/decimal'
import { baseOf } from '../../../core/model/derive'
import { tickedFields } from '../../../core/model/levels'
import { reportModel } from '../../../core/model/model'
import { planDataSet } from '../../../core/sql/plan'
import { readRecords } from '../../../core/read/read'
import type { DataRecords } from '../../../core/value/records'
import { valueAt } from '../../../core/value/columns'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

const level = (name: string, table: string, more: Partial<LevelDefinition> = {}): LevelDefinition => ({
  name,
  table,
  on: [],
  fields: [],
  related: [],
  details: [],
  filters: [],
  sort: [],
  ...more,
})
function report(root: LevelDefinition, tables: TableDefinition[] = [], others: ReportDefinition['dataSets'] = []): ReportDefinition {
  return {
    format: 2,
    language: 'en-GB',
    layouts: [],
    tables,
    parameters: [
      { name: 'asOf', label: 'As of', kind: 'date', required: true },
      { name: 'codes', label: 'Customers', kind: 'choices', required: false },
    ],
    dataSets: [{ name: 'main', source: 'caisvelho', fields: {}, root }, ...others],
  }
}
const asOf = parseDay('2026-06-30')!
async function read(definition: ReportDefinition, options: { chunk?: number; codes?: string[] | null; limit?: number } = {}) {
  const model = reportModel(definition, catalog)
  expect(model.trees.flatMap(tree => tree.problems)).toEqual([])
  const { levels } = model.trees[0]!
  const plan = planDataSet({
    levels,
    catalog: model.catalog,
    tables: model.tables,
    schema: 'company',
    used: levels.map(each => new Set(tickedFields(each.definition))),
    parameterTypes: model.parameterTypes,
    parameters: { asOf, codes: options.codes ?? null },
    today: asOf,
    ...(options.limit ? { limit: options.limit } : {}),
  })
  const chunks: DataRecords[] = []
  for await (const chunk of readRecords(plan, plainFetch(db), { chunk: options.chunk ?? 500 })) chunks.push(chunk.records)
  const column = (index: number, path: string) =>
    chunks.flatMap(({ levels: list }) =>
      Array.from({ length: list[index]!.count }, (_, row) => {
        const value = valueAt(list[index]!.columns[path]!, row)
        return value !== null && typeof value === 'object' ? decimalText(value) : value
      }),
    )
  return { chunks, levels, plan, column }
}
const rows = async <T>(text: string) => (await db.query<T>(text)).rows
const values = async (text: string) => (await rows<{ value: string | null }>(text)).map(row => row.value)
const trimmed = (list: unknown[]) =>
  list.map(value => (typeof value === 'string' ? value.replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '') : value))

describe('child totals', () => {
  const paid = {
    name: 'paid',
    table: 'applications',
    on: [{ from: 'id', to: 'invoice_id' }],
    total: 'sum' as const,
    value: 'amount',
    filters: ['applied_on <= param.asOf'],
  }

  it('equal a naive loop over the child rows, for any filter, and never ask once per row', async () => {
    const children = await rows<{ invoice_id: number; amount: string; applied_on: string }>(
      'select invoice_id, amount, applied_on::text from applications',
    )
    const ids = await rows<{ id: number }>('select id from invoices order by id')
    const date = fc.integer({ min: parseDay('2024-05-01')!, max: parseDay('2026-10-31')! })
    await fc.assert(
      fc.asyncProperty(
        date,
        fc.integer({ min: 0, max: 2000 }),
        fc.constantFrom('sum', 'count', 'min', 'max', 'latest'),
        async (day, least, total) => {
          const filters = [`applied_on <= date(${dayText(day).split('-').map(Number).join(', ')})`, `amount >= ${least}`]
          const { column, plan } = await read(
            report(
              level('invoice', 'invoices', {
                fields: ['id'],
                totals: [{ ...paid, total: total as 'sum', filters, ...(total === 'latest' ? { by: 'applied_on' } : {}) }],
              }),
            ),
            { chunk: 100_000 },
          )
          const expected = new Map<number, string[]>()
          for (const child of children)
            if (child.applied_on <= dayText(day) && Number(child.amount) >= least)
              expected.set(child.invoice_id, [...(expected.get(child.invoice_id) ?? []), child.amount])
          const cents = (text: string) => Math.round(Number(text) * 100)
          const naive = ids.map(({ id }) => {
            const list = expected.get(id) ?? []
            if (total === 'count') return String(list.length)
            if (total === 'sum') return String(list.reduce((sum, each) => sum + cents(each), 0))
            if (!list.length) return null
            return String((total === 'min' ? Math.min : Math.max)(...list.map(cents)))
          })
          const found = column(0, 'paid').map(value =>
            value === null ? null : total === 'count' ? (value as string) : String(cents(value as string)),
          )
          if (total !== 'latest') expect(found).toEqual(naive)
          else expect(found.map(value => value === null)).toEqual(naive.map(value => value === null))
          expect(plan.keys.text.match(/lateral/)).toBeNull()
        },
      ),
      { numRuns: 15 },
    )
  })

  it('the latest is the one with the last date', async () => {
    const { column } = await read(
      report(
        level('customer', 'customers', {
          fields: ['id'],
          totals: [
            {
              name: 'last',
              table: 'invoices',
              on: [{ from: 'id', to: 'customer_id' }],
              total: 'latest',
              value: 'invoice_date',
              by: 'invoice_date',
              filters: [],
            },
          ],
        }),
      ),
    )
    expect(column(0, 'last').map(day => (day === null ? null : dayText(day as number)))).toEqual(
      await values(
        'select max(i.invoice_date)::text as value from customers c left join invoices i on i.customer_id = c.id group by c.id ' +
          'order by c.id',
      ),
    )
  })

  it('can be filtered by, and calculated with', async () => {
    const open = await read(
      report(
        level('invoice', 'invoices', {
          fields: ['number'],
          totals: [paid],
          calculated: [{ name: 'open', formula: 'total - paid' }],
          filters: ['open > 1000', 'kind = "invoice"'],
        }),
      ),
    )
    const expected = await rows<{ number: string; open: string }>(
      'select i.number, (i.total - coalesce((select sum(a.amount) from applications a where a.invoice_id = i.id and a.applied_on <= ' +
        "'2026-06-30'), 0))::text as open from invoices i where i.kind = 'invoice' and i.total - coalesce((select sum(a.amount) from " +
        "applications a where a.invoice_id = i.id and a.applied_on <= '2026-06-30'), 0) > 1000 order by i.id",
    )
    expect(open.column(0, 'number')).toEqual(expected.map(row => row.number))
    expect(open.column(0, 'open')).toEqual(expected.map(row => row.open))
  })

  it('are not touched by the filters of the detail level that is shown (rule 5)', async () => {
    const { column } = await read(
      report(
        level('invoice', 'invoices', {
          fields: ['id'],
          totals: [{ ...paid, filters: [] }],
          details: [
            level('applications', 'applications', {
              on: [{ from: 'id', to: 'invoice_id' }],
              fields: ['amount'],
              filters: ['amount > 100000000'],
            }),
          ],
        }),
      ),
    )
    expect(column(1, 'amount')).toEqual([])
    expect(trimmed(column(0, 'paid'))).toEqual(
      trimmed(
        await values(
          'select coalesce(sum(a.amount), 0)::text as value from invoices i left join applications a on a.invoice_id = i.id group ' +
            'by i.id order by i.id',
        ),
      ),
    )
  })
})

describe('filters on a level below', () => {
  const lines = level('lines', 'invoice_lines', {
    on: [{ from: 'id', to: 'invoice_id' }],
    fields: ['line_no', 'kind', 'amount'],
    related: [{ name: 'item', table: 'items', on: [{ from: 'item_id', to: 'id' }], fields: ['code'], related: [] }],
  })

  it('keep only parents that have such a line, both conditions of one line; negated, those that have none', async () => {
    const test = 'kind = "item" and item.code = "ROP-001" and amount > 20'
    const sql =
      "exists (select 1 from invoice_lines l join items t on t.id = l.item_id where l.invoice_id = i.id and l.kind = 'item' and " +
      "t.code = 'ROP-001' and l.amount > 20)"
    for (const [filter, condition] of [
      [`has(lines, ${test})`, sql],
      [`not has(lines, ${test})`, `not ${sql}`],
    ] as const) {
      const { column } = await read(report(level('invoice', 'invoices', { fields: ['number'], filters: [filter], details: [lines] })))
      expect(column(0, 'number')).toEqual(await values(`select i.number as value from invoices i where ${condition} order by i.id`))
    }
  })

  it('mean the same in the core', async () => {
    const { chunks, levels } = await read(report(level('invoice', 'invoices', { fields: ['number'], details: [lines] })), {
      chunk: 100_000,
    })
    const typed = checkFormula('has(lines, kind = "service" and amount > 100)', { levels, level: 0, parameters: {} })
    const evaluate = compileFormula(typed, { levels, data: chunks[0]!, parameters: {}, today: 0 })
    const found = Array.from({ length: chunks[0]!.levels[0]!.count }, (_, row) => row).filter(
      row => evaluate({ level: 0, from: row, to: row + 1 }) === true,
    )
    const asked = await read(
      report(
        level('invoice', 'invoices', { fields: ['number'], filters: ['has(lines, kind = "service" and amount > 100)'], details: [lines] }),
      ),
    )
    expect(found.map(row => valueAt(chunks[0]!.levels[0]!.columns.number!, row))).toEqual(asked.column(0, 'number'))
    expect(found.length).toBeGreaterThan(100)
  })

  it('hide lines, and parents without lines stay', async () => {
    const { column, chunks } = await read(
      report(level('invoice', 'invoices', { fields: ['number'], details: [{ ...lines, filters: ['kind = "service"'] }] })),
    )
    expect(column(0, 'number').length).toBe(Number((await values('select count(*)::text as value from invoices'))[0]))
    expect(new Set(column(1, 'kind'))).toEqual(new Set(['service']))
    expect(
      chunks.some(chunk => Array.from(chunk.levels[1]!.starts).some((start, index, all) => index > 0 && start === all[index - 1])),
    ).toBe(true)
  })
})

describe('related records', () => {
  it('the latest at or before a date: the rate of each invoice’s day', async () => {
    const { column } = await read(
      report(
        level('invoice', 'invoices', {
          fields: ['id'],
          filters: ['currency_code = "GBP"'],
          related: [
            {
              name: 'rate_of_day',
              table: 'exchange_rates',
              on: [{ from: 'currency_code', to: 'currency_code' }],
              fields: ['rate', 'rate_date'],
              related: [],
              pick: { latest: 'rate_date', at: 'invoice_date' },
            },
          ],
        }),
      ),
    )
    expect(column(0, 'rate_of_day.rate')).toEqual(
      await values(
        'select (select r.rate from exchange_rates r where r.currency_code = i.currency_code and r.rate_date <= i.invoice_date ' +
          "order by r.rate_date desc limit 1)::text as value from invoices i where currency_code = 'GBP' order by i.id",
      ),
    )
  })

  it('one of several by a filter and an order; a required one drops the records without it', async () => {
    const related = {
      name: 'biggest',
      table: 'invoices',
      on: [{ from: 'id', to: 'customer_id' }],
      fields: ['number'],
      related: [],
      filters: ['kind = "credit note"'],
      pick: { sort: [{ field: 'total', descending: false }] },
    }
    const sql = "select i.number from invoices i where i.customer_id = c.id and i.kind = 'credit note' order by i.total, i.id limit 1"
    const optional = await read(report(level('customer', 'customers', { fields: ['id'], related: [related] })))
    expect(optional.column(0, 'biggest.number')).toEqual(await values(`select (${sql}) as value from customers c order by c.id`))
    const required = await read(report(level('customer', 'customers', { fields: ['id'], related: [{ ...related, required: true }] })))
    expect(required.column(0, 'biggest.number')).toEqual(optional.column(0, 'biggest.number').filter(value => value !== null))
    // also where no field of it is read
    const unread = await read(
      report(level('customer', 'customers', { fields: ['id'], related: [{ ...related, fields: [], required: true }] })),
    )
    expect(unread.column(0, 'id')).toEqual(required.column(0, 'id'))
  })
})

describe('calculated fields', () => {
  it('stand on one another in any order, across levels, and equal SQL', async () => {
    const { column } = await read(
      report(
        level('invoice', 'invoices', {
          fields: ['id'],
          calculated: [
            { name: 'heavy', formula: 'goods > 1000' },
            { name: 'goods', formula: 'sum(lines.double) / 2' },
          ],
          details: [
            level('lines', 'invoice_lines', {
              on: [{ from: 'id', to: 'invoice_id' }],
              fields: ['amount'],
              calculated: [
                { name: 'double', formula: 'amount * 2' },
                { name: 'part', formula: 'round(amount / invoice.lines_total * 100, 2)' },
              ],
            }),
          ],
        }),
      ),
    )
    expect(trimmed(column(0, 'goods'))).toEqual(
      trimmed(
        await values(
          'select coalesce(sum(l.amount), 0)::text as value from invoices i left join invoice_lines l on l.invoice_id = i.id group ' +
            'by i.id order by i.id',
        ),
      ),
    )
    expect(column(0, 'heavy')).toEqual(
      (
        await rows<{ value: boolean }>(
          'select coalesce(sum(l.amount), 0) > 1000 as value from invoices i left join invoice_lines l on l.invoice_id = i.id group ' +
            'by i.id order by i.id',
        )
      ).map(row => row.value),
    )
    const parts = await values(
      'select round(l.amount / nullif(i.lines_total, 0) * 100, 2)::text as value from invoices i join invoice_lines l on ' +
        'l.invoice_id = i.id order by i.id, l.line_no',
    )
    expect(trimmed(column(1, 'part'))).toEqual(trimmed(parts))
  })

  it('that need one another, or clash with a column, are told in a sentence', () => {
    const problems = (calculated: LevelDefinition['calculated']) =>
      reportModel(report(level('invoice', 'invoices', { calculated })), catalog).trees[0]!.problems.map(problem => problem.sentence)
    expect(
      problems([
        { name: 'one', formula: 'two + 1' },
        { name: 'two', formula: 'one + 1' },
      ])[0],
    ).toMatch(/^The calculated field “one” of level “Invoice” cannot be worked out: There is no field “two” here/)
    expect(problems([{ name: 'total', formula: '1' }])).toEqual([
      'Level “Invoice” already has a field “total”; give the other one another name.',
    ])
  })
})

describe('the report’s own tables', () => {
  const summary: TableDefinition = {
    kind: 'summary',
    name: 'sales',
    base: level('lines', 'invoice_lines', {
      filters: ['kind = "item"'],
      related: [
        {
          name: 'invoice',
          table: 'invoices',
          on: [{ from: 'invoice_id', to: 'id' }],
          fields: [],
          related: [{ name: 'customer', table: 'customers', on: [{ from: 'customer_id', to: 'id' }], fields: [], related: [] }],
        },
      ],
    }),
    by: [
      { name: 'customer', formula: 'invoice.customer.name' },
      { name: 'year', formula: 'year(invoice.invoice_date)' },
    ],
    measures: [
      { name: 'sales', formula: 'sum(amount)' },
      { name: 'quantity', formula: 'sum(quantity)' },
      { name: 'documents', formula: 'distinct(invoice_id)' },
      { name: 'price', formula: 'sales / quantity' },
      { name: 'rounded', formula: 'round(sales / quantity * 100, 1)' },
      { name: 'packs', formula: 'floor(sales / quantity)' },
      { name: 'spread', formula: 'sales / quantity', total: 'records' },
    ],
  }
  const grouped =
    'select c.name, extract(year from i.invoice_date)::int as year, sum(l.amount)::text as sales, sum(l.quantity)::text as ' +
    'quantity, count(distinct l.invoice_id)::int as documents from invoice_lines l join invoices i on i.id = l.invoice_id join ' +
    "customers c on c.id = i.customer_id where l.kind = 'item' group by c.id, c.name, 2 order by c.id, 2"

  it('a summary groups in SQL, keeps two of one name apart, and its ratio is worked out again at a total', async () => {
    const { column, chunks, levels } = await read(
      report(
        level('group', '@sales', {
          fields: ['customer', 'year', 'sales', 'quantity', 'documents', 'price', 'rounded', 'packs', 'spread'],
          sort: [
            { field: 'customer_key', descending: false },
            { field: 'year', descending: false },
          ],
        }),
        [summary],
      ),
      { chunk: 100_000 },
    )
    const expected = await rows<{ name: string; year: number; sales: string; quantity: string; documents: number }>(grouped)
    expect(column(0, 'customer')).toEqual(expected.map(row => row.name))
    expect(column(0, 'sales')).toEqual(expected.map(row => row.sales))
    expect(column(0, 'documents')).toEqual(expected.map(row => String(row.documents)))
    const typed = checkFormula('round(sum(price), 6)', { levels, level: 0, parameters: {} })
    const total = compileFormula(typed, { levels, data: chunks[0]!, parameters: {}, today: 0 })({
      level: 0,
      from: 0,
      to: chunks[0]!.levels[0]!.count,
    })
    expect(trimmed([decimalText(total as Decimal)])).toEqual(
      trimmed(await values("select round(sum(l.amount) / sum(l.quantity), 6)::text as value from invoice_lines l where l.kind = 'item'")),
    )
    const sumOf = (field: string) => {
      const asked = checkFormula(`sum(${field})`, { levels, level: 0, parameters: {} })
      const whole = { level: 0, from: 0, to: chunks[0]!.levels[0]!.count }
      return decimalText(compileFormula(asked, { levels, data: chunks[0]!, parameters: {}, today: 0 })(whole) as Decimal)
    }
    const perGroup = (value: string) =>
      values(`select sum(${value})::text as value from (select sum(l.amount) as sales, sum(l.quantity) as quantity from invoice_lines l join
        invoices i on i.id = l.invoice_id where l.kind = 'item' group by i.customer_id, extract(year from i.invoice_date)) g`)
    expect(trimmed([sumOf('rounded')])).toEqual(
      trimmed(await values("select round(sum(amount) / sum(quantity) * 100, 1)::text as value from invoice_lines where kind = 'item'")),
    )
    expect(trimmed([sumOf('packs')])).toEqual(trimmed(await perGroup('floor(sales / nullif(quantity, 0))')))
    expect(trimmed([sumOf('spread')])).toEqual(trimmed(await perGroup('round(sales / nullif(quantity, 0), 12)')))
  })

  it('a summary under its parent is a derived set: tax per rate of each customer', async () => {
    const perRate: TableDefinition = {
      kind: 'summary',
      name: 'rates',
      base: level('taxes', 'invoice_taxes', {
        related: [{ name: 'invoice', table: 'invoices', on: [{ from: 'invoice_id', to: 'id' }], fields: [], related: [] }],
      }),
      by: [
        { name: 'customer_id', formula: 'invoice.customer_id' },
        { name: 'rate', formula: 'rate' },
      ],
      measures: [{ name: 'tax', formula: 'sum(amount)' }],
    }
    const { column, chunks } = await read(
      report(
        level('customer', 'customers', {
          fields: ['id'],
          details: [
            level('rates', '@rates', {
              on: [{ from: 'id', to: 'customer_id' }],
              fields: ['rate', 'tax'],
              sort: [{ field: 'rate', descending: false }],
            }),
          ],
        }),
        [perRate],
      ),
    )
    expect(column(1, 'tax')).toEqual(
      await values(
        'select sum(t.amount)::text as value from invoice_taxes t join invoices i on i.id = t.invoice_id group by i.customer_id, ' +
          't.rate order by i.customer_id, t.rate',
      ),
    )
    expect(chunks.reduce((sum, chunk) => sum + chunk.levels[1]!.count, 0)).toBeGreaterThan(400)
  })

  it('a summary over all of a level holds the records that are shown: the filters above come along', async () => {
    const shown = report(
      level('invoice', 'invoices', {
        filters: [
          'customer.code in ("C-0001", "C-0004", "C-0009")',
          'has(lines)',
          'invoice_date >= date(2026, 1, 1) and invoice.invoice_date <= param.asOf',
        ],
        related: [{ name: 'customer', table: 'customers', on: [{ from: 'customer_id', to: 'id' }], fields: ['code'], related: [] }],
        details: [
          level('lines', 'invoice_lines', {
            on: [{ from: 'id', to: 'invoice_id' }],
            fields: ['kind', 'amount'],
            filters: ['kind != "comment"'],
          }),
        ],
      }),
    )
    const { base, left } = baseOf(reportModel(shown, catalog).trees[0]!.levels, 1)
    expect(left).toEqual(['has(lines)'])
    expect(base.filters).toEqual([
      'kind != "comment"',
      'invoice.customer.code in ("C-0001", "C-0004", "C-0009")',
      'invoice.invoice_date >= date(2026, 1, 1) and invoice.invoice_date <= param.asOf',
    ])
    const table: TableDefinition = {
      kind: 'summary',
      name: 'kinds',
      base,
      by: [{ name: 'kind', formula: 'kind' }],
      measures: [
        { name: 'amount', formula: 'sum(amount)' },
        { name: 'lines_there', formula: 'count(line_no)' },
      ],
    }
    const { column } = await read(
      report(level('kinds', '@kinds', { fields: ['kind', 'amount', 'lines_there'], sort: [{ field: 'kind', descending: false }] }), [
        { ...table, base: { ...base, name: 'rows_of_all' } },
      ]),
    )
    const expected = await rows<{ kind: string; amount: string; n: string }>(
      'select l.kind, sum(l.amount)::text as amount, count(*)::text as n from invoice_lines l join invoices i on i.id = ' +
        "l.invoice_id join customers c on c.id = i.customer_id where l.kind <> 'comment' and c.code in ('C-0001', " +
        "'C-0004', 'C-0009') and " +
        "i.invoice_date between '2026-01-01' and '2026-06-30' group by l.kind order by l.kind",
    )
    expect(expected.length).toBe(2)
    expect([column(0, 'kind'), column(0, 'amount'), column(0, 'lines_there')]).toEqual([
      expected.map(row => row.kind),
      expected.map(row => row.amount),
      expected.map(row => row.n),
    ])
  })

  it('data sets stack into one, and each row knows where it came from', async () => {
    const invoices = {
      name: 'bills',
      source: 'caisvelho',
      fields: {},
      root: level('bill', 'invoices', { fields: ['number', 'invoice_date', 'total'] }),
    }
    const receipts = {
      name: 'money',
      source: 'caisvelho',
      fields: {},
      root: level('receipt', 'receipts', { fields: ['number', 'receipt_date', 'amount'], filters: ['receipt_date <= param.asOf'] }),
    }
    const stack: TableDefinition = {
      kind: 'stack',
      name: 'movements',
      origin: 'source',
      columns: ['customer_id', 'number', 'day', 'amount'],
      parts: [
        {
          dataSet: 'bills',
          label: 'Invoice',
          fields: { customer_id: 'customer_id', number: 'number', day: 'invoice_date', amount: 'total' },
        },
        {
          dataSet: 'money',
          label: 'Receipt',
          fields: { customer_id: 'customer_id', number: 'number', day: 'receipt_date', amount: '-amount' },
        },
      ],
    }
    const { column, chunks, levels } = await read(
      report(
        level('customer', 'customers', {
          fields: ['id'],
          details: [
            level('movements', '@movements', {
              on: [{ from: 'id', to: 'customer_id' }],
              fields: ['source', 'number', 'day', 'amount'],
              sort: [
                { field: 'day', descending: false },
                { field: 'number', descending: false },
              ],
            }),
          ],
        }),
        [stack],
        [invoices, receipts],
      ),
      { chunk: 100_000 },
    )
    const expected = await rows<{
      source: string
      number: string
      amount: string
      balance: string
    }>(`select *, sum(amount) over (partition by customer_id order by day, number)::text as balance from (
      select customer_id, 'Invoice' as source, number, invoice_date as day, total as amount from invoices union all select
      customer_id, 'Receipt', number, receipt_date, -amount from receipts where receipt_date <= '2026-06-30') m order by
      customer_id, day, number`)
    expect(column(1, 'number')).toEqual(expected.map(row => row.number))
    expect(column(1, 'source')).toEqual(expected.map(row => row.source))
    const running = compileFormula(checkFormula('running(amount)', { levels, level: 1, parameters: {} }), {
      levels,
      data: chunks[0]!,
      parameters: {},
      today: 0,
    })
    expect(expected.map((_, row) => decimalText(running({ level: 1, from: row, to: row + 1 }) as Decimal))).toEqual(
      expected.map(row => row.balance),
    )
  })

  it('a text binds its parameters by name, and split gives header and lines again', async () => {
    const flat: TableDefinition = {
      kind: 'sql',
      name: 'flat',
      key: [],
      text:
        "select i.number, i.invoice_date, i.total, l.line_no, l.amount, ':asOf' as note -- until :nothing\nfrom " +
        'company.invoices i join company.invoice_lines l on l.invoice_id = i.id\nwhere i.invoice_date <= :asOf and (:codes is null or ' +
        'i.customer_id in (select id from company.customers where code = any(:codes)))',
      columns: [
        ['number', 'text'],
        ['invoice_date', 'date'],
        ['total', 'number'],
        ['line_no', 'number'],
        ['amount', 'number'],
        ['note', 'text'],
      ].map(([name, type]) => ({
        name: name!,
        type: type as 'text',
        databaseType: type === 'number' ? 'numeric' : type!,
        ...(type === 'number' ? { scale: name === 'line_no' ? 0 : 2 } : {}),
      })),
    }
    const header: TableDefinition = {
      kind: 'summary',
      name: 'header',
      base: level('flat', '@flat'),
      by: ['number', 'invoice_date', 'total'].map(name => ({ name, formula: name })),
      measures: [],
    }
    const definition = report(
      level('invoice', '@header', {
        fields: ['number', 'total'],
        details: [level('lines', '@flat', { on: [{ from: 'number', to: 'number' }], fields: ['line_no', 'amount', 'note'] })],
      }),
      [flat, header],
    )
    const { column, plan } = await read(definition, { codes: ['C-0001', 'C-0002'] })
    const where = "i.invoice_date <= '2026-06-30' and c.code in ('C-0001', 'C-0002')"
    expect(column(0, 'number').sort()).toEqual(
      await values(`select i.number as value from invoices i join customers c on c.id = i.customer_id where ${where} order by 1`),
    )
    expect(
      column(1, 'amount')
        .filter(value => value !== null)
        .reduce((sum: number, value) => sum + Math.round(Number(value) * 100), 0),
    ).toBe(
      Math.round(
        Number(
          (
            await values(
              `select sum(l.amount)::text as value from invoices i join customers c on c.id = i.customer_id join invoice_lines l on
                l.invoice_id = i.id where ${where}`,
            )
          )[0],
        ) * 100,
      ),
    )
    expect(new Set(column(1, 'note'))).toEqual(new Set([':asOf']))
    expect(plan.keys.authored).toBe(true)
    expect((await read(definition, { codes: null })).column(1, 'line_no').length).toBe(
      Number(
        (
          await values(
            'select count(*)::text as value from invoices i join invoice_lines l on l.invoice_id = i.id where i.invoice_date <= ' +
              "'2026-06-30'",
          )
        )[0],
      ),
    )
  })

  it('split and made flat again, the rows are the same, whatever they hold', async () => {
    const cell = fc.constantFrom('a', 'b', 'Ä', '', null)
    const rows = fc.array(
      fc.record({ k: fc.constantFrom('1', '2', '3', 'Ψ', ''), a: cell, b: cell, c: fc.option(fc.integer({ min: -300, max: 300 })) }),
      { minLength: 1, maxLength: 14 },
    )
    await db.exec('create table company.loose (k text not null, a text, b text, c numeric(10,2))')
    const names = ['k', 'a', 'b', 'c'] as const
    await fc.assert(
      fc.asyncProperty(rows, async list => {
        await db.exec('truncate company.loose')
        for (const row of list)
          await db.query('insert into company.loose values ($1, $2, $3, $4)', [
            row.k,
            row.a,
            row.b,
            row.c === null ? null : (row.c / 100).toFixed(2),
          ])
        const constant = names.filter(
          name => name !== 'k' && list.every(row => list.every(other => other.k !== row.k || other[name] === row[name])),
        )
        const flat: TableDefinition = {
          kind: 'sql',
          name: 'flat',
          key: [],
          text: 'select * from company.loose',
          columns: names.map(name =>
            name === 'c' ? { name, type: 'number', scale: 2, databaseType: 'numeric(10,2)' } : { name, type: 'text', databaseType: 'text' },
          ),
        }
        const header: TableDefinition = {
          kind: 'summary',
          name: 'header',
          base: level('flat', '@flat'),
          by: ['k', ...constant].map(name => ({ name, formula: name })),
          measures: [],
        }
        const rest = names.filter(name => name !== 'k' && !constant.includes(name))
        const { chunks } = await read(
          report(
            level('header', '@header', {
              fields: ['k', ...constant],
              details: [level('rows', '@flat', { on: [{ from: 'k', to: 'k' }], fields: [...rest] })],
            }),
            [flat, header],
          ),
          { chunk: 100_000 },
        )
        const [above, below] = chunks[0]!.levels as [DataRecords['levels'][number], DataRecords['levels'][number]]
        const of = (records: DataRecords['levels'][number], name: string, row: number) => {
          const value = valueAt(records.columns[name]!, row)
          return value !== null && typeof value === 'object' ? Math.round(Number(decimalText(value)) * 100) : value
        }
        const again = Array.from({ length: above.count }, (_, parent) =>
          Array.from({ length: below.starts[parent + 1]! - below.starts[parent]! }, (__, index) =>
            names.map(name => (rest.includes(name) ? of(below, name, below.starts[parent]! + index) : of(above, name, parent))),
          ),
        ).flat()
        const sorted = (table: unknown[][]) => table.map(row => JSON.stringify(row)).sort()
        expect(above.count).toBe(new Set(list.map(row => row.k)).size)
        expect(sorted(again)).toEqual(sorted(list.map(row => names.map(name => row[name]))))
      }),
      { numRuns: 25 },
    )
    await db.exec('drop table company.loose')
  })

  it('made from itself is refused', () => {
    const stack = (name: string, dataSet: string): TableDefinition => ({
      kind: 'stack',
      name,
      origin: 'from',
      columns: ['id'],
      parts: [{ dataSet, label: 'x', fields: { id: 'id' } }],
    })
    const circle = report(level('main', '@a'), [stack('a', 'main')])
    expect(reportModel(circle, catalog).trees[0]!.problems.map(problem => problem.sentence)[0]).toContain('is made from itself')
  })
})

it('a preview reads the first roots only, and can be counted', async () => {
  const { column, plan } = await read(
    report(level('invoice', 'invoices', { fields: ['number'], sort: [{ field: 'number', descending: true }] })),
    { limit: 20 },
  )
  expect(column(0, 'number')).toEqual(await values('select number as value from invoices order by number desc limit 20'))
  expect((await plainFetch(db)(plan.count)).columns[0]).toMatchObject({
    values: new Float64Array([Number((await values('select count(*)::text as value from invoices'))[0])]),
  })
})

it('a total of a percentage is refused', () => {
  const definition = report(level('tax', 'invoice_taxes', { fields: ['rate'] }))
  const { levels } = reportModel(
    { ...definition, dataSets: [{ ...definition.dataSets[0]!, fields: { 'tax.rate': { format: "0.0 '%'" } } }] },
    catalog,
  ).trees[0]!
  expect(() => checkFormula('sum(rate)', { levels, level: 0, parameters: {} })).toThrow('is a percentage, and percentages do not add up')
})
