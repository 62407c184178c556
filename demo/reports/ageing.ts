import { aheadColumns, pastColumns } from '../../core/definition/edits/ageing'
import { setGroup, addGroup } from '../../core/definition/edits/tableGroups'
import type { DataSetDefinition, RelatedDefinition } from '../../core/definition/levels'
import { formatVersion, type LayoutDefinition, type ReportDefinition } from '../../core/definition/report'
import type { CrosstabBlock } from '../../core/definition/blocks/crosstab'
import type { RowDefinition, TableBlock } from '../../core/definition/blocks/table'
import type { ParameterDefinition } from '../../core/definition/parameters'
import type { OpenItemsTable } from '../../core/definition/tables'
import { type PlainColumn, plainTable } from '../../core/definition/upgrade'
import { by, column, end, level, page, related, soft, text } from './invoice'

/** What differs between customers and suppliers. */
interface Side {
  account: string
  party: string
  parties: string
  key: string
  documents: OpenItemsTable['parts']
  title: string
  caption: string
  people: RelatedDefinition[]
  sign: string
}

const terms = related('payment_term', 'payment_terms', 'payment_term_code', 'code', ['days'])
const settled = (table: string, to: string, adds: boolean, booked: string) => ({
  table,
  on: [{ from: 'id', to }],
  date: 'applied_on',
  amount: 'amount',
  booked,
  adds,
})

const customers: Side = {
  account: '1200',
  party: 'customer',
  parties: 'customers',
  key: 'customer_id',
  title: 'Customer ageing',
  caption: 'Customer',
  sign: 'debit - credit',
  people: [related('salesperson', 'salespeople', 'salesperson_id', 'id', ['name'])],
  documents: [
    {
      label: 'Document',
      table: 'invoices',
      related: [terms],
      filters: [],
      date: 'invoice_date',
      amount: 'total',
      booked: 'base_total',
      fields: {
        control: '"1200"',
        customer_id: 'customer_id',
        branch_id: 'branch_id',
        salesperson_id: 'salesperson_id',
        number: 'number',
        what: 'kind',
        currency_code: 'currency_code',
        due_date: 'due_date',
        terms_days: 'payment_term.days',
      },
      settled: [
        settled('applications', 'invoice_id', false, 'base_amount'),
        settled('applications', 'credit_note_id', true, 'source_base_amount'),
      ],
    },
    {
      label: 'Money',
      table: 'receipts',
      related: [],
      filters: [],
      date: 'receipt_date',
      amount: '-amount',
      booked: '-base_amount',
      fields: {
        control: '"1200"',
        customer_id: 'customer_id',
        branch_id: 'branch_id',
        number: 'number',
        what: '"receipt"',
        currency_code: 'currency_code',
        due_date: 'receipt_date',
      },
      settled: [settled('applications', 'receipt_id', true, 'source_base_amount')],
    },
  ],
}

const suppliers: Side = {
  account: '2100',
  party: 'supplier',
  parties: 'suppliers',
  key: 'supplier_id',
  title: 'Supplier ageing',
  caption: 'Supplier',
  sign: 'credit - debit',
  people: [],
  documents: [
    {
      label: 'Document',
      table: 'supplier_bills',
      related: [terms],
      filters: [],
      date: 'bill_date',
      amount: 'total',
      booked: 'base_total',
      fields: {
        control: '"2100"',
        supplier_id: 'supplier_id',
        branch_id: 'branch_id',
        number: 'number',
        their_number: 'supplier_number',
        what: 'kind',
        currency_code: 'currency_code',
        due_date: 'due_date',
        terms_days: 'payment_term.days',
      },
      settled: [
        settled('payment_applications', 'bill_id', false, 'base_amount'),
        settled('payment_applications', 'credit_id', true, 'source_base_amount'),
      ],
    },
    {
      label: 'Money',
      table: 'payments',
      related: [],
      filters: [],
      date: 'payment_date',
      amount: '-amount',
      booked: '-base_amount',
      fields: {
        control: '"2100"',
        supplier_id: 'supplier_id',
        branch_id: 'branch_id',
        number: 'number',
        what: '"payment"',
        currency_code: 'currency_code',
        due_date: 'payment_date',
      },
      settled: [settled('payment_applications', 'payment_id', true, 'source_base_amount')],
    },
  ],
}

