import { addGroup, setGroup } from '../../core/definition/edits/tableGroups'
import { formatVersion, type LayoutDefinition, type ReportDefinition } from '../../core/definition/report'
import type { TableBlock } from '../../core/definition/blocks/table'
import type { ParameterDefinition } from '../../core/definition/parameters'
import type { DataSetDefinition, RelatedDefinition } from '../../core/definition/levels'
import { plainTable } from '../../core/definition/upgrade'
import { by, column, end, level, page, related, soft, text } from './invoice'

const right = { style: { align: 'right' as const } }
const supplier = (inner: RelatedDefinition[] = []) => related('supplier', 'suppliers', 'supplier_id', 'id', ['code', 'name'], inner)
const today: ParameterDefinition = { name: 'asOf', label: 'As of', kind: 'date', required: true, default: 'today()' }
const someSuppliers: ParameterDefinition = {
  name: 'suppliers',
  label: 'Suppliers',
  kind: 'choices',
  required: false,
  choices: { table: 'suppliers', value: 'code', label: 'name' },
}
/** Prices that hold on the as-of date; of these the preferred supplier's, else the cheapest. */
const offer: RelatedDefinition = {
  ...related(
    'offer',
    'item_suppliers',
    'item_id',
    'item_id',
    ['base_price', 'pack_size', 'minimum_quantity', 'lead_days', 'supplier_item_number'],
    [supplier([related('buyer', 'buyers', 'buyer_id', 'id', ['name'])])],
  ),
  filters: ['valid_from <= param.asOf', 'valid_to = empty or valid_to >= param.asOf'],
  pick: { sort: [by('is_preferred', true), by('base_price'), by('supplier_id')] },
}
/** Lines that more will come of, with the warehouse it comes to. */
const openLines: DataSetDefinition = {
  name: 'open_lines',
  source: 'caisvelho',
  fields: {},
  root: level('open_line', 'purchase_order_lines', {
    fields: ['item_id'],
    related: [related('order', 'purchase_orders', 'order_id', 'id', ['warehouse_id'])],
    filters: ['not is_closed', 'received < quantity'],
    calculated: [{ name: 'coming', formula: 'quantity - received' }],
  }),
}

const eachTable = (layout: LayoutDefinition, change: (table: TableBlock) => TableBlock): LayoutDefinition => ({
  ...layout,
  blocks: layout.blocks.map(block =>
    block.kind === 'table'
      ? change(block)
      : block.kind === 'repeat'
        ? { ...block, blocks: block.blocks.map(inner => (inner.kind === 'table' ? change(inner) : inner)) }
        : block,
  ),
})
const ownIds = (layout: LayoutDefinition, mark: string): LayoutDefinition => ({
  ...layout,
  top: { ...layout.top!, id: `${mark}Top` },
  foot: { ...layout.foot!, id: `${mark}Foot` },
})

/**
 * What is to be ordered: items whose available quantity is below their reorder point, up to where they are to be, in whole packs, from
 * whom, for when.
 */
