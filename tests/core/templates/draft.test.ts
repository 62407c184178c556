import { describe, expect, it } from 'vitest'
import { composeReport } from '../../pages'
import { demoDatabase } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import { assembleReport } from '../../../core/compose/assemble'
import { bodyWidth } from '../../../core/compose/paperSize'
import { isPanel } from '../../../core/definition/blocks/panel'
import { isRepeat } from '../../../core/definition/blocks/block'
import { isTable, type TableBlock } from '../../../core/definition/blocks/table'
import type { LayoutDefinition, ReportDefinition } from '../../../core/definition/report'
import { readDefinition } from '../../../core/definition/schema'
import { blocksOf } from '../../../core/definition/walk'
import { listOfTable, usualFields } from '../../../core/templates/draft'
import { DraftError } from '../../../core/templates/drafts/data'
import { draftKinds } from '../../../core/templates/drafts/layout'
import { draftReport } from '../../../core/templates/drafts/report'
import { Tables } from '../../../core/templates/drafts/tables'
import { foreign } from '../catalog/foreignSchemas'

/** All texts of a layout, of panels and tables. */
const textsOf = (layout: LayoutDefinition): string[] =>
  blocksOf(layout).flatMap(block =>
    isPanel(block)
      ? block.items.flatMap(item => (item.kind === 'text' ? [item.text] : []))
      : isTable(block)
        ? block.rows.flatMap(row => Object.values(row.cells).map(cell => cell.text))
        : isRepeat(block)
          ? [block.outline ?? '']
          : [],
  )
const tablesOf = (layout: LayoutDefinition) => blocksOf(layout).filter((block): block is TableBlock => isTable(block))
const faultsOf = (report: ReportDefinition, catalog: Catalog) => {
  const { tree, layout } = assembleReport(readDefinition(report), catalog)
  return [...tree.problems, ...layout.problems]
}

it('every table of a source gives a list that can be stored and printed', async () => {
  const { catalog } = await demoDatabase()
  for (const table of catalog.tables) {
    const definition = listOfTable(catalog, table.name, 'caisvelho', 'A list')
    expect(faultsOf(definition, catalog), table.name).toEqual([])
    for (const field of usualFields(catalog, table.name)) expect(table.columns.map(column => column.name)).toContain(field)
  }
  expect(usualFields(catalog, 'customers')).toEqual(['code', 'name'])
  // a name with other signs is written so that it is read as one
  const odd = {
    tables: [
      {
        schema: '',
        name: 'odd table',
        primaryKey: [],
        rowEstimate: 0,
        columns: [{ name: 'Net amount %', type: 'number' as const, databaseType: 'numeric', required: false }],
      },
    ],
    foreignKeys: [],
  }
  expect(faultsOf(listOfTable(odd, 'odd table', 'x', 'Odd'), odd)).toEqual([])
})

it('every draft of every table of the demo can be stored, has no problem, and nothing of it lies beside the page', async () => {
  const { catalog } = await demoDatabase()
  const tables = new Tables(catalog)
  for (const table of catalog.tables)
    for (const kind of draftKinds) {
      const { definition } = draftReport(tables, { table: table.name, source: 'caisvelho', kind })
      const name = `${kind} of ${table.name}`
      expect(faultsOf(definition, catalog), name).toEqual([])
      const [layout] = definition.layouts as [LayoutDefinition]
      const room = bodyWidth(layout.page)
      for (const block of [...blocksOf(layout)]) {
        if (isTable(block)) {
          const fixed = block.columns.reduce((sum, column) => sum + column.width, 0)
          expect(fixed, `${name}: ${block.id}`).toBeLessThanOrEqual(room + 0.01)
          expect(block.left + block.width).toBeLessThanOrEqual(room + 0.01)
        }
        if (isPanel(block))
          for (const item of block.items) expect(item.x + item.width, `${name}: ${item.id}`).toBeLessThanOrEqual(room + 0.01)
      }
    }
})

