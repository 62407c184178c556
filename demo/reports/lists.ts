import { setTotal } from '../../core/definition/edits/table'
import { setGroup, addGroup } from '../../core/definition/edits/tableGroups'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import type { TableBlock } from '../../core/definition/blocks/table'
import { plainTable } from '../../core/definition/upgrade'
import { by, column, end, level, page, related, text } from './invoice'

const right = { style: { align: 'right' as const } }
const dates: ReportDefinition['parameters'] = [
  { name: 'dates', label: 'Dates', kind: 'dates', required: true, default: 'addMonths(monthStart(today()), -6)', defaultTo: 'today()' },
]

/** The ten customers with most sales, and all others as one. */
export function topCustomers(): ReportDefinition {
  const table: TableBlock = {
    ...plainTable('customers', 'invoice', [
      column('place', '', '', 24, right),
      column('customer', 'Customer', '', 0),
      column('count', 'Documents', '', 60, right),
      column('largest', 'Largest', '', 78, right),
      column('sales', 'Sales, EUR', '', 84, right),
      column('share', 'Share', '', 54, right),
      column('running', 'So far', '', 60, right),
    ]),
    groups: [
      {
        id: 'buyer',
        by: 'customer.name',
        order: { by: 'total', total: 'sum(base_total)', descending: true },
        top: { count: 10, total: 'sum(base_total)', others: 'All others' },
      },
    ],
  }
  const rows: TableBlock['rows'] = [
    table.rows.find(row => row.kind === 'titles')!,
    {
      id: 'buyers',
      kind: 'groupEnd',
      group: 'buyer',
      style: { bold: false, above: 'none' },
      cells: {
        place: { text: '{{ group.number }}' },
        customer: { text: '{{ group.name }}' },
        count: { text: '{{ count(invoice) }}' },
        largest: { text: '{{ max(base_total) }}' },
        sales: { text: '{{ sum(base_total) }}' },
        share: { text: '{{ share(base_total) }}' },
        running: { text: '{{ running(base_total) / sum(base_total, over: table) | 0.0 % }}' },
      },
    },
    {
      id: 'end',
      kind: 'end',
      cells: {
        customer: { text: 'All customers' },
        count: { text: '{{ count(invoice) }}' },
        largest: { text: '{{ max(base_total) }}' },
        sales: { text: '{{ sum(base_total) }}' },
        share: { text: '{{ share(base_total) }}' },
      },
    },
  ]
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: dates,
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('invoice', 'invoices', {
          caption: 'Invoice',
          fields: ['number', 'base_total'],
          related: [related('customer', 'customers', 'customer_id', 'id', ['code', 'name'])],
          filters: ['invoice_date between param.dates.from and param.dates.to'],
          sort: [by('number')],
        }),
      },
    ],
    layouts: page([{ ...table, rows }], 'portrait', 'Top ten customers', '{{ param.dates }}').map(layout => ({
      ...layout,
      theme: 'ruled',
    })),
  }
}

