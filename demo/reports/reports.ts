import { spokenStatement } from './spoken'
import { readyNames } from '../../core/templates/statements'
import { budgetSteps, statement } from './statements'
import type { ParameterDefinition } from '../../core/definition/parameters'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import { plainTable } from '../../core/definition/upgrade'
import { customerAgeing, paymentsDue, supplierAgeing } from './ageing'
import { notBilled, openOrderLines, priceComparison, purchaseOrder, reorderList, requestsList, spendBySupplier } from './buying'
import { compactLayout, compactTranslations } from './compact'
import { toldByLaw } from './einvoice'
import { itemProfit, salesCharts, salesGrid } from './grids'
import { grouped, priceList, salespersonSheets, topCustomers } from './lists'
import { customerSheets, salespersonRegisters } from './nested'
import { by, column, end, level, page, related, salesInvoice, soft, text } from './invoice'

const place = related(
  'customer',
  'customers',
  'customer_id',
  'id',
  ['code', 'name'],
  [related('town', 'towns', 'town_id', 'id', ['name'], [related('region', 'regions', 'region_id', 'id', ['name'])])],
)

/** A region narrows its towns, and they their customers. */
const where: ParameterDefinition[] = [
  {
    name: 'region',
    label: 'Region',
    kind: 'choice',
    required: false,
    choices: { table: 'regions', value: 'id', label: 'name', type: 'number' },
  },
  {
    name: 'town',
    label: 'Town',
    kind: 'choices',
    required: false,
    choices: { table: 'towns', value: 'id', label: 'name', narrowedBy: [{ parameter: 'region', column: 'region_id' }] },
  },
  {
    name: 'customer',
    label: 'Customer',
    kind: 'choices',
    required: false,
    help: 'Leave empty for all customers.',
    choices: {
      table: '@customers',
      value: 'code',
      label: 'name',
      narrowedBy: [
        { parameter: 'region', column: 'town_region_id' },
        { parameter: 'town', column: 'town_id' },
      ],
    },
  },
]
const wherePlaced = ['customer.town.region_id = param.region', 'customer.town_id in (param.town)', 'customer.code in (param.customer)']
const customers = {
  name: 'customers',
  source: 'caisvelho',
  fields: {},
  root: level('buyer', 'customers', {
    caption: 'Customer',
    fields: ['code', 'name', 'town_id'],
    related: [related('town', 'towns', 'town_id', 'id', ['region_id'])],
  }),
}
const period: ParameterDefinition = { name: 'period', label: 'Period', kind: 'period', required: true, default: 'period(today())' }

/** All invoices of a period with their tax and what is open at its end. */
export function invoiceRegister(): ReportDefinition {
  return grouped({
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      period,
      ...where,
      {
        name: 'salesperson',
        label: 'Salesperson',
        kind: 'choices',
        required: false,
        choices: { table: 'salespeople', value: 'id', label: 'name' },
      },
    ],
    handsOut: [
      { name: 'invoiced', formula: 'sum(base_total)' },
      { name: 'open', formula: 'sum(base_open)' },
      { name: 'documents', formula: 'count(invoice)' },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'invoice.number': { caption: 'Number' }, 'invoice.invoice_date': { caption: 'Date' } },
        root: level('invoice', 'invoices', {
          caption: 'Invoice',
          fields: ['number', 'kind', 'invoice_date', 'currency_code', 'lines_total', 'tax_total', 'total'],
          related: [
            place,
            related('branch', 'branches', 'branch_id', 'id', ['name']),
            related('salesperson', 'salespeople', 'salesperson_id', 'id', ['name']),
          ],
          filters: [
            'invoice_date between periodStart(param.period) and periodEnd(param.period)',
            ...wherePlaced,
            'salesperson_id in (param.salesperson)',
          ],
          sort: [by('invoice_date'), by('number')],
          totals: [
            {
              name: 'settled',
              table: 'applications',
              on: [{ from: 'id', to: 'invoice_id' }],
              total: 'sum',
              value: 'amount',
              filters: ['applied_on <= periodEnd(param.period)'],
            },
            {
              name: 'used',
              table: 'applications',
              on: [{ from: 'id', to: 'credit_note_id' }],
              total: 'sum',
              value: 'amount',
              filters: ['applied_on <= periodEnd(param.period)'],
            },
          ],
          calculated: [
            { name: 'open', formula: 'total - settled + used' },
            { name: 'base_open', formula: 'round(open * rate, 2)' },
          ],
        }),
      },
      customers,
    ],
    layouts: page(
      [
        plainTable('register', 'invoice', [
          column('number', 'Number', '{{ number }}', 62, end('Company currency')),
          column('date', 'Date', '{{ invoice_date }}', 64),
          column('customer', 'Customer', '{{ customer.name }}', 0),
          column('town', 'Town', '{{ customer.town.name }}', 84),
          column('currency', '', '{{ currency_code }}', 30),
          column('tax', 'Tax', '{{ tax_total }}', 70, { style: { align: 'right' } }),
          column('total', 'Total', '{{ total }}', 78, { style: { align: 'right' } }),
          column('open', 'Open', '{{ open }}', 78, { style: { align: 'right' } }),
          column('base', 'Open, EUR', '{{ base_open }}', 78, { style: { align: 'right' }, ...end('{{ sum(base_open) }}') }),
        ]),
      ],
      'landscape',
      'Invoice register',
      '{{ param.period }} · region {{ param.region }} · town {{ param.town }} · customer {{ param.customer }}',
    ),
  })
}