export function reorderList(): ReportDefinition {
  const table = (id: string) =>
    plainTable(
      id,
      'stock',
      [
        column('code', 'Item', '{{ item.code }}', 50),
        column('name', 'Description', '{{ item.name }}', 0),
        column('warehouse', 'Store', '{{ warehouse.code }}', 36),
        column('hand', 'On hand', '{{ on_hand }}', 48, right),
        column('reserved', 'Reserved', '{{ reserved }}', 48, right),
        column('coming', 'On order', '{{ coming }}', 48, right),
        column('available', 'Available', '{{ available }}', 50, right),
        column('point', 'Reorder at', '{{ reorder_point }}', 50, right),
        column('upTo', 'Up to', '{{ order_up_to }}', 46, right),
        column('suggested', 'To order', '{{ suggested }}', 50, { style: { align: 'right', bold: true } }),
        column('price', 'Price, EUR', '{{ offer.base_price }}', 48, right),
        column('cost', 'Cost, EUR', '{{ cost }}', 62, { ...right, ...end('{{ sum(cost) }}') }),
        column('needed', 'Here by', '{{ needed_by | d MMM }}', 44),
      ],
      { end: true },
    )
  const layout = (id: string, name: string) =>
    ownIds(
      {
        ...page(
          [table(id)],
          'landscape',
          'Reorder list',
          'as of {{ param.asOf | d MMMM y }} · available = on hand − reserved + on order',
        )[0]!,
        name,
      },
      id,
    )
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      today,
      {
        name: 'warehouses',
        label: 'Warehouses',
        kind: 'choices',
        required: false,
        choices: { table: 'warehouses', value: 'code', label: 'name' },
      },
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
        fields: Object.fromEntries(
          ['on_hand', 'reserved', 'coming', 'available', 'reorder_point', 'order_up_to', 'suggested'].map(field => [
            `stock.${field}`,
            { format: '#,##0.#' },
          ]),
        ),
        root: level('stock', 'stock_levels', {
          caption: 'Stock',
          fields: ['on_hand', 'reserved', 'reorder_point', 'order_up_to'],
          sort: [by('item.code'), by('warehouse.code')],
          related: [
            related(
              'item',
              'items',
              'item_id',
              'id',
              ['code', 'name'],
              [related('category', 'item_categories', 'category_id', 'id', ['name'])],
            ),
            related('warehouse', 'warehouses', 'warehouse_id', 'id', ['code', 'name']),
            offer,
          ],
          totals: [
            {
              name: 'coming',
              table: '@open_lines',
              on: [
                { from: 'item_id', to: 'item_id' },
                { from: 'warehouse_id', to: 'order_warehouse_id' },
              ],
              total: 'sum',
              value: 'coming',
              filters: [],
            },
          ],
          calculated: [
            { name: 'available', formula: 'on_hand - reserved + coming' },
            { name: 'need', formula: 'order_up_to - available' },
            {
              name: 'suggested',
              formula:
                'if(offer.pack_size = empty, need, ceiling(if(need > offer.minimum_quantity, need, offer.minimum_quantity) / ' +
                'offer.pack_size) * offer.pack_size)',
            },
            { name: 'cost', formula: 'round(suggested * offer.base_price, 2)' },
            { name: 'needed_by', formula: 'addDays(param.asOf, offer.lead_days)' },
          ],
          filters: ['available < reorder_point', 'warehouse.code in (param.warehouses)', 'item.category_id in (param.category)'],
        }),
      },
      openLines,
    ],
    layouts: [layout('reorder', 'By supplier'), layout('buyers', 'By buyer')],
  }
  const grouped = (report: ReportDefinition, block: string, field: string) =>
    setGroup(
      addGroup(
        report,
        block,
        {
          by: field,
          order: { by: 'name', descending: false },
          repeatStart: true,
          none: field.endsWith('buyer.name') ? 'No buyer' : 'No supplier',
        },
        { cost: '{{ sum(cost) }}' },
      ),
      block,
      field.split('.').at(-2)!,
      { keepTogether: false },
    )
  const whole = grouped(
    grouped(grouped(shell, 'reorder', 'offer.supplier.name'), 'buyers', 'offer.supplier.buyer.name'),
    'buyers',
    'offer.supplier.name',
  )
  const named = (table: TableBlock): TableBlock => ({
    ...table,
    rows: table.rows.map(row =>
      row.kind === 'groupStart' || row.kind === 'groupEnd'
        ? {
            ...row,
            cells: {
              ...row.cells,
              code: { text: row.kind === 'groupEnd' ? 'Total {{ group.name }}, {{ count(stock) }} to order' : '{{ group.name }}', span: 8 },
            },
          }
        : row.kind === 'end'
          ? { ...row, cells: { ...row.cells, code: { text: 'All, {{ count(stock) }} to order', span: 4 } } }
          : row,
    ),
    looks: [
      { id: 'none', when: 'group.name = "No supplier"', columns: [], kinds: ['groupStart'], style: { colour: '#a13c31' }, meaning: '' },
    ],
  })
  return { ...whole, layouts: whole.layouts.map(each => eachTable(each, named)) }
}

