import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import { salesInvoice } from '../../../demo/reports/invoice'
import { readCatalog } from '../../../server/sources/embedded/introspect'
import { demoDatabase, plainFetch } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import { relationsOf } from '../../../core/catalog/relations'
import { addDetail, addRelated, setFilter, tickField } from '../../../core/definition/edits/levels'
import type { ReportDefinition } from '../../../core/definition/report'
import { checkFormula } from '../../../core/formula/check'
import { compileFormula } from '../../../core/formula/evaluate'
import { compareText } from '../../../core/value/text'
import { type Decimal, decimalText, round } from '../../../core/value/decimal'
import { parseDay } from '../../../core/value/date'
import { levelTree, tickedFields } from '../../../core/model/levels'
import { planDataSet } from '../../../core/sql/plan'
import { PlanError } from '../../../core/sql/query'
import { readRecords } from '../../../core/read/read'
import { appendColumn, columnOf, valueAt } from '../../../core/value/columns'
import type { DataRecords } from '../../../core/value/records'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})

const month = parseDay('2026-09-01')!
async function read(report: ReportDefinition, options: { chunk?: number; limit?: number; customer?: string } = {}) {
  const { levels, problems } = levelTree(report.dataSets[0]!, catalog)
  expect(problems).toEqual([])
  const plan = planDataSet({
    levels,
    catalog,
    schema: 'company',
    used: levels.map(level => new Set(tickedFields(level.definition))),
    parameterTypes: { month: 'date', customer: 'text' },
    parameters: { month, customer: options.customer ?? null },
    today: month,
  })
  const chunks: DataRecords[] = []
  for await (const chunk of readRecords(plan, plainFetch(db), {
    chunk: options.chunk ?? 7,
    ...(options.limit ? { limit: options.limit } : {}),
  }))
    chunks.push(chunk.records)
  return { levels, chunks, plan }
}
const texts = (chunks: DataRecords[], level: number, path: string) =>
  chunks.flatMap(chunk =>
    Array.from({ length: chunk.levels[level]!.count }, (_, row) => {
      const value = valueAt(chunk.levels[level]!.columns[path]!, row)
      return value === null ? null : typeof value === 'object' ? decimalText(value) : value
    }),
  )
const where = "i.invoice_date between '2026-09-01' and '2026-09-30' and i.kind = 'invoice'"
const one = async (sql: string) => (await db.query<{ value: string }>(sql)).rows[0]!.value