const openItems = (side: Side): OpenItemsTable => ({
  kind: 'openItems',
  name: 'open_items',
  asOf: 'param.asOf',
  columns: [...new Set(side.documents.flatMap(part => Object.keys(part.fields)))],
  parts: side.documents,
})

const dueDates = ['due_date', 'addDays(date, terms_days)', 'date']

/** Amounts with two digits, nothing as a dash. */
const dashed = '#,##0.00;−#,##0.00;–'
/** The rate of the item's currency that held on the as-of date (rule 26 of the semantics). */
const rate: RelatedDefinition = {
  name: 'rate',
  table: 'exchange_rates',
  on: [{ from: 'currency_code', to: 'currency_code' }],
  fields: ['rate'],
  related: [],
  pick: { latest: 'rate_date', at: 'param.asOf' },
}

const asOf: ParameterDefinition = { name: 'asOf', label: 'As of', kind: 'date', required: true, default: 'today()' }

/** Journal lines with the day they were posted, to be added up on their account. */
const postings = (side: Side): DataSetDefinition => ({
  name: 'postings',
  source: 'caisvelho',
  fields: {},
  root: level('posting', 'journal_lines', {
    fields: ['account_code'],
    related: [related('journal', 'journals', 'journal_id', 'id', ['posting_date'])],
    calculated: [{ name: 'amount', formula: side.sign }],
  }),
})

function schedule(side: Side): ReportDefinition {
  const limited = side === customers
  return {
    format: formatVersion,
    language: 'en-GB',
    // rule 30 of the semantics: all open items at their booked rates
    tieOuts: [
      {
        id: 'control',
        name: 'All open items, as booked, equal the control account',
        left: { is: 'formula', dataSet: 'main', formula: 'sum(all_booked)' },
        right: { is: 'formula', dataSet: 'main', formula: 'sum(balance)' },
        tolerance: '0',
      },
    ],
    parameters: [
      asOf,
      {
        name: 'by',
        label: 'Aged by',
        kind: 'choice',
        required: true,
        default: '"due"',
        choices: {
          table: '',
          value: '',
          label: '',
          list: [
            { value: 'due', label: 'due date' },
            { value: 'document', label: 'document date' },
          ],
        },
      },
      { name: 'unapplied', label: 'With credits and unapplied money', kind: 'boolean', required: true, default: 'true' },
      {
        name: side.parties,
        label: limited ? 'Customers' : 'Suppliers',
        kind: 'choices',
        required: false,
        choices: { table: side.parties, value: 'code', label: 'name' },
      },
      { name: 'threshold', label: 'Only over, EUR', kind: 'decimal', required: false },
      ...(limited
        ? [{ name: 'overLimit', label: 'Only over their credit limit', kind: 'boolean' as const, required: true, default: 'false' }]
        : []),
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {
          'items.open': { currency: 'currency_code', format: '#,##0.00' },
          ...Object.fromEntries([0, 1, 2, 3, 4].map(index => [`items.own_${index}`, { currency: 'currency_code', format: dashed }])),
          ...Object.fromEntries([0, 1, 2, 3, 4].map(index => [`items.age_${index}`, { format: dashed }])),
          'items.base_open': { caption: 'Open, EUR' },
          'items.age_due': { format: 'd MMM y' },
        },
        root: level('account', 'accounts', {
          caption: 'Control account',
          fields: ['code', 'name'],
          filters: [`code = "${side.account}"`],
          totals: [
            {
              name: 'balance',
              table: '@postings',
              on: [{ from: 'code', to: 'account_code' }],
              total: 'sum',
              value: 'amount',
              filters: ['journal_posting_date <= param.asOf'],
            },
            {
              name: 'all_booked',
              table: '@open_items',
              on: [{ from: 'code', to: 'control' }],
              total: 'sum',
              value: 'booked_open',
              filters: [],
            },
          ],
          details: [
            level('items', '@open_items', {
              caption: 'Open items',
              on: [{ from: 'code', to: 'control' }],
              fields: ['what', 'number', 'date', 'currency_code', 'open', 'booked_open'],
              related: [
                related(side.party, side.parties, side.key, 'id', ['code', 'name', ...(limited ? ['credit_limit'] : [])]),
                related('branch', 'branches', 'branch_id', 'id', ['name']),
                ...side.people,
                rate,
              ],
              filters: ['param.unapplied or open > 0', `${side.party}.code in (param.${side.parties})`],
              sort: [by('date'), by('number')],
              calculated: [{ name: 'base_open', formula: 'round(open * rate.rate, 2)' }],
              ageings: [
                {
                  name: 'age',
                  amount: 'base_open',
                  asOf: 'param.asOf',
                  dates: ['if(param.by = "document", date, due_date)', ...dueDates.slice(1)],
                  direction: 'past',
                  columns: pastColumns,
                },
                {
                  name: 'own',
                  amount: 'open',
                  asOf: 'param.asOf',
                  dates: ['if(param.by = "document", date, due_date)', ...dueDates.slice(1)],
                  direction: 'past',
                  columns: pastColumns,
                },
              ],
            }),
          ],
        }),
      },
      postings(side),
    ],
    tables: [openItems(side)],
    layouts: [],
  }
}