/** What suppliers still owe us, in the order in which it is expected, with how late it is. */
export function openOrderLines(): ReportDefinition {
  const table = plainTable('lines', 'line', [
    column('expected', 'Expected', '{{ expected_on }}', 66, end('All')),
    column('late', 'Days late', '{{ days_late }}', 50, right),
    column('order', 'Order', '{{ order.number }}', 62),
    column('supplier', 'Supplier', '{{ order.supplier.name }}', 0),
    column('item', 'Item', '{{ item.code }}', 52),
    column('description', 'Description', '{{ description }}', 170),
    column('quantity', 'Ordered', '{{ quantity }}', 54, right),
    column('received', 'Received', '{{ received }}', 54, right),
    column('open', 'To come', '{{ open }}', 54, right),
    column('value', 'Value, EUR', '{{ open_value }}', 72, { ...right, ...end('{{ sum(open_value) }}') }),
  ])
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [today, someSuppliers, { name: 'lateOnly', label: 'Only late ones', kind: 'boolean', required: true, default: 'false' }],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: Object.fromEntries(['quantity', 'received', 'open'].map(field => [`line.${field}`, { format: '#,##0.#' }])),
        root: level('line', 'purchase_order_lines', {
          caption: 'Open order lines',
          fields: ['description', 'quantity', 'received', 'expected_on'],
          sort: [by('expected_on'), by('order.number'), by('line_no')],
          related: [
            related(
              'order',
              'purchase_orders',
              'order_id',
              'id',
              ['number', 'order_date'],
              [
                supplier(),
                {
                  name: 'rate',
                  table: 'exchange_rates',
                  on: [{ from: 'currency_code', to: 'currency_code' }],
                  fields: ['rate'],
                  related: [],
                  pick: { latest: 'rate_date', at: 'param.asOf' },
                },
              ],
            ),
            related('item', 'items', 'item_id', 'id', ['code']),
          ],
          filters: [
            'not is_closed',
            'received < quantity',
            'order.supplier.code in (param.suppliers)',
            'not param.lateOnly or expected_on < param.asOf',
          ],
          calculated: [
            { name: 'open', formula: 'quantity - received' },
            { name: 'open_value', formula: 'round(open * unit_price * order.rate.rate, 2)' },
            { name: 'days_late', formula: 'if(expected_on < param.asOf, daysBetween(expected_on, param.asOf), empty)' },
          ],
        }),
      },
    ],
    layouts: page(
      [
        {
          ...table,
          looks: [
            {
              id: 'late',
              when: 'days_late > 14',
              columns: ['late', 'expected'],
              style: { colour: '#a13c31', bold: true },
              meaning: 'more than 14 days late',
            },
          ],
          legend: true,
        },
      ],
      'landscape',
      'Open order lines',
      'as of {{ param.asOf | d MMMM y }} · {{ if(param.lateOnly, "only late lines", "all open lines") }}',
    ),
  }
  return setGroup(
    addGroup(
      shell,
      'lines',
      { by: 'expected_on', step: 'month', order: { by: 'value', descending: false }, repeatStart: true },
      { value: '{{ sum(open_value) }}' },
    ),
    'lines',
    'expected_on',
    { keepTogether: false },
  )
}