/** Credit notes are documents like invoices, with amounts that go the other way. */
export function creditNote(): ReportDefinition {
  const invoice = salesInvoice()
  const [main] = invoice.dataSets
  return {
    ...invoice,
    dataSets: [
      {
        ...main!,
        root: {
          ...main!.root,
          filters: main!.root.filters.map(filter => (filter === 'kind = "invoice"' ? 'kind = "credit note"' : filter)),
        },
      },
    ],
  }
}

/** All that went to and fro with one customer: invoices, receipts and credit notes with the balance after each. */
export function customerMovements(): ReportDefinition {
  const documents = (name: string, kind: string) => ({
    name,
    source: 'caisvelho',
    fields: {},
    root: level(name, 'invoices', { fields: ['number', 'invoice_date', 'total'], filters: [`kind = "${kind}"`] }),
  })
  const document = { customer_id: 'customer_id', number: 'number', day: 'invoice_date', amount: 'total', due: 'due_date' }
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      {
        name: 'customer',
        label: 'Customer',
        kind: 'choice',
        required: true,
        default: '"C-0001"',
        choices: { table: 'customers', value: 'code', label: 'name' },
      },
      {
        name: 'dates',
        label: 'Dates',
        kind: 'dates',
        required: true,
        default: 'addDays(addMonths(today(), -12), 1)',
        defaultTo: 'today()',
      },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'movements.day': { caption: 'Date' }, 'movements.amount': { format: '#,##0.00' } },
        root: level('customer', 'customers', {
          caption: 'Customer',
          fields: ['code', 'name', 'currency_code'],
          filters: ['code = param.customer'],
          related: [related('town', 'towns', 'town_id', 'id', ['name'])],
          totals: [
            {
              name: 'brought',
              table: '@movements',
              on: [{ from: 'id', to: 'customer_id' }],
              total: 'sum',
              value: 'amount',
              filters: ['day < param.dates.from'],
            },
          ],
          details: [
            level('movements', '@movements', {
              caption: 'Movements',
              on: [{ from: 'id', to: 'customer_id' }],
              fields: ['kind', 'number', 'day', 'due', 'amount'],
              filters: ['day between param.dates.from and param.dates.to'],
              sort: [by('day'), by('number')],
            }),
          ],
        }),
      },
      documents('bills', 'invoice'),
      documents('credits', 'credit note'),
      {
        name: 'money',
        source: 'caisvelho',
        fields: {},
        root: level('receipt', 'receipts', { fields: ['number', 'receipt_date', 'amount'] }),
      },
    ],
    tables: [
      {
        kind: 'stack',
        name: 'movements',
        origin: 'kind',
        columns: ['customer_id', 'number', 'day', 'amount', 'due'],
        parts: [
          { dataSet: 'bills', label: 'Invoice', fields: document },
          { dataSet: 'credits', label: 'Credit note', fields: document },
          {
            dataSet: 'money',
            label: 'Receipt',
            fields: { customer_id: 'customer_id', number: 'number', day: 'receipt_date', amount: '-amount' },
          },
        ],
      },
    ],
    layouts: page(
      [
        {
          kind: 'repeat',
          id: 'customers',
          level: 'customer',
          newPage: true,
          restartNumbers: true,
          outline: '{{ code }}  {{ name }}',
          after: 0,
          blocks: [
            {
              kind: 'panel',
              id: 'heading',
              height: 52,
              after: 12,
              items: [
                text('name', 0, 0, 300, '{{ name }}', { bold: true, size: 11 }),
                text('address', 0, 16, 300, '{{ address }}\n{{ town.postcode }} {{ town.name }}'),
                text('broughtLabel', 240, 30, 180, 'Balance brought forward, {{ currency_code }}', { align: 'right', colour: soft }),
                text('brought', 425, 30, 80.28, '{{ brought }}', { align: 'right', bold: true }),
              ],
            },
            plainTable('movements', 'movements', [
              column('day', 'Date', '{{ day }}', 74),
              column('kind', '', '{{ kind }}', 74),
              column('number', 'Number', '{{ number }}', 0, end('Balance')),
              column('due', 'Due', '{{ due }}', 74),
              column('amount', 'Amount', '{{ amount }}', 84, { style: { align: 'right' } }),
              column('balance', 'Balance', '{{ customer.brought + running(amount) | #,##0.00 }}', 84, {
                style: { align: 'right' },
                ...end('{{ customer.brought + sum(amount) | #,##0.00 }}'),
              }),
            ]),
          ],
        },
      ],
      'portrait',
      'Statement lines',
      '{{ param.customer }} · {{ param.dates }}',
    ),
  }
}