const right = { style: { align: 'right' as const } }
const ages = (name: string, width: number, value = (field: string) => `{{ ${field} }}`): PlainColumn[] =>
  pastColumns.map((each, index) =>
    column(`a${index}`, each.label, value(`${name}_${index}`), width, { ...right, ...end(`{{ sum(${name}_${index}) }}`) }),
  )

/** Lines that lead from the schedule's total to the control account (rule 30 of the semantics). */
const reconciling: RowDefinition[] = [
  ['share', 'In per cent', {}],
  ['leftOut', 'Left out of this schedule, at booked rates', { total: '{{ account.all_booked - sum(booked_open) }}' }],
  ['revalued', 'Booked at other rates than those of the day', { total: '{{ sum(booked_open) - sum(base_open) }}' }],
  ['control', '{{ account.code }} {{ account.name }}, balance in the ledger', { total: '{{ account.balance }}' }],
].map(([id, label, cells]): RowDefinition => ({
  id: id as string,
  kind: 'end',
  style: id === 'control' ? { above: 'thin', below: 'double', bold: true } : { bold: false, above: 'none' },
  cells: {
    party: { text: label as string, style: { bold: id === 'control' } },
    ...Object.fromEntries(Object.entries(cells as Record<string, string>).map(([key, value]) => [key, { text: value }])),
    ...(id === 'share'
      ? Object.fromEntries(pastColumns.map((_, index) => [`a${index}`, { text: `{{ sum(age_${index}) / sum(base_open) | 0.0 % }}` }]))
      : {}),
  },
}))

function summary(side: Side): TableBlock {
  const limited = side === customers
  const plain = plainTable('ageing', 'items', [
    column('party', side.caption, '', 0, end('All')),
    ...(limited ? [column('limit', 'Limit, EUR', '', 62, right)] : []),
    column('days', 'Avg. days', '', 46, {
      ...right,
      ...end('{{ sum(age_weight, where: base_open > 0) / sum(base_open, where: base_open > 0) | 0 }}'),
    }),
    column('total', 'Open, EUR', '', 74, { ...right, ...end('{{ sum(base_open) }}') }),
    ...ages('age', 68),
  ])
  const cells = {
    days: { text: '{{ sum(age_weight, where: base_open > 0) / sum(base_open, where: base_open > 0) | 0 }}' },
    total: { text: '{{ sum(base_open) }}' },
    ...Object.fromEntries(pastColumns.map((_, index) => [`a${index}`, { text: `{{ sum(age_${index}) }}` }])),
  }
  const having = [
    '(param.threshold = empty or sum(base_open) > param.threshold)',
    ...(limited ? ['(not param.overLimit or sum(base_open) > first(customer.credit_limit * rate.rate))'] : []),
  ].join(' and ')
  return {
    ...plain,
    groups: [
      { id: 'branch', by: 'branch.name', order: { by: 'name', descending: false }, repeatStart: true },
      { id: side.party, by: `${side.party}.name`, order: { by: 'name', descending: false }, having },
    ],
    rows: [
      plain.rows.find(row => row.kind === 'titles')!,
      { id: 'branches', kind: 'groupStart', group: 'branch', cells: { party: { text: '{{ group.name }}', span: 3 } } },
      {
        id: 'parties',
        kind: 'groupEnd',
        group: side.party,
        style: { bold: false, above: 'none' },
        cells: {
          party: { text: '{{ group.name }}' },
          ...(limited ? { limit: { text: '{{ first(customer.credit_limit * rate.rate) | #,##0 }}' } } : {}),
          ...cells,
        },
      },
      { id: 'branchEnd', kind: 'groupEnd', group: 'branch', cells: { party: { text: 'Total {{ group.name }}' }, ...cells } },
      plain.rows.find(row => row.kind === 'end')!,
      ...reconciling,
    ],
    ...(limited
      ? {
          looks: [
            {
              id: 'over',
              when: 'sum(base_open) > first(customer.credit_limit * rate.rate)',
              columns: ['total', 'limit'],
              kinds: ['groupEnd'],
              style: { colour: '#a13c31' },
              meaning: 'over the credit limit',
            },
          ],
          legend: true,
        }
      : {}),
  }
}

