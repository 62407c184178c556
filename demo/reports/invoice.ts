import type { Block } from '../../core/definition/blocks/block'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import type { TableBlock } from '../../core/definition/blocks/table'
import type { PanelBlock, PanelItem } from '../../core/definition/blocks/panel'
import type { LevelDefinition, RelatedDefinition } from '../../core/definition/levels'
import type { TextStyle } from '../../core/definition/style'
import { type PlainColumn, plainTable } from '../../core/definition/upgrade'

/** The company's mark: a bollard with a line made fast, drawn for it. */
export const logo =
  '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 48 48"><rect x="0" y="0" width="48" height="48" fill="#0f4c5c"/><path ' +
  'd="M12 38H36V34H31V20H17V34H12Z" fill="#ffffff"/><path d="M13 12C13 9 16 8 24 8C32 8 35 9 35 12C35 15 32 17 24 17C16 17 13 15 13 ' +
  '12Z" fill="#ffffff"/><path d="M4 27C10 23 14 23 17 24V28C13 27 10 28 4 31Z" fill="#e07a3f"/><path d="M17 24C22 26 27 26 31 ' +
  '24V28C27 30 22 30 17 28Z" fill="#e07a3f"/></svg>'

export const soft = '#6d655b'
const petrol = '#0f4c5c'
export const text = (id: string, x: number, y: number, width: number, source: string, style: TextStyle = {}): PanelItem => ({
  kind: 'text',
  id,
  x,
  y,
  width,
  text: source,
  style,
})
/** Label on the left, value on the right, one under the other. */
const pairs = (
  x: number,
  labelWidth: number,
  valueWidth: number,
  step: number,
  rows: [string, string, string, TextStyle?][],
): PanelItem[] =>
  rows.flatMap(([id, label, value, style], index) => [
    text(`${id}Label`, x, index * step, labelWidth, label, { colour: soft, ...style, align: 'left' }),
    text(id, x + labelWidth, index * step, valueWidth, value, { align: 'right', ...style }),
  ])

/** A column of a table; 0 shares the width that is left. */
export const column = (id: string, title: string, source: string, width: number, more: Partial<PlainColumn> = {}): PlainColumn => ({
  id,
  title,
  text: source,
  width,
  ...more,
})
export const end = (source: string) => ({ end: source })

/** The company, and what the report is. */
export function pageTop(orientation: 'portrait' | 'landscape', title: string, under: string): PanelBlock {
  const width = orientation === 'portrait' ? 505.28 : 751.89
  return {
    kind: 'panel',
    id: 'pageTop',
    height: 40,
    after: 16,
    items: [
      { kind: 'image', id: 'logo', x: 0, y: 0, width: 30, height: 30, svg: logo, alt: '' },
      text('company', 38, -3, 200, 'Cais Velho', { font: 'serif', size: 16, bold: true, colour: petrol }),
      text('tagline', 38, 18, 160, 'harbour supplies', { colour: soft }),
      text('title', 200, 0, width - 200, title, { align: 'right', bold: true, size: 11 }),
      text('answers', 200, 17, width - 200, under, { align: 'right', colour: soft, size: 8 }),
      { kind: 'rule', id: 'topRule', x: 0, y: 39, width, thickness: 0.6, colour: '#d9d2c7' },
    ],
  }
}