/** Goods that came and that no bill came for, by supplier, down to the account that holds them. */
export function notBilled(): ReportDefinition {
  const table = plainTable('waiting', 'waiting', [
    column('number', 'Receipt', '{{ receipt.number }}', 62, end('Goods received, not billed')),
    column('date', 'Received', '{{ receipt.receipt_date }}', 66),
    column('days', 'Days', '{{ days }}', 34, right),
    column('note', 'Delivery note', '{{ receipt.delivery_note }}', 66),
    column('item', 'Item', '{{ item.code }}', 52),
    column('description', 'Description', '{{ item.name }}', 0),
    column('quantity', 'Quantity', '{{ quantity }}', 54, right),
    column('amount', 'Amount, EUR', '{{ base_amount }}', 76, { ...right, ...end('{{ sum(base_amount) }}') }),
  ])
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [today],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'waiting.quantity': { format: '#,##0.#' } },
        root: level('account', 'accounts', {
          caption: 'Control account',
          fields: ['code', 'name'],
          filters: ['code = "2150"'],
          totals: [
            {
              name: 'balance',
              table: '@postings',
              on: [{ from: 'code', to: 'account_code' }],
              total: 'sum',
              value: 'amount',
              filters: ['journal_posting_date <= param.asOf'],
            },
          ],
          details: [
            level('waiting', '@received', {
              caption: 'Lines received',
              on: [{ from: 'code', to: 'control' }],
              fields: ['quantity', 'base_amount'],
              filters: ['receipt_receipt_date <= param.asOf', 'billed = 0'],
              sort: [by('receipt_receipt_date'), by('receipt_id'), by('line_no')],
              related: [
                related('receipt', 'goods_receipts', 'receipt_id', 'id', ['number', 'receipt_date', 'delivery_note'], [supplier()]),
                related('item', 'items', 'item_id', 'id', ['code', 'name']),
              ],
              totals: [
                {
                  name: 'billed',
                  table: '@billed',
                  on: [
                    { from: 'receipt_id', to: 'receipt_id' },
                    { from: 'line_no', to: 'receipt_line_no' },
                  ],
                  total: 'count',
                  filters: ['bill_bill_date <= param.asOf'],
                },
              ],
              calculated: [{ name: 'days', formula: 'daysBetween(receipt.receipt_date, param.asOf)' }],
            }),
          ],
        }),
      },
      {
        name: 'received',
        source: 'caisvelho',
        fields: {},
        root: level('received_line', 'goods_receipt_lines', {
          fields: ['item_id', 'quantity', 'base_amount'],
          related: [related('receipt', 'goods_receipts', 'receipt_id', 'id', ['receipt_date'])],
          calculated: [{ name: 'control', formula: '"2150"' }],
        }),
      },
      {
        name: 'billed',
        source: 'caisvelho',
        fields: {},
        root: level('billed_line', 'supplier_bill_lines', {
          fields: ['receipt_id', 'receipt_line_no'],
          related: [related('bill', 'supplier_bills', 'bill_id', 'id', ['bill_date'])],
        }),
      },
      {
        name: 'postings',
        source: 'caisvelho',
        fields: {},
        root: level('posting', 'journal_lines', {
          fields: ['account_code'],
          related: [related('journal', 'journals', 'journal_id', 'id', ['posting_date'])],
          calculated: [{ name: 'amount', formula: 'credit - debit' }],
        }),
      },
    ],
    layouts: page(
      [
        {
          kind: 'repeat',
          id: 'accounts',
          level: 'account',
          newPage: false,
          restartNumbers: false,
          after: 0,
          blocks: [
            {
              ...table,
              rows: [
                ...table.rows,
                {
                  id: 'control',
                  kind: 'end',
                  style: { above: 'thin', below: 'double' },
                  cells: {
                    number: { text: '{{ account.code }} {{ account.name }}, balance in the ledger' },
                    amount: { text: '{{ account.balance }}' },
                  },
                },
              ],
            },
          ],
        },
      ],
      'landscape',
      'Goods received, not billed',
      'as of {{ param.asOf | d MMMM y }}',
    ),
  }
  return setGroup(
    addGroup(
      shell,
      'waiting',
      { by: 'receipt.supplier.name', order: { by: 'name', descending: false }, repeatStart: true },
      { amount: '{{ sum(base_amount) }}' },
    ),
    'waiting',
    'supplier',
    { keepTogether: false },
  )
}