function detailed(): TableBlock {
  const plain = plainTable('detail', 'items', [
    column('party', 'Number', '{{ number }}', 0, end('All')),
    column('what', '', '{{ what }}', 60),
    column('date', 'Date', '{{ date }}', 64),
    column('due', 'Due', '{{ age_due }}', 64),
    column('days', 'Days', '{{ age_days }}', 34, {
      ...right,
      ...end('{{ sum(age_weight, where: base_open > 0) / sum(base_open, where: base_open > 0) | 0 }}'),
    }),
    column('currency', '', '{{ currency_code }}', 28),
    column('open', 'Open', '{{ open }}', 64, right),
    column('total', 'Open, EUR', '{{ base_open }}', 68, { ...right, ...end('{{ sum(base_open) }}') }),
    ...ages('age', 62),
  ])
  return { ...plain, rows: [...plain.rows, ...reconciling] }
}

function byCurrency(side: Side): TableBlock {
  const plain = plainTable('currencies', 'items', [
    column('party', side.caption, '', 0),
    column('total', 'Open', '', 84, { ...right, ...end('{{ sum(open) }}') }),
    ...ages('own', 78),
  ])
  const cells = {
    total: { text: '{{ sum(open) }}' },
    ...Object.fromEntries(pastColumns.map((_, index) => [`a${index}`, { text: `{{ sum(own_${index}) }}` }])),
  }
  return {
    ...plain,
    groups: [
      { id: 'currency', by: 'currency_code', order: { by: 'value', descending: false }, repeatStart: true },
      { id: side.party, by: `${side.party}.name`, order: { by: 'name', descending: false } },
    ],
    rows: [
      plain.rows.find(row => row.kind === 'titles')!,
      { id: 'currencyStart', kind: 'groupStart', group: 'currency', cells: { party: { text: '{{ group.name }}', span: 3 } } },
      {
        id: 'parties',
        kind: 'groupEnd',
        group: side.party,
        style: { bold: false, above: 'none' },
        cells: { party: { text: '{{ group.name }}' }, ...cells },
      },
      { id: 'currencyEnd', kind: 'groupEnd', group: 'currency', cells: { party: { text: 'Total {{ group.name }}' }, ...cells } },
    ],
  }
}

/** Branches with their customers or suppliers down the left, ages across the top. */
function crossed(side: Side): CrosstabBlock {
  const labels = pastColumns.map(each => `"${each.label}"`)
  const days = pastColumns.flatMap(each => (each.upTo === undefined ? [] : [each.upTo]))
  const cases = labels.slice(0, -1).flatMap((label, at) => [at, label])
  return {
    kind: 'crosstab',
    id: 'crossed',
    level: 'items',
    left: 0,
    width: 0,
    after: 8,
    rows: [
      { id: 'branch', by: 'branch.name', caption: 'Branch', order: { by: 'name', descending: false }, total: 'after' },
      { id: side.party, by: `${side.party}.name`, caption: side.caption, order: { by: 'name', descending: false }, total: 'after' },
    ],
    columns: [
      {
        id: 'age',
        by: `choose(bucket(age_days, ${days.join(', ')}), ${cases.join(', ')}, ${labels.at(-1)})`,
        caption: 'Days overdue',
        order: { by: 'given', descending: false, given: pastColumns.map(each => each.label) },
        total: 'after',
      },
    ],
    measures: [{ id: 'open', formula: 'sum(base_open)', caption: 'Open, EUR', format: dashed, shade: true }],
    wide: 'smaller',
    repeatTitles: true,
  }
}