/** What was sold of each item, what it cost, and what is left of it in per cent. */
export function itemSales(): ReportDefinition {
  const amount = { style: { align: 'right' as const } }
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      { name: 'dates', label: 'Dates', kind: 'dates', required: true, default: 'monthStart(today())', defaultTo: 'today()' },
      {
        name: 'category',
        label: 'Category',
        kind: 'choices',
        required: false,
        choices: { table: 'item_categories', value: 'id', label: 'name' },
      },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {
          'item.margin': { format: '0.0' },
          'item.quantity': { format: '#,##0.0##' },
          'item.sales': { format: '#,##0.00' },
          'item.profit': { format: '#,##0.00' },
        },
        root: level('item', '@items_sold', {
          caption: 'Item',
          fields: ['code', 'name', 'category', 'quantity', 'sales', 'profit', 'margin'],
          sort: [by('sales', true), by('code')],
        }),
      },
    ],
    tables: [
      {
        kind: 'summary',
        name: 'items_sold',
        base: level('line', 'invoice_lines', {
          filters: [
            'kind = "item"',
            'invoice.invoice_date between param.dates.from and param.dates.to',
            'item.category_id in (param.category)',
          ],
          related: [
            related('invoice', 'invoices', 'invoice_id', 'id', ['number']),
            related('item', 'items', 'item_id', 'id', ['code'], [related('category', 'item_categories', 'category_id', 'id', ['name'])]),
          ],
        }),
        by: [
          { name: 'code', formula: 'item.code' },
          { name: 'name', formula: 'item.name' },
          { name: 'category', formula: 'item.category.name' },
        ],
        measures: [
          { name: 'quantity', formula: 'sum(quantity)' },
          { name: 'sales', formula: 'sum(round(amount * invoice.rate, 2))' },
          { name: 'profit', formula: 'sum(round(amount * invoice.rate, 2) - round(quantity * item.cost, 2))' },
          { name: 'margin', formula: 'profit / sales * 100' },
        ],
      },
    ],
    layouts: page(
      [
        plainTable('items', 'item', [
          column('code', 'Item', '{{ code }}', 56, end('All items')),
          column('name', 'Description', '{{ name }}', 0),
          column('category', 'Category', '{{ category }}', 92),
          column('quantity', 'Quantity', '{{ quantity }}', 58, amount),
          column('sales', 'Sales, EUR', '{{ sales }}', 68, { ...amount, ...end('{{ sum(sales) }}') }),
          column('profit', 'Profit', '{{ profit }}', 62, { ...amount, ...end('{{ sum(profit) }}') }),
          column('margin', 'Margin %', '{{ margin }}', 54, { ...amount, ...end('{{ sum(margin) | 0.0 }}') }),
        ]),
      ],
      'portrait',
      'Item sales',
      '{{ param.dates }} · category {{ param.category }}',
    ),
  }
}