/** One sheet for each salesperson: their customers, and under each what was invoiced in the period. */
export function salespersonSheets(): ReportDefinition {
  const invoices: TableBlock = {
    ...plainTable(
      'invoices',
      'documents',
      [
        column('number', '', '{{ number }}', 74),
        column('date', '', '{{ invoice_date }}', 70),
        column('kind', '', '{{ kind }}', 0),
        column('currency', '', '{{ currency_code }}', 34),
        column('total', '', '{{ total }}', 80, right),
        column('base', '', '{{ base_total }}', 84, right),
      ],
      { left: 20 },
    ),
    looks: [{ id: 'credit', when: 'kind = "credit note"', columns: [], style: { colour: '#a13c31' }, meaning: '' }],
  }
  const customers = plainTable(
    'customers',
    'customers',
    [
      column('code', 'Customer', '{{ code }}', 60),
      column('name', 'Name', '{{ name }}', 0, end('{{ count(customers) }} customers')),
      column('count', 'Documents', '{{ count(documents) }}', 64, { ...right, ...end('{{ count(documents) }}') }),
      column('sales', 'Sales, EUR', '{{ sum(documents.base_total) }}', 84, { ...right, ...end('{{ sum(documents.base_total) }}') }),
    ],
    { end: true },
  )
  const styled: TableBlock = {
    ...customers,
    rows: [
      ...customers.rows.map(row => (row.kind === 'line' ? { ...row, style: { bold: true, above: 'hair' as const } } : row)),
      { id: 'documents', kind: 'extra', cells: {}, nested: invoices },
    ],
  }
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: dates,
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('person', 'salespeople', {
          caption: 'Salesperson',
          fields: ['name', 'email'],
          related: [related('branch', 'branches', 'branch_id', 'id', ['name'])],
          sort: [by('name')],
          details: [
            level('customers', 'customers', {
              caption: 'Customers',
              on: [{ from: 'id', to: 'salesperson_id' }],
              fields: ['code', 'name'],
              sort: [by('name'), by('code')],
              filters: ['has(documents)'],
              details: [
                level('documents', 'invoices', {
                  caption: 'Documents',
                  on: [{ from: 'id', to: 'customer_id' }],
                  fields: ['number', 'invoice_date', 'kind', 'currency_code', 'total', 'base_total'],
                  filters: ['invoice_date between param.dates.from and param.dates.to'],
                  sort: [by('invoice_date'), by('number')],
                }),
              ],
            }),
          ],
        }),
      },
    ],
    layouts: page(
      [
        {
          kind: 'repeat',
          id: 'people',
          level: 'person',
          newPage: true,
          restartNumbers: true,
          outline: '{{ name }}',
          after: 0,
          blocks: [
            {
              kind: 'panel',
              id: 'heading',
              height: 32,
              after: 10,
              items: [
                text('name', 0, 0, 300, '{{ name }}', { named: 'heading', size: 13 }),
                text('branch', 0, 18, 300, '{{ branch.name }} · {{ email }}', { named: 'label' }),
                text('counts', 300, 4, 205.28, '{{ count(customers) }} customers, {{ count(customers.documents) }} documents', {
                  align: 'right',
                }),
                text('sum', 300, 18, 205.28, '{{ sum(customers.documents.base_total) }} EUR', { align: 'right', bold: true }),
              ],
            },
            styled,
          ],
        },
      ],
      'portrait',
      'Salesperson sheet',
      '{{ param.dates }}',
    ).map(layout => ({ ...layout, documentName: 'Sales of {{ name }}' })),
  }
}

/** All items with their prices, by category, each category begun with its drawing. */
export function priceList(): ReportDefinition {
  const table = plainTable('prices', 'item', [
    column('code', 'Item', '{{ code }}', 62),
    column('name', 'Description', '{{ name }}', 0),
    column('unit', 'Unit', '{{ unit_code }}', 40),
    column('price', 'Price, EUR', '{{ price }}', 74, right),
    column('bars', 'Tax', '{{ tax_code }}', 36),
  ])
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
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
        fields: {},
        root: level('item', 'items', {
          caption: 'Item',
          fields: ['code', 'name', 'unit_code', 'price', 'tax_code'],
          related: [related('category', 'item_categories', 'category_id', 'id', ['name', 'picture'])],
          filters: ['category.id in (param.category)'],
          sort: [by('code')],
        }),
      },
    ],
    layouts: page([table], 'portrait', 'Price list', 'category {{ param.category }}').map(layout => ({ ...layout, theme: 'banded' })),
  }
  const grouped = setGroup(
    addGroup(shell, 'prices', { by: 'category.name', order: { by: 'name', descending: false }, repeatStart: true }),
    'prices',
    'category',
    { keepTogether: false },
  )
  const start = (table: TableBlock): TableBlock => ({
    ...table,
    rows: table.rows.map(row =>
      row.kind === 'groupStart'
        ? {
            ...row,
            cells: {
              code: {
                text: '{{ group.name }}',
                span: 4,
                picture: 'category.picture',
                pictureHeight: 26,
                style: { vertical: 'middle', size: 11 },
              },
              bars: { text: '{{ count(item) }}', style: { vertical: 'middle', align: 'right' } },
            },
          }
        : row,
    ),
  })
  return {
    ...grouped,
    layouts: grouped.layouts.map(layout => ({
      ...layout,
      blocks: layout.blocks.map(block => (block.kind === 'table' ? start(block) : block)),
    })),
  }
}

/** Puts branches and salespeople with subtotals into a register of invoices. */
export function grouped(report: ReportDefinition): ReportDefinition {
  const totals = { base: '{{ sum(base_open) }}' }
  const branch = addGroup(report, 'register', { by: 'branch.name', order: { by: 'name', descending: false }, repeatStart: true }, totals)
  const person = addGroup(
    branch,
    'register',
    { by: 'salesperson.name', order: { by: 'name', descending: false }, repeatStart: true },
    totals,
  )
  return setTotal(person, 'register', 'total', { kind: 'groupEnd', group: 'branch' }, '{{ count(invoice) }} documents')
}
