import { describe, expect, it } from 'vitest'
import { demoDatabase } from '../../support'
import { columnsOfRole, tableRoles, wordsOf } from '../../../core/catalog/roles'
import { foreign } from './foreignSchemas'

/** “number=code …”: what each column of a table should be found to be. */
const told = (roles: ReadonlyMap<string, string>) => [...roles].map(([name, role]) => `${name}=${role}`).join(' ')

describe('words of a name', () => {
  it.each([
    ['dueDate', 'due date'],
    ['DUE_DATE', 'due date'],
    ['due date', 'due date'],
    ['RechnungsNr', 'rechnungs nr'],
    ['Straße', 'strasse'],
    ['Überweisungsbetrag', 'ueberweisungsbetrag'],
    ['dirección_1', 'direccion'],
    ['HTTPServer', 'http server'],
    ['Net %', 'net %'],
    ['F012', 'f'],
    ['', ''],
  ])('of “%s” are “%s”', (name, words) => expect(wordsOf(name).join(' ')).toBe(words))
})

describe('roles of columns of tables that nobody here has seen', () => {
  for (const { trade, catalog, roles } of foreign)
    it.each(Object.entries(roles))(`${trade}: %s`, (table, expected) => expect(told(tableRoles(catalog, table))).toBe(expected))
})

it('the demo: prices, rates, per cents and days are never measures; amounts and quantities are', async () => {
  const { catalog } = await demoDatabase()
  const of = (table: string, ...roles: Parameters<typeof columnsOfRole>[1][]) => columnsOfRole(tableRoles(catalog, table), ...roles)
  expect(of('invoice_lines', 'rate', 'percent')).toEqual(['unit_price', 'tax_rate'])
  expect(of('invoice_lines', 'amount', 'quantity')).toEqual(['quantity', 'amount'])
  expect(of('invoice_taxes', 'percent')).toEqual(['rate'])
  expect(of('invoices', 'rate')).toEqual(['rate'])
  expect(of('invoices', 'amount')).toEqual(['lines_total', 'freight', 'discount', 'tax_total', 'total', 'base_total'])
  expect(of('items', 'rate')).toEqual(['price', 'net_weight', 'cost'])
  expect(of('stock_levels', 'quantity')).toEqual(['on_hand', 'reserved', 'on_order', 'reorder_point', 'order_up_to'])
  expect(of('journal_lines', 'amount')).toEqual(['debit', 'credit'])
  expect(of('goods_receipt_lines', 'amount')).toEqual(['base_amount', 'stock_amount'])
  // parts of a key of two columns are keys, whatever they are called
  expect(of('supplier_bill_lines', 'position')).toEqual(['line_no'])
})

describe('numbers that name something are never measures, whatever stands before their last word', () => {
  const role = (name: string, scale: number) =>
    tableRoles(
      {
        tables: [
          {
            schema: '',
            name: 'sheet',
            primaryKey: [],
            rowEstimate: 0,
            columns: [
              { name: 'other', type: 'text', databaseType: 'text', required: false },
              { name, type: 'number', databaseType: 'numeric', scale, required: false },
            ],
          },
        ],
        foreignKeys: [],
      },
      'sheet',
    ).get(name)
  it.each([
    'tax_number',
    'credit_note_no',
    'debit_account',
    'discount_code',
    'salesOrderNo',
    'numero_factura',
    'codigo_impuesto',
    'BELEG_NR',
  ])('%s', name => expect(['number', 'code']).toContain(role(name, 0)))
  it.each([
    ['sales_year', 'period', 0],
    ['sales_last_year', 'amount', 2],
    ['budget_month', 'amount', 2],
    ['stock_level', 'quantity', 0],
    ['quantity_on_order', 'quantity', 3],
    ['sort_order', 'position', 0],
    ['line_no', 'position', 0],
    ['purchase_order', 'number', 0],
    ['no_of_guests', 'quantity', 0],
    ['balance', 'amount', 2],
    ['unit_price', 'rate', 4],
    ['vat_rate', 'percent', 2],
  ] as const)('%s is %s', (name, expected, scale) => expect(role(name, scale)).toBe(expected))
})

it('what a column holds decides where its name says nothing', async () => {
  const [{ catalog }] = foreign.slice(-1) as [(typeof foreign)[number]]
  const look = (more: object) => ({ rows: 100, empty: 0, distinct: 100, longest: 'x', ...more })
  const table = {
    ...catalog.tables[0]!,
    name: 'dump',
    columns: ['a', 'b', 'c', 'd'].map(name => ({ name, type: 'text' as const, databaseType: 'text', required: false })),
  }
  const roles = tableRoles(
    { tables: [table], foreignKeys: [] },
    'dump',
    new Map([
      ['a', look({ longest: 'PX-0001', coded: true })],
      ['b', look({ longest: 'waiting', distinct: 4, coded: false })],
      ['c', look({ longest: 'w'.repeat(180), coded: false })],
      ['d', look({ longest: 'Rope, 8 mm', coded: false })],
    ]),
  )
  expect(told(roles)).toBe('a=code b=status c=note d=text')
})