/** Requests to buy with their lines, by what became of them, and who decides. */
export function requestsList(): ReportDefinition {
  const lines: TableBlock = plainTable(
    'requestLines',
    'lines',
    [
      column('item', '', '{{ item.code }}', 60),
      column('description', '', '{{ description }}', 0),
      column('quantity', '', '{{ quantity | #,##0.# }} {{ unit_code }}', 70, right),
      column('amount', '', '{{ amount }}', 82, right),
    ],
    { left: 30 },
  )
  const table = plainTable('requests', 'request', [
    column('number', 'Request', '{{ number }}', 64, end('All requests')),
    column('date', 'Requested', '{{ requested_on }}', 68),
    column('who', 'By', '{{ requested_by }}, {{ department.name }}', 0),
    column('branch', 'Branch', '{{ branch.name }}', 84),
    column('needed', 'Needed by', '{{ needed_by }}', 68),
    column('approver', 'Approver', '{{ ifEmpty(approver.name, "not named yet") }}', 100),
    column('decided', 'Decided', '{{ approved_on }}', 68),
    column('reason', 'Reason', '{{ reason }}', 120),
    column('amount', 'Estimated, EUR', '{{ sum(lines.amount) }}', 82, { ...right, ...end('{{ sum(lines.amount) }}') }),
  ])
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      {
        name: 'status',
        label: 'Status',
        kind: 'choices',
        required: false,
        default: '"waiting"',
        choices: {
          table: '',
          value: '',
          label: '',
          list: ['waiting', 'approved', 'refused', 'ordered'].map(value => ({ value, label: value })),
        },
      },
      { name: 'dates', label: 'Requested', kind: 'dates', required: true, default: 'addMonths(today(), -2)', defaultTo: 'today()' },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('request', 'purchase_requests', {
          caption: 'Requests',
          fields: ['number', 'requested_on', 'requested_by', 'status', 'approved_on', 'needed_by', 'reason'],
          filters: ['status in (param.status)', 'requested_on between param.dates.from and param.dates.to'],
          sort: [by('requested_on'), by('number')],
          related: [
            related('department', 'departments', 'department_id', 'id', ['name']),
            related('branch', 'branches', 'branch_id', 'id', ['name']),
            related('approver', 'buyers', 'approver_id', 'id', ['name']),
          ],
          details: [
            level('lines', 'purchase_request_lines', {
              caption: 'Lines',
              on: [{ from: 'id', to: 'request_id' }],
              fields: ['description', 'quantity', 'unit_code', 'amount'],
              sort: [by('line_no')],
              related: [related('item', 'items', 'item_id', 'id', ['code'])],
            }),
          ],
        }),
      },
    ],
    layouts: page(
      [
        {
          ...table,
          rows: table.rows.flatMap(row =>
            row.kind === 'line' ? [row, { id: 'details', kind: 'extra' as const, cells: {}, nested: lines }] : [row],
          ),
        },
      ],
      'landscape',
      'Purchase requests',
      '{{ param.dates }} · {{ param.status }}',
    ),
  }
  return setGroup(
    addGroup(
      shell,
      'requests',
      { by: 'status', order: { by: 'given', given: ['waiting', 'approved', 'ordered', 'refused'], descending: false }, repeatStart: true },
      { amount: '{{ sum(lines.amount) }}' },
    ),
    'requests',
    'status',
    { keepTogether: false },
  )
}