/**
 * Open items as of a date by age, with the control account they tie to: a summary by branch, each document, or in the documents' own
 * currencies.
 */
function ageing(side: Side): ReportDefinition {
  const report = schedule(side)
  const under =
    `as of {{ param.asOf | d MMMM y }} · by {{ param.by.label }} · {{ if(param.unapplied, "with", "without") }} credits ` +
    `and unapplied money`
  const layout = (name: string, table: TableBlock | CrosstabBlock, theme: string): LayoutDefinition => ({
    ...page(
      [{ kind: 'repeat', id: `${table.id}Account`, level: 'account', newPage: false, restartNumbers: false, after: 0, blocks: [table] }],
      'landscape',
      side.title,
      under,
    )[0]!,
    name,
    theme,
  })
  const rename = (each: LayoutDefinition): LayoutDefinition => ({
    ...each,
    top: { ...each.top!, id: `${each.name.replace(/\W/g, '')}Top` },
    foot: { ...each.foot!, id: `${each.name.replace(/\W/g, '')}Foot` },
  })
  let whole: ReportDefinition = {
    ...report,
    layouts: [
      layout('Summary', summary(side), 'plain'),
      layout('Every document', detailed(), 'plain'),
      layout('In own currency', byCurrency(side), 'ruled'),
      layout('Crosstab by age', crossed(side), 'plain'),
    ].map(rename),
  }
  whole = addGroup(
    whole,
    'detail',
    { by: `${side.party}.name`, order: { by: 'name', descending: false }, repeatStart: true },
    {
      total: '{{ sum(base_open) }}',
      days: '{{ sum(age_weight, where: base_open > 0) / sum(base_open, where: base_open > 0) | 0 }}',
      ...Object.fromEntries(pastColumns.map((_, index) => [`a${index}`, `{{ sum(age_${index}) }}`])),
    },
  )
  return setGroup(whole, 'detail', side.party, { keepTogether: false })
}

export const customerAgeing = (): ReportDefinition => ageing(customers)
export const supplierAgeing = (): ReportDefinition => ageing(suppliers)

/**
 * What is to be paid by a date: open bills that fall due until then, less credits, by supplier, with the account that the money goes to.
 */