describe('a draft of a document', () => {
  for (const { trade, catalog, document } of foreign) {
    if (!document) continue
    it(`${trade}: shows whom, what and how much; totals amounts alone; shows no key`, () => {
      const { definition, kind } = draftReport(new Tables(catalog), { table: document.table, source: 'x' })
      expect(kind).toBe('document')
      expect(faultsOf(definition, catalog)).toEqual([])
      const [layout] = definition.layouts as [LayoutDefinition]
      const texts = textsOf(layout)
      const has = (path: string) =>
        texts.some(text => new RegExp(`\\{\\{ (?:[a-z_0-9]+\\.)*${path.replaceAll('.', '\\.')} `, 'i').test(text))
      expect(texts.some(text => text.includes(`{{ ${document.title} }}`) && !text.startsWith('{{'))).toBe(true)
      for (const path of document.shows) expect([path, has(path.split('.').slice(-1)[0]!)]).toEqual([path, true])
      for (const path of document.never) expect([path, has(path)]).toEqual([path, false])
      // what it comes to stands in the order that leads to what is due
      const totals = blocksOf(layout).find(block => block.id === 'totals')
      const values = isPanel(totals)
        ? totals.items.flatMap(item => (item.kind === 'text' && item.text.startsWith('{{') ? [item.text] : []))
        : []
      expect(values).toEqual(document.totals.map(path => `{{ ${path} }}`))
      const sums = tablesOf(layout).flatMap(table =>
        table.rows.flatMap(row => (row.kind === 'end' ? Object.values(row.cells).map(cell => cell.text) : [])),
      )
      expect(sums.filter(text => /price|preis|precio|PRICE|PCT|rate|iva/.test(text))).toEqual([])
    })
  }

  it('the demo’s invoices: customer with address, lines, taxes, total due with its currency; no price is totalled', async () => {
    const { db, catalog } = await demoDatabase()
    const { definition } = draftReport(new Tables(catalog), { table: 'invoices', source: 'caisvelho' })
    const [{ number }] = (
      await db.query<{ number: string }>(
        "select number from invoices where kind = 'invoice' and currency_code <> 'EUR' order by id limit 1",
      )
    ).rows as [{ number: string }]
    const one = {
      ...definition,
      dataSets: definition.dataSets.map(set => ({ ...set, root: { ...set.root, filters: [`number = "${number}"`] } })),
    }
    const { pages } = await composeReport(db, catalog, one, {})
    const printed = pages.flatMap(page => page.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])))
    const [row] = (
      await db.query<Record<string, string>>(
        `select i.number, c.name, c.address, t.name as town, t.postcode, to_char(i.total, 'FM999,999,990.00') as total, i.currency_code,
          (select string_agg(to_char(amount, 'FM999,999,990.00'), '|' order by line_no)
            from invoice_lines l where l.invoice_id = i.id) as amounts,
          (select string_agg(distinct trim_scale(rate) || ' %', '|') from invoice_taxes x where x.invoice_id = i.id) as rates
        from invoices i join customers c on c.id = i.customer_id join towns t on t.id = c.town_id where i.number = $1`,
        [number],
      )
    ).rows
    for (const text of [row!.name, row!.address, `${row!.postcode} ${row!.town}`, row!.total]) expect(printed).toContain(text)
    for (const amount of row!.amounts!.split('|')) expect(printed.map(text => text.replace('−', '-'))).toContain(amount)
    for (const rate of row!.rates!.split('|')) expect(printed.some(text => text === rate || text === rate.replace(' %', '.00'))).toBe(true)
    expect(printed.some(text => text.startsWith('Total') && text.includes(row!.currency_code!))).toBe(true)
    expect(textsOf(definition.layouts[0]!).filter(text => /sum\((unit_price|rate)\)/.test(text))).toEqual([])
  })

  it('joins only what was asked for, and says what cannot be joined', async () => {
    const { catalog } = await demoDatabase()
    const tables = new Tables(catalog)
    const { definition } = draftReport(tables, {
      table: 'invoices',
      source: 'caisvelho',
      joins: [
        { level: 'invoice', table: 'customers' },
        { level: 'invoice', table: 'invoice_lines' },
        { level: 'lines', table: 'items' },
      ],
    })
    const [{ root }] = definition.dataSets as [ReportDefinition['dataSets'][0]]
    expect([root.related.map(each => each.name), root.details.map(each => [each.name, each.related.map(own => own.name)])]).toEqual([
      ['customer'],
      [['lines', ['item']]],
    ])
    expect(() => draftReport(tables, { table: 'invoices', source: 'caisvelho', joins: [{ level: 'invoice', table: 'items' }] })).toThrow(
      DraftError,
    )
  })
})

describe('a draft of a list', () => {
  const drafted = async (table: string) => {
    const { catalog } = await demoDatabase()
    const { definition } = draftReport(new Tables(catalog), { table, source: 'caisvelho', kind: 'groups' })
    const [layout] = definition.layouts as [LayoutDefinition]
    const [list] = tablesOf(layout)
    const texts = (kind: string) => list!.rows.flatMap(row => (row.kind === kind ? Object.values(row.cells).map(cell => cell.text) : []))
    return { list: list!, line: texts('line'), end: texts('end'), groups: list!.groups.map(group => group.by) }
  }
  it('of prices: by category, code and name, unit and price; nothing is added up, and what things cost us is not told', async () => {
    const { line, end, groups } = await drafted('items')
    expect(groups).toEqual(['category.name'])
    expect(line).toEqual(expect.arrayContaining(['{{ code }}', '{{ name }}', '{{ unit_code }}', '{{ price }}']))
    expect([line.includes('{{ cost }}'), end]).toEqual([false, []])
  })
  it('of stock: by warehouse, with items and their units; quantities of several units are not added up', async () => {
    const { line, end, groups } = await drafted('stock_levels')
    expect(groups).toEqual(['warehouse.name'])
    expect(line).toEqual(
      expect.arrayContaining(['{{ item.code }}', '{{ item.name }}', '{{ item.unit_code }}', '{{ on_hand }}', '{{ reserved }}']),
    )
    expect(end).toEqual([])
  })
  it('of a ledger: by account in the order of its code, with a running balance', async () => {
    const { line, end, groups, list } = await drafted('journal_lines')
    expect([groups, list.groups[0]!.order]).toEqual([['account.name'], { by: 'total', total: 'min(account_code)', descending: false }])
    expect(line).toEqual(expect.arrayContaining(['{{ journal.number }}', '{{ journal.posting_date }}', '{{ debit }}', '{{ credit }}']))
    expect(line.some(text => text.includes('running(debit - credit)'))).toBe(true)
    expect(end.filter(text => text.startsWith('{{')).sort()).toEqual(['{{ sum(credit) }}', '{{ sum(debit) }}'])
  })
  it('of receipts: by customer, amounts by their currency', async () => {
    const { line, end, groups } = await drafted('receipts')
    expect(groups).toEqual(['customer.name'])
    expect(line).toEqual(expect.arrayContaining(['{{ number }}', '{{ receipt_date }}', '{{ currency_code }}', '{{ amount }}']))
    expect(end).toEqual(expect.arrayContaining(['{{ sum(amount) }}', '{{ sum(base_amount) }}']))
    expect(end).not.toContain('{{ sum(rate) }}')
  })
})