/** The register once more, from one flat text that joins headers with lines, split again by the invoice's number. */
export function flatRegister(): ReportDefinition {
  const header = ['number', 'invoice_date', 'customer', 'currency', 'tax_total', 'total']
  const number = (name: string, scale: number) => ({ name, type: 'number' as const, scale, databaseType: `numeric(14,${scale})` })
  const words = (name: string) => ({ name, type: 'text' as const, databaseType: 'text' })
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [period],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('invoice', '@headers', {
          caption: 'Invoice',
          fields: header,
          sort: [by('invoice_date'), by('number')],
          details: [
            level('lines', '@flat', {
              caption: 'Lines',
              on: [{ from: 'number', to: 'number' }],
              fields: ['line_no', 'description', 'quantity', 'amount'],
              sort: [by('line_no')],
            }),
          ],
        }),
      },
    ],
    tables: [
      {
        kind: 'sql',
        name: 'flat',
        key: [],
        text:
          'select i.number, i.invoice_date, c.name as customer, i.currency_code::text as currency, i.tax_total, i.total,\n      ' +
          ' l.line_no, l.description, l.quantity, l.amount\nfrom invoices i\njoin customers c on c.id = ' +
          'i.customer_id\njoin invoice_lines l ' +
          'on l.invoice_id = i.id\njoin fiscal_periods p on i.invoice_date between p.starts_on and p.ends_on\nwhere ' +
          "p.fiscal_year_id || '-P' " +
          "|| lpad(p.number::text, 2, '0') = :period",
        columns: [
          words('number'),
          { name: 'invoice_date', type: 'date', databaseType: 'date' },
          words('customer'),
          words('currency'),
          number('tax_total', 2),
          number('total', 2),
          { name: 'line_no', type: 'number', scale: 0, databaseType: 'integer' },
          words('description'),
          number('quantity', 3),
          number('amount', 2),
        ],
      },
      { kind: 'summary', name: 'headers', base: level('flat', '@flat'), by: header.map(name => ({ name, formula: name })), measures: [] },
    ],
    layouts: page(
      [
        plainTable('register', 'invoice', [
          column('number', 'Number', '{{ number }}', 66, end('{{ count(number) }} invoices')),
          column('date', 'Date', '{{ invoice_date }}', 66),
          column('customer', 'Customer', '{{ customer }}', 0),
          column('lines', 'Lines', '{{ count(lines) }}', 36, { style: { align: 'right' }, ...end('{{ count(lines) }}') }),
          column('currency', '', '{{ currency }}', 32),
          column('tax', 'Tax', '{{ tax_total }}', 70, { style: { align: 'right' } }),
          column('total', 'Total', '{{ total }}', 80, { style: { align: 'right' } }),
        ]),
      ],
      'portrait',
      'Register from one text',
      '{{ param.period }}',
    ),
  }
}

/** The sales invoice with its second, compact layout. */
export function twoLayouts(): ReportDefinition {
  const invoice = salesInvoice()
  return { ...invoice, layouts: [...invoice.layouts, compactLayout()], translations: compactTranslations }
}

/** The reports that come with the program. */
export function demoReports(): { shelf: string; name: string; definition: ReportDefinition }[] {
  return [
    { shelf: 'Invoicing', name: 'Sales invoice', definition: toldByLaw(twoLayouts(), '380') },
    { shelf: 'Invoicing', name: 'Credit note', definition: toldByLaw(creditNote(), '381') },
    { shelf: 'Invoicing', name: 'Invoice register', definition: invoiceRegister() },
    { shelf: 'Customers', name: 'Statement lines', definition: customerMovements() },
    { shelf: 'Customers', name: 'Customer ageing', definition: customerAgeing() },
    { shelf: 'Customers', name: 'Statement of account', definition: spokenStatement() },
    { shelf: 'Customers', name: 'Customer sheets', definition: customerSheets() },
    { shelf: 'Purchasing', name: 'Supplier ageing', definition: supplierAgeing() },
    { shelf: 'Purchasing', name: 'Payments due', definition: paymentsDue() },
    { shelf: 'Purchasing', name: 'Reorder list', definition: reorderList() },
    { shelf: 'Purchasing', name: 'Purchase order', definition: purchaseOrder() },
    { shelf: 'Purchasing', name: 'Open order lines', definition: openOrderLines() },
    { shelf: 'Purchasing', name: 'Goods received, not billed', definition: notBilled() },
    { shelf: 'Purchasing', name: 'Purchase requests', definition: requestsList() },
    { shelf: 'Purchasing', name: 'Prices of suppliers', definition: priceComparison() },
    { shelf: 'Purchasing', name: 'Spend by supplier', definition: spendBySupplier() },
    ...(['income', 'months', 'balance', 'cash', 'budget', 'branches', 'trial'] as const).map(kind => ({
      shelf: 'Finance',
      name: kind === 'months' ? 'Income statement trend' : readyNames[kind],
      definition: statement(kind),
    })),
    { shelf: 'Finance', name: 'Budget steps', definition: budgetSteps() },
    { shelf: 'Sales', name: 'Item sales', definition: itemSales() },
    { shelf: 'Sales', name: 'Top ten customers', definition: topCustomers() },
    { shelf: 'Sales', name: 'Sales grid', definition: salesGrid() },
    { shelf: 'Sales', name: 'Sales charts', definition: salesCharts() },
    { shelf: 'Sales', name: 'Item profit', definition: itemProfit() },
    { shelf: 'Sales', name: 'Salesperson sheets', definition: salespersonSheets() },
    { shelf: 'Sales', name: 'Registers by salesperson', definition: salespersonRegisters() },
    { shelf: 'Sales', name: 'Price list', definition: priceList() },
    { shelf: 'Sales', name: 'Register from one text', definition: flatRegister() },
  ]
}