/** The document that goes to a supplier, with the numbers that the supplier knows the items by. */
export function purchaseOrder(): ReportDefinition {
  const pair = (id: string, y: number, label: string, value: string) => [
    text(`${id}Label`, 310, y, 95, label, { colour: soft }),
    text(id, 405, y, 100.28, value, { align: 'right' }),
  ]
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      { name: 'dates', label: 'Ordered', kind: 'dates', required: true, default: 'addDays(today(), -6)', defaultTo: 'today()' },
      someSuppliers,
      { name: 'number', label: 'Number', kind: 'text', required: false },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'lines.quantity': { format: '#,##0.#' } },
        root: level('order', 'purchase_orders', {
          caption: 'Order',
          fields: ['number', 'order_date', 'currency_code', 'total', 'note'],
          filters: [
            'order_date between param.dates.from and param.dates.to',
            'supplier.code in (param.suppliers)',
            'number = param.number',
          ],
          sort: [by('number')],
          related: [
            supplier([related('town', 'towns', 'town_id', 'id', ['name'])]),
            related('branch', 'branches', 'branch_id', 'id', ['name']),
            related('warehouse', 'warehouses', 'warehouse_id', 'id', ['name']),
            related('buyer', 'buyers', 'buyer_id', 'id', ['name', 'email']),
            related('payment_term', 'payment_terms', 'payment_term_code', 'code', ['name']),
            related('request', 'purchase_requests', 'request_id', 'id', ['number']),
          ],
          details: [
            level('lines', 'purchase_order_lines', {
              caption: 'Lines',
              on: [{ from: 'id', to: 'order_id' }],
              fields: ['line_no', 'supplier_item_number', 'description', 'quantity', 'unit_code', 'unit_price', 'amount', 'expected_on'],
              sort: [by('line_no')],
              related: [related('item', 'items', 'item_id', 'id', ['code'])],
            }),
          ],
        }),
      },
    ],
    layouts: page(
      [
        {
          kind: 'repeat',
          id: 'orders',
          level: 'order',
          newPage: true,
          restartNumbers: true,
          outline: '{{ number }}  {{ supplier.name }}',
          after: 0,
          blocks: [
            {
              kind: 'panel',
              id: 'heading',
              height: 92,
              after: 14,
              items: [
                text('toLabel', 0, 0, 240, 'Order to', { size: 8, colour: soft }),
                text('to', 0, 13, 280, '{{ supplier.name }}', { bold: true, size: 10 }),
                text('toAddress', 0, 28, 280, '{{ supplier.address }}\n{{ supplier.town.postcode }} {{ supplier.town.name }}'),
                text('shipLabel', 0, 60, 240, 'Deliver to', { size: 8, colour: soft }),
                text('ship', 0, 72, 280, '{{ warehouse.name }}, {{ branch.address }}'),
                ...pair('number', 0, 'Order', '{{ number }}'),
                ...pair('date', 15, 'Date', '{{ order_date }}'),
                ...pair('buyer', 30, 'Buyer', '{{ buyer.name }}'),
                ...pair('terms', 45, 'Terms', '{{ payment_term.name }}'),
                ...pair('request', 60, 'Our request', '{{ request.number }}').map(item => ({
                  ...item,
                  showWhen: 'request.number != empty',
                })),
              ],
            },
            plainTable(
              'lines',
              'lines',
              [
                column('line', '', '{{ line_no }}', 18),
                column('theirs', 'Your number', '{{ supplier_item_number }}', 66),
                column('ours', 'Our item', '{{ item.code }}', 54),
                column('description', 'Description', '{{ description }}', 0),
                column('quantity', 'Quantity', '{{ quantity }}', 50, right),
                column('unit', '', '{{ unit_code }}', 26),
                column('price', 'Price', '{{ unit_price }}', 54, right),
                column('amount', 'Amount', '{{ amount }}', 66, { ...right, ...end('{{ sum(amount) }}'), carry: true }),
                column('expected', 'Wanted by', '{{ expected_on }}', 62),
              ],
              { after: 12, carried: { forward: 'Carried forward', brought: 'Brought forward' } },
            ),
            {
              kind: 'panel',
              id: 'foot',
              height: 30,
              after: 0,
              items: [
                text('sum', 200, 0, 305.28, 'Total of this order: {{ sum(lines.amount) }} {{ currency_code }}', {
                  bold: true,
                  align: 'right',
                }),
                text('note', 0, 0, 300, '{{ note }}', { italic: true, colour: soft }),
              ],
            },
          ],
        },
      ],
      'portrait',
      'Purchase order',
      '',
    ).map((layout): LayoutDefinition => ({ ...layout, documentName: '{{ number }}' })),
  }
}