export function paymentsDue(): ReportDefinition {
  const columns = plainTable('due', 'items', [
    column('number', 'Number', '{{ number }}', 74, end('To pay, EUR')),
    column('their', 'Their number', '{{ their_number }}', 84),
    column('date', 'Date', '{{ date }}', 66),
    column('due', 'Due', '{{ pay_due }}', 66),
    column('days', 'In days', '{{ pay_days }}', 44, right),
    column('currency', '', '{{ currency_code }}', 30),
    column('open', 'To pay', '{{ open }}', 0, { ...right }),
    column('total', 'EUR', '{{ base_open }}', 80, { ...right, ...end('{{ sum(base_open) }}') }),
  ])
  const shell: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      asOf,
      { name: 'until', label: 'Due until', kind: 'date', required: true, default: 'addDays(today(), 14)' },
      {
        name: 'suppliers',
        label: 'Suppliers',
        kind: 'choices',
        required: false,
        choices: { table: 'suppliers', value: 'code', label: 'name' },
      },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'items.open': { currency: 'currency_code' } },
        root: level('items', '@open_items', {
          caption: 'Open items',
          fields: ['what', 'number', 'their_number', 'date', 'currency_code', 'open', 'booked_open'],
          related: [
            related('supplier', 'suppliers', 'supplier_id', 'id', ['code', 'name', 'bank_account']),
            rate,
            related('branch', 'branches', 'branch_id', 'id', [], [related('company', 'companies', 'company_id', 'id', [])]),
          ],
          calculated: [{ name: 'base_open', formula: 'round(open * rate.rate, 2)' }],
          filters: ['pay_due <= param.until', 'supplier.code in (param.suppliers)'],
          sort: [by('date'), by('number')],
          ageings: [{ name: 'pay', amount: 'base_open', asOf: 'param.asOf', dates: dueDates, direction: 'ahead', columns: aheadColumns }],
        }),
      },
    ],
    tables: [openItems(suppliers)],
    layouts: page([columns], 'portrait', 'Payments due', 'open as of {{ param.asOf | d MMMM y }}, due until {{ param.until | d MMMM y }}'),
  }
  const grouped = setGroup(
    addGroup(
      shell,
      'due',
      { by: 'supplier.name', order: { by: 'name', descending: false }, repeatStart: true },
      { open: '{{ sum(open) }}', total: '{{ sum(base_open) }}' },
    ),
    'due',
    'supplier',
    { having: 'sum(open) > 0' },
  )
  const start = (table: TableBlock): TableBlock => ({
    ...table,
    // a supplier is paid all at once, what they owe us taken off
    payments: {
      group: 'supplier',
      terms: {
        payer: 'branch.company.legal_name',
        payerAccount: 'branch.company.iban',
        payerBank: 'branch.company.bic',
        on: 'today()',
        payee: 'supplier.name',
        payeeAccount: 'supplier.bank_account',
        amount: 'sum(open)',
        currency: 'if(distinct(currency_code) = 1, currency_code, empty)',
        about: 'if(length(listed(their_number)) > 140, join(" to ", first(their_number), last(their_number)), listed(their_number))',
      },
    },
    rows: table.rows.map(row =>
      row.kind === 'groupStart'
        ? {
            ...row,
            cells: {
              number: { text: '{{ group.name }}', span: 4 },
              days: { text: 'Pay to {{ supplier.bank_account }}', span: 4, style: { align: 'right', bold: false, colour: soft } },
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

/** For each customer: what went to and fro in a stretch of time with the balance after each, and at the foot what is open by age. */
export function accountStatement(): ReportDefinition {
  const document = { customer_id: 'customer_id', number: 'number', day: 'invoice_date', amount: 'total', what: 'kind', due: 'due_date' }
  const box = (x: number, label: string, value: string, bold = false) => [
    { kind: 'box' as const, id: `box${x}`, x, y: 16, width: 80, height: 34, border: '#b9afa1', thickness: 0.6 },
    text(`label${x}`, x + 4, 19, 72, label, { colour: soft, size: 7.5, align: 'right' }),
    text(`value${x}`, x + 4, 33, 72, value, { align: 'right', bold }),
  ]
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      { ...asOf, label: 'As of' },
      { name: 'since', label: 'Movements since', kind: 'date', required: true, default: 'addDays(addMonths(today(), -3), 1)' },
      {
        name: 'customers',
        label: 'Customers',
        kind: 'choices',
        required: false,
        help: 'Leave empty for all with something open.',
        choices: { table: 'customers', value: 'code', label: 'name' },
      },
    ],
    handsOut: [{ name: 'open', formula: 'sum(open.open)' }],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'open.open': { format: '#,##0.00' } },
        root: level('customer', 'customers', {
          caption: 'Customer',
          fields: ['code', 'name', 'currency_code'],
          filters: ['code in (param.customers)', 'items != 0'],
          sort: [by('name')],
          related: [related('town', 'towns', 'town_id', 'id', ['name'])],
          totals: [
            {
              name: 'brought',
              table: '@movements',
              on: [{ from: 'id', to: 'customer_id' }],
              total: 'sum',
              value: 'amount',
              filters: ['day < param.since'],
            },
            { name: 'items', table: '@open_items', on: [{ from: 'id', to: 'customer_id' }], total: 'count', filters: [] },
          ],
          details: [
            level('movements', '@movements', {
              caption: 'Movements',
              on: [{ from: 'id', to: 'customer_id' }],
              fields: ['what', 'number', 'day', 'due', 'amount'],
              filters: ['day between param.since and param.asOf'],
              sort: [by('day'), by('number')],
            }),
            level('open', '@open_items', {
              caption: 'Open items',
              on: [{ from: 'id', to: 'customer_id' }],
              fields: ['number', 'date', 'open'],
              sort: [by('date')],
              ageings: [{ name: 'age', amount: 'open', asOf: 'param.asOf', dates: dueDates, direction: 'past', columns: pastColumns }],
            }),
          ],
        }),
      },
      {
        name: 'bills',
        source: 'caisvelho',
        fields: {},
        root: level('bill', 'invoices', { fields: ['number', 'invoice_date', 'total', 'kind'] }),
      },
      {
        name: 'money',
        source: 'caisvelho',
        fields: {},
        root: level('receipt', 'receipts', { fields: ['number', 'receipt_date', 'amount'] }),
      },
    ],
    tables: [
      openItems(customers),
      {
        kind: 'stack',
        name: 'movements',
        origin: 'kind',
        columns: ['customer_id', 'number', 'day', 'amount', 'what', 'due'],
        parts: [
          { dataSet: 'bills', label: 'Document', fields: document },
          {
            dataSet: 'money',
            label: 'Money',
            fields: { customer_id: 'customer_id', number: 'number', day: 'receipt_date', amount: '-amount', what: '"receipt"' },
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
              height: 56,
              after: 12,
              items: [
                text('name', 0, 0, 300, '{{ name }}', { bold: true, size: 11 }),
                text('address', 0, 16, 300, '{{ address }}\n{{ town.postcode }} {{ town.name }}'),
                text('code', 340, 0, 165.28, 'Customer {{ code }}', { align: 'right', colour: soft }),
                text('currency', 340, 14, 165.28, 'All amounts in {{ currency_code }}', { align: 'right', colour: soft }),
              ],
            },
            plainTable(
              'movements',
              'movements',
              [
                column('day', 'Date', '{{ day }}', 70),
                column('what', '', '{{ what }}', 64),
                column('number', 'Number', '{{ number }}', 0),
                column('due', 'Due', '{{ due }}', 70),
                column('amount', 'Amount', '{{ amount }}', 84, { ...right, ...end('{{ sum(amount) }}') }),
                column('balance', 'Balance', '{{ customer.brought + running(amount) | #,##0.00 }}', 84, {
                  ...right,
                  ...end('{{ customer.brought + sum(amount) | #,##0.00 }}'),
                }),
              ],
              { after: 18 },
            ),
            {
              kind: 'panel',
              id: 'boxes',
              height: 52,
              after: 0,
              atBottom: true,
              items: [
                text('boxesLabel', 0, 0, 400, 'Open by age, in days past due', { bold: true, size: 8 }),
                ...pastColumns.flatMap((each, index) => box(index * 85, each.label, `{{ sum(open.age_${index}) | #,##0.00 }}`)),
                ...box(425, 'Open in all', '{{ sum(open.open) | #,##0.00 }}', true),
              ],
            },
          ],
        },
      ],
      'portrait',
      'Statement of account',
      'as of {{ param.asOf | d MMMM y }}',
    ).map((layout): LayoutDefinition => ({
      ...layout,
      documentName: 'Statement {{ code }}',
      blocks: layout.blocks.map(block => (block.kind === 'repeat' ? { ...block, blocks: block.blocks.map(withBrought) } : block)),
    })),
  }
}

/** The balance brought forward stands above the first movement. */
function withBrought<B extends { kind: string }>(block: B): B {
  if (block.kind !== 'table') return block
  const table = block as unknown as TableBlock
  const titles: RowDefinition = {
    id: 'broughtRow',
    kind: 'titles',
    cells: {
      day: { text: '{{ param.since }}' },
      number: { text: 'Balance brought forward' },
      balance: { text: '{{ customer.brought | #,##0.00 }}' },
    },
    style: { bold: false, italic: true, below: 'none' },
  }
  return {
    ...table,
    rows: [...table.rows.filter(row => row.kind === 'titles'), titles, ...table.rows.filter(row => row.kind !== 'titles')],
  } as unknown as B
}