/** A level and what belongs to it, with what is not said left empty. */
export const level = (name: string, table: string, more: Partial<LevelDefinition> = {}): LevelDefinition => ({
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
export const related = (
  name: string,
  table: string,
  from: string,
  to: string,
  fields: string[],
  inner: RelatedDefinition[] = [],
): RelatedDefinition => ({ name, table, on: [{ from, to }], fields, related: inner })
export const by = (field: string, descending = false) => ({ field, descending })
export const page = (blocks: Block[], orientation: 'portrait' | 'landscape', title: string, under: string): ReportDefinition['layouts'] => [
  {
    name: 'Standard',
    page: { size: 'A4', orientation, margins: { top: 40, right: 45, bottom: 36, left: 45 } },
    top: pageTop(orientation, title, under),
    foot: {
      kind: 'panel',
      id: 'pageFoot',
      height: 14,
      after: 8,
      items: [
        text('footPage', 0, 2, orientation === 'portrait' ? 505.28 : 751.89, 'Page {{ page.number }} of {{ page.count }}', {
          size: 7.5,
          colour: soft,
          align: 'centre',
        }),
      ],
    },
    blocks,
  },
]

/** Rows for items (with what the customs want to know under them), services and remarks. */
function itemRows(table: TableBlock): TableBlock {
  const rows: TableBlock['rows'] = table.rows.flatMap((row): TableBlock['rows'] =>
    row.kind !== 'line'
      ? [row]
      : [
          { ...row, id: 'itemLine', when: 'kind = "item"' },
          { id: 'serviceLine', kind: 'line', when: 'kind = "service"', cells: { ...row.cells, item: { text: 'Service' } } },
          {
            id: 'commentLine',
            kind: 'line',
            cells: { description: { text: '{{ description }}', span: 5, style: { italic: true, colour: soft } } },
          },
          {
            id: 'details',
            kind: 'extra',
            when: 'kind = "item" and item.net_weight != empty',
            cells: {
              description: { text: '{{ item.category.name }} · {{ item.net_weight * quantity | #,##0.0 }} kg net', style: { indent: 6 } },
            },
          },
        ],
  )
  return { ...table, rows }
}

/** The sales invoice: one document per invoice of a month. */
export function salesInvoice(): ReportDefinition {
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      { name: 'month', label: 'Month', kind: 'month', required: true, default: 'monthStart(today())' },
      {
        name: 'customer',
        label: 'Customer',
        kind: 'choice',
        required: false,
        choices: { table: 'customers', value: 'code', label: 'name' },
        help: 'Leave empty for all customers.',
      },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {
          'invoice.rate': { format: '0.0000' },
          'lines.quantity': { format: '#,##0.0##' },
          'taxes.rate': { format: "0.##' %'" },
          'invoice.number': { caption: 'Number' },
        },
        root: {
          name: 'invoice',
          caption: 'Invoice',
          table: 'invoices',
          on: [],
          fields: [
            'number',
            'kind',
            'invoice_date',
            'due_date',
            'currency_code',
            'lines_total',
            'freight',
            'discount',
            'tax_total',
            'total',
          ],
          filters: ['invoice_date between param.month and monthEnd(param.month)', 'customer.code = param.customer', 'kind = "invoice"'],
          sort: [{ field: 'number', descending: false }],
          related: [
            {
              name: 'branch',
              table: 'branches',
              on: [{ from: 'branch_id', to: 'id' }],
              fields: ['name'],
              related: [{ name: 'town', table: 'towns', on: [{ from: 'town_id', to: 'id' }], fields: [], related: [] }],
            },
            {
              name: 'customer',
              table: 'customers',
              on: [{ from: 'customer_id', to: 'id' }],
              fields: ['code', 'name'],
              related: [
                {
                  name: 'town',
                  table: 'towns',
                  on: [{ from: 'town_id', to: 'id' }],
                  fields: ['name'],
                  related: [{ name: 'region', table: 'regions', on: [{ from: 'region_id', to: 'id' }], fields: ['name'], related: [] }],
                },
              ],
            },
            {
              name: 'payment_term',
              table: 'payment_terms',
              on: [{ from: 'payment_term_code', to: 'code' }],
              fields: ['name'],
              related: [],
            },
            { name: 'salesperson', table: 'salespeople', on: [{ from: 'salesperson_id', to: 'id' }], fields: ['name'], related: [] },
          ],
          details: [
            {
              name: 'lines',
              caption: 'Lines',
              table: 'invoice_lines',
              on: [{ from: 'id', to: 'invoice_id' }],
              fields: ['line_no', 'kind', 'description', 'quantity', 'unit_price', 'amount'],
              filters: [],
              sort: [{ field: 'line_no', descending: false }],
              details: [],
              related: [
                {
                  name: 'item',
                  table: 'items',
                  on: [{ from: 'item_id', to: 'id' }],
                  fields: ['code'],
                  related: [
                    { name: 'category', table: 'item_categories', on: [{ from: 'category_id', to: 'id' }], fields: ['name'], related: [] },
                  ],
                },
                { name: 'unit', table: 'units', on: [{ from: 'unit_code', to: 'code' }], fields: ['code'], related: [] },
              ],
            },
            {
              name: 'taxes',
              caption: 'Taxes',
              table: 'invoice_taxes',
              on: [{ from: 'id', to: 'invoice_id' }],
              fields: ['tax_code', 'rate', 'base', 'amount'],
              filters: [],
              sort: [{ field: 'rate', descending: true }],
              details: [],
              related: [{ name: 'tax', table: 'tax_codes', on: [{ from: 'tax_code', to: 'code' }], fields: ['name'], related: [] }],
            },
          ],
        },
      },
    ],
    layouts: [
      {
        name: 'Standard',
        page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 45, bottom: 36, left: 45 } },
        top: {
          kind: 'panel',
          id: 'pageTop',
          height: 40,
          after: 18,
          items: [
            { kind: 'image', id: 'logo', x: 0, y: 0, width: 30, height: 30, svg: logo, alt: '' },
            text('company', 38, -3, 200, 'Cais Velho', { font: 'serif', size: 16, bold: true, colour: petrol }),
            text('tagline', 38, 18, 240, 'harbour supplies · {{ branch.name }}', { colour: soft }),
            text(
              'pageNumber',
              285,
              0,
              220,
              '{{ upper(left(kind, 1)) & right(kind, length(kind) - 1) }} {{ number }} · page {{ page.number }} of {{ page.count }}',
              { align: 'right', colour: soft },
            ),
            { kind: 'rule', id: 'topRule', x: 0, y: 39, width: 505.28, thickness: 0.6, colour: '#d9d2c7' },
          ],
        },
        foot: {
          kind: 'panel',
          id: 'pageFoot',
          height: 14,
          after: 8,
          items: [
            text(
              'footBranch',
              0,
              2,
              505.28,
              'Cais Velho · {{ branch.address }}, {{ branch.town.postcode }} {{ branch.town.name }} · {{ branch.phone }}',
              { size: 7.5, colour: soft, align: 'centre' },
            ),
          ],
        },
        blocks: [
          {
            kind: 'repeat',
            id: 'invoices',
            level: 'invoice',
            newPage: true,
            restartNumbers: true,
            outline: '{{ number }}  {{ customer.name }}',
            after: 0,
            blocks: [
              {
                kind: 'panel',
                id: 'heading',
                height: 86,
                after: 14,
                items: [
                  text('billTo', 0, 0, 240, 'Bill to', { size: 8, colour: soft }),
                  text('customerName', 0, 13, 250, '{{ customer.name }}', { bold: true, size: 10 }),
                  text(
                    'address',
                    0,
                    28,
                    250,
                    '{{ customer.address }}\n{{ customer.address_line_2 }}\n{{ customer.town.postcode }} {{ customer.town.name ' +
                      '}}\n{{ customer.town.region.name }}',
                  ),
                  ...pairs(325, 80, 100.28, 15, [
                    ['date', 'Date', '{{ invoice_date }}'],
                    ['due', 'Due', '{{ due_date }}'],
                    ['terms', 'Terms', '{{ payment_term.name }}'],
                    ['salesperson', 'Salesperson', '{{ salesperson.name }}'],
                    ['customerCode', 'Customer', '{{ customer.code }}'],
                  ]),
                ],
              },
              itemRows(
                plainTable(
                  'lines',
                  'lines',
                  [
                    { id: 'item', title: 'Item', text: '{{ item.code }}', end: 'Lines', width: 62 },
                    { id: 'description', title: 'Description', text: '{{ description }}', width: 0 },
                    { id: 'quantity', title: 'Qty', text: '{{ quantity }}', width: 52, style: { align: 'right' } },
                    { id: 'unit', title: 'Unit', text: '{{ unit.code }}', width: 34 },
                    { id: 'price', title: 'Price', text: '{{ unit_price }}', width: 60, style: { align: 'right' } },
                    {
                      id: 'amount',
                      title: 'Amount',
                      text: '{{ amount }}',
                      end: '{{ sum(amount) }}',
                      carry: true,
                      width: 74,
                      style: { align: 'right' },
                    },
                  ],
                  { after: 16, carried: { forward: 'Carried forward', brought: 'Brought forward' } },
                ),
              ),
              plainTable(
                'taxes',
                'taxes',
                [
                  { id: 'tax', title: 'Tax', text: '{{ tax.name }} {{ rate }}', width: 0 },
                  { id: 'base', title: 'Base', text: '{{ base }}', width: 80, style: { align: 'right' } },
                  { id: 'taxAmount', title: 'Amount', text: '{{ amount }}', width: 74, style: { align: 'right' } },
                ],
                { left: 245, after: 12 },
              ),
              {
                kind: 'panel',
                id: 'totals',
                height: 94,
                after: 12,
                items: [
                  ...pairs(249, 150, 102.28, 15, [
                    ['linesTotal', 'Lines', '{{ sum(lines.amount) }}'],
                    ['freight', 'Freight', '{{ freight }}'],
                    ['discount', 'Discount', '{{ -discount }}'],
                    ['taxTotal', 'Tax', '{{ sum(taxes.amount) }}'],
                  ]),
                  { kind: 'rule', id: 'totalRule', x: 395, y: 63, width: 110.28, thickness: 0.75, colour: '#26221d' },
                  text('totalLabel', 249, 68, 150, 'Total due, {{ currency_code }}', { bold: true, size: 10 }),
                  text('total', 399, 68, 102.28, '{{ sum(lines.amount) + freight - discount + sum(taxes.amount) }}', {
                    bold: true,
                    size: 10,
                    align: 'right',
                  }),
                  { kind: 'rule', id: 'doubleRule1', x: 395, y: 84, width: 110.28, thickness: 0.75, colour: '#26221d' },
                  { kind: 'rule', id: 'doubleRule2', x: 395, y: 86.5, width: 110.28, thickness: 0.75, colour: '#26221d' },
                ],
              },
              {
                kind: 'panel',
                id: 'note',
                height: 12,
                after: 0,
                showWhen: 'note != empty',
                items: [text('noteText', 0, 0, 320, '{{ note }}', { italic: true, colour: soft })],
              },
            ],
          },
        ],
      },
    ],
  }
}