describe('levels', () => {
  it('gives the same records as SQL, whatever the size of the chunks', async () => {
    const expected = (
      await db.query<{ number: string; description: string; amount: string | null; category: string | null }>(`
      select i.number, l.description, l.amount, c.name as category from invoices i join invoice_lines l on l.invoice_id = i.id
      left join items t on t.id = l.item_id left join item_categories c on c.id = t.category_id where ${where} order by i.number,
      l.line_no`)
    ).rows
    for (const chunk of [1, 10, 1000]) {
      const { chunks } = await read(salesInvoice(), { chunk })
      expect(texts(chunks, 1, 'amount')).toEqual(expected.map(row => row.amount))
      expect(texts(chunks, 1, 'description')).toEqual(expected.map(row => row.description))
      expect(texts(chunks, 1, 'item.category.name')).toEqual(expected.map(row => row.category))
      const parents = chunks.flatMap(({ levels }) =>
        Array.from({ length: levels[0]!.count }, (_, row) => {
          const count = levels[1]!.starts[row + 1]! - levels[1]!.starts[row]!
          return Array<unknown>(count).fill(valueAt(levels[0]!.columns.number!, row))
        }).flat(),
      )
      expect(parents).toEqual(expected.map(row => row.number))
    }
  })

  it('never multiply rows: a header amount is counted once, whatever is joined', async () => {
    const total = await one(`select sum(i.freight)::text as value from invoices i where ${where}`)
    const lines = await one(
      `select sum(l.amount)::text as value from invoices i join invoice_lines l on l.invoice_id = i.id where ${where}`,
    )
    const joins = relationsOf(catalog, 'invoices')
    await fc.assert(
      fc.asyncProperty(fc.subarray(joins), fc.integer({ min: 1, max: 200 }), async (chosen, chunk) => {
        let report = salesInvoice()
        for (const relation of chosen) {
          report =
            relation.direction === 'detail'
              ? addDetail(report, 'invoice', {
                  name: relation.name,
                  caption: relation.name,
                  table: relation.table,
                  on: relation.on,
                  fields: [],
                })
              : addRelated(report, 'invoice', '', { name: relation.name, table: relation.table, on: relation.on, fields: [] })
        }
        const { levels, chunks } = await read(report, { chunk })
        const sumOver = (formula: string, level: number) => {
          const typed = checkFormula(formula, { levels, level, parameters: {} })
          return (
            chunks
              .map(
                data =>
                  compileFormula(typed, { levels, data, parameters: {}, today: 0 })({
                    level,
                    from: 0,
                    to: data.levels[level]!.count,
                  }) as Decimal,
              )
              .map(value => Number(decimalText(value)) * 100)
              .reduce((sum, value) => Math.round(sum + value), 0) / 100
          )
        }
        expect(sumOver('sum(freight)', 0).toFixed(2)).toBe(total)
        expect(sumOver('sum(lines.amount)', 0).toFixed(2)).toBe(lines)
        // standing on the lines, each invoice that has a line is still counted once
        expect(sumOver('sum(invoice.freight)', 1).toFixed(2)).toBe(total)
        // a sibling branch goes by way of the invoice
        expect(
          sumOver(
            'sum(lines.amount)',
            levels.findIndex(level => level.name === 'taxes'),
          ).toFixed(2),
        ).toBe(lines)
      }),
      { numRuns: 12 },
    )
  })

  it('reads only wanted columns and joins only what they need', async () => {
    let report = salesInvoice()
    report = {
      ...report,
      dataSets: [
        {
          ...report.dataSets[0]!,
          root: {
            ...report.dataSets[0]!.root,
            fields: ['number'],
            related: report.dataSets[0]!.root.related.map(each => ({ ...each, fields: [], related: [] })),
            details: [],
            filters: [],
          },
        },
      ],
    }
    const { plan } = await read(report, { limit: 3 })
    expect(plan.records(0, [[1]]).text).toBe(
      'select "level"."id", "level"."number" from "company"."invoices" as "level" where "level"."id" = any($1::integer[])',
    )
  })

  it('takes away clauses whose parameter is empty, and binds the others', async () => {
    const code = await one(`select c.code as value from invoices i join customers c on c.id = i.customer_id where ${where} limit 1`)
    const { chunks } = await read(salesInvoice(), { customer: code })
    const expected = await one(
      `select count(*)::text as value from invoices i join customers c on c.id = i.customer_id where ${where} and c.code = '${code}'`,
    )
    expect(String(texts(chunks, 0, 'number').length)).toBe(expected)
    const evil = await read(salesInvoice(), { customer: "'; drop table company.invoices; --" })
    expect(texts(evil.chunks, 0, 'number')).toEqual([])
  })

  it('sorts by the root collation in the core, the same on every machine', async () => {
    let report = salesInvoice()
    const root = report.dataSets[0]!.root
    report = { ...report, dataSets: [{ ...report.dataSets[0]!, root: { ...root, sort: [{ field: 'customer.name', descending: true }] } }] }
    const names = texts((await read(report, { chunk: 1000 })).chunks, 0, 'customer.name') as string[]
    expect(names).toEqual([...names].sort((a, b) => compareText(b, a)))
    expect(new Set(names).size).toBeGreaterThan(20)
  })

  it('speaks in a sentence of a table or column that is gone, and of a filter that cannot be used', async () => {
    const without: Catalog = {
      ...catalog,
      tables: catalog.tables
        .filter(table => table.name !== 'towns')
        .map(table =>
          table.name === 'invoices' ? { ...table, columns: table.columns.filter(column => column.name !== 'freight') } : table,
        ),
    }
    const { problems } = levelTree(salesInvoice().dataSets[0]!, without)
    expect(problems.map(problem => problem.sentence)).toContain(
      'The table “towns” of “customer.town” is not in the source any more; restore it or take “customer.town” out of level “Invoice”.',
    )
    expect(problems.map(problem => problem.sentence)).toContain(
      'The column “freight” of table “invoices” is not in the source any more; level “Invoice” needs it.',
    )
    await expect(read(setFilter(salesInvoice(), 'invoice', 3, 'totl > 5'))).rejects.toThrow(
      new PlanError('The filter “totl > 5” of level “Invoice” cannot be used: There is no field “totl” here; the nearest is “total”.'),
    )
    await expect(read(setFilter(salesInvoice(), 'invoice', 3, 'total + 1'))).rejects.toThrow('is not a test')
  })

  it('keys of text with any character, and keys of several columns, find their records', async () => {
    await db.exec(`create table company.odd (code text, part date, note text, primary key (code, part));
      create table company.odd_lines (code text, part date, line_no integer, amount numeric(10,2), primary key (code, part,
      line_no), foreign key (code, part) references company.odd)`)
    const codes = ['plain', 'with "quotes"', 'back\\slash', 'comma, {brace}', 'NULL', '', ' Ψ', "'; --"]
    for (const code of codes) {
      await db.query("insert into company.odd values ($1, '2026-01-01', null), ($1, '2026-02-01', $1)", [code])
      await db.query("insert into company.odd_lines values ($1, '2026-02-01', 1, 1.25), ($1, '2026-02-01', 2, 2)", [code])
    }
    const odd = await readCatalog(db, 'company')
    const level = { on: [], related: [], details: [], filters: [], sort: [] }
    const on = [
      { from: 'code', to: 'code' },
      { from: 'part', to: 'part' },
    ]
    const root = {
      ...level,
      name: 'odd',
      table: 'odd',
      fields: ['code', 'part', 'note'],
      details: [{ ...level, name: 'lines', table: 'odd_lines', on, fields: ['code', 'amount'] }],
    }
    const { levels } = levelTree({ name: 'x', source: 'x', fields: {}, root }, odd)
    const plan = planDataSet({
      levels,
      catalog: odd,
      schema: 'company',
      used: levels.map(each => new Set(each.definition.fields)),
      parameterTypes: {},
      parameters: {},
      today: 0,
    })
    const chunks: DataRecords[] = []
    for await (const chunk of readRecords(plan, plainFetch(db), { chunk: 3 })) chunks.push(chunk.records)
    expect(texts(chunks, 0, 'code')).toEqual([...codes].sort(compareText).flatMap(code => [code, code]))
    expect(texts(chunks, 1, 'code')).toEqual([...codes].sort(compareText).flatMap(code => [code, code]))
    expect(
      chunks.flatMap(({ levels: [, lines] }) =>
        Array.from({ length: lines!.starts.length - 1 }, (_, row) => lines!.starts[row + 1]! - lines!.starts[row]!),
      ),
    ).toEqual(codes.flatMap(() => [0, 2]))
    await db.exec('drop table company.odd_lines, company.odd')
  })

  it('refuses a related record that may be found more than once', () => {
    const report = addRelated(salesInvoice(), 'invoice', '', {
      name: 'namesake',
      table: 'customers',
      on: [{ from: 'note', to: 'name' }],
      fields: [],
    })
    expect(levelTree(report.dataSets[0]!, catalog).problems.map(problem => problem.sentence)).toEqual([
      '“namesake” of level “Invoice” may find several records of “customers”, since name is no key of it; join it by a key, or say ' +
        'which one to pick.',
    ])
  })

  it('unticking takes a column out of the rows', async () => {
    const { chunks } = await read(tickField(salesInvoice(), 'lines', 'item', 'code', false), { limit: 1 })
    expect(chunks[0]!.levels[1]!.columns).not.toHaveProperty(['item.code'])
  })
})

it('columns put one after the other keep every value', () => {
  const decimals = fc.array(
    fc.option(
      fc.record({
        units: fc.oneof(fc.maxSafeInteger(), fc.bigInt({ min: 10n ** 16n, max: 10n ** 25n })),
        scale: fc.integer({ min: 0, max: 6 }),
      }),
    ),
    { maxLength: 8 },
  )
  fc.assert(
    fc.property(decimals, decimals, (a, b) => {
      const joined = appendColumn(columnOf('number', a), columnOf('number', b))
      const plain = (value: unknown) =>
        value === null ? null : decimalText(round(value as Decimal, 6)).replace(/\.?0+$/, match => (match.startsWith('.') ? '' : match))
      const expected = [...a, ...b].map(plain).map(text => (text?.includes('.') ? text.replace(/\.?0+$/, '') : text))
      expect(
        expected.map((_, row) => plain(valueAt(joined, row))).map(text => (text?.includes('.') ? text.replace(/\.?0+$/, '') : text)),
      ).toEqual(expected)
    }),
  )
})