/** Who supplies an item at what price: the best price of each item is marked, the others say how much more they are. */
export function priceComparison(): ReportDefinition {
  const best = 'min(base_price, over: item)'
  const table = plainTable('prices', 'offers', [
    column('supplier', 'Supplier', '{{ supplier.name }}', 0),
    column('number', 'Their number', '{{ supplier_item_number }}', 70),
    column('price', 'Price', '{{ price }}', 58, right),
    column('currency', '', '{{ currency_code }}', 30),
    column('base', 'Price, EUR', '{{ base_price }}', 62, right),
    column('more', 'Above best', `{{ if(base_price = ${best}, empty, base_price / ${best} - 1) | +0.0 % }}`, 58, right),
    column('pack', 'Pack', '{{ pack_size | #,##0.# }}', 40, right),
    column('minimum', 'Minimum', '{{ minimum_quantity | #,##0.# }}', 60, right),
    column('lead', 'Days', '{{ lead_days }}', 34, right),
    column('preferred', '', '{{ if(is_preferred, "preferred", "") }}', 60),
  ])
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      today,
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
        fields: { 'offers.price': { currency: 'currency_code' } },
        root: level('item', 'items', {
          caption: 'Item',
          fields: ['code', 'name', 'cost'],
          filters: ['category_id in (param.category)', 'has(offers)'],
          sort: [by('code')],
          details: [
            level('offers', 'item_suppliers', {
              caption: 'Prices',
              on: [{ from: 'id', to: 'item_id' }],
              fields: [
                'supplier_item_number',
                'price',
                'currency_code',
                'base_price',
                'pack_size',
                'minimum_quantity',
                'lead_days',
                'is_preferred',
              ],
              filters: ['valid_from <= param.asOf', 'valid_to = empty or valid_to >= param.asOf'],
              sort: [by('base_price'), by('supplier_id')],
              related: [supplier()],
            }),
          ],
        }),
      },
    ],
    layouts: page(
      [
        {
          ...table,
          groups: [{ id: 'item', by: 'item.code', order: { by: 'value', descending: false }, keepTogether: true }],
          rows: [
            table.rows[0]!,
            { id: 'items', kind: 'groupStart', group: 'item', cells: { supplier: { text: '{{ item.code }}  {{ item.name }}', span: 8 } } },
            ...table.rows.slice(1),
          ],
          looks: [
            {
              id: 'best',
              when: `base_price = ${best}`,
              columns: ['base', 'supplier'],
              style: { bold: true, colour: '#3b6b3f' },
              mark: '▸',
              meaning: 'best price of the item',
            },
          ],
          legend: true,
        },
      ],
      'landscape',
      'Prices of suppliers',
      'valid on {{ param.asOf | d MMMM y }} · category {{ param.category }}',
    ),
  }
}

/** The ten suppliers that most was bought from, and all others as one. */
export function spendBySupplier(): ReportDefinition {
  const table = plainTable('spend', 'bill', [
    column('place', '', '', 24, right),
    column('supplier', 'Supplier', '', 0),
    column('count', 'Bills', '', 50, right),
    column('average', 'Average', '', 74, right),
    column('spend', 'Spend, EUR', '', 90, right),
    column('share', 'Share', '', 56, right),
  ])
  const cells = {
    count: { text: '{{ count(bill, where: kind = "bill") }}' },
    average: { text: '{{ average(net, where: kind = "bill") | #,##0.00 }}' },
    spend: { text: '{{ sum(net) }}' },
    share: { text: '{{ share(net) | 0.0 % }}' },
  }
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
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
        fields: {},
        root: level('bill', 'supplier_bills', {
          caption: 'Bill',
          fields: ['number', 'kind', 'lines_total'],
          related: [supplier()],
          filters: ['bill_date between param.dates.from and param.dates.to'],
          sort: [by('number')],
          calculated: [{ name: 'net', formula: 'round(lines_total * rate, 2)' }],
        }),
      },
    ],
    layouts: page(
      [
        {
          ...table,
          groups: [
            {
              id: 'supplier',
              by: 'supplier.name',
              order: { by: 'total', total: 'sum(net)', descending: true },
              top: { count: 10, total: 'sum(net)', others: 'All others' },
            },
          ],
          rows: [
            table.rows[0]!,
            {
              id: 'suppliers',
              kind: 'groupEnd',
              group: 'supplier',
              style: { bold: false, above: 'none' },
              cells: { place: { text: '{{ group.number }}' }, supplier: { text: '{{ group.name }}' }, ...cells },
            },
            { id: 'end', kind: 'end', cells: { supplier: { text: 'All suppliers' }, ...cells } },
          ],
        },
      ],
      'portrait',
      'Spend by supplier',
      '{{ param.dates }}, without tax',
    ).map(layout => ({ ...layout, theme: 'ruled' })),
  }
}
