import type { NestedBlock } from '../../core/definition/blocks/nested'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import { plainTable } from '../../core/definition/upgrade'
import { by, column, end, level, page, related, soft, text } from './invoice'

const right = { style: { align: 'right' as const } }
const wide = 751.89

/** For each salesperson the register of their invoices of a period, and at the end what all of them come to. */
export function salespersonRegisters(): ReportDefinition {
  const register: NestedBlock = {
    kind: 'nested',
    id: 'register',
    report: 'Invoice register',
    name: 'Invoice register',
    feeds: [
      { parameter: 'salesperson', formula: 'id' },
      { parameter: 'period', formula: 'param.period' },
    ],
    totals: [
      { name: 'invoiced', type: 'number', scale: 2 },
      { name: 'open', type: 'number', scale: 2 },
      { name: 'documents', type: 'number', scale: 0 },
    ],
    left: 0,
    width: 0,
    after: 10,
    most: 200,
  }
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [{ name: 'period', label: 'Period', kind: 'period', required: true, default: 'period(today())' }],
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
          restartNumbers: false,
          outline: '{{ name }}',
          after: 0,
          blocks: [
            {
              kind: 'panel',
              id: 'heading',
              height: 32,
              after: 10,
              items: [
                text('name', 0, 0, 400, '{{ name }}', { named: 'heading', size: 13 }),
                text('branch', 0, 18, 400, '{{ branch.name }} · {{ email }}', { named: 'label' }),
                text('sum', 400, 4, wide - 400, '{{ register.invoiced | #,##0.00 }} EUR invoiced', { align: 'right', bold: true }),
                text('open', 400, 18, wide - 400, '{{ register.open | #,##0.00 }} EUR open', { align: 'right', colour: soft }),
              ],
            },
            register,
          ],
        },
        { kind: 'break', id: 'last', after: 0 },
        plainTable('all', 'person', [
          column('name', 'Salesperson', '{{ name }}', 0, end('All')),
          column('documents', 'Documents', '{{ register.documents }}', 90, { ...right, ...end('{{ sum(register.documents) }}') }),
          column('invoiced', 'Invoiced, EUR', '{{ register.invoiced | #,##0.00 }}', 110, {
            ...right,
            ...end('{{ sum(register.invoiced) | #,##0.00 }}'),
          }),
          column('open', 'Open, EUR', '{{ register.open | #,##0.00 }}', 110, { ...right, ...end('{{ sum(register.open) | #,##0.00 }}') }),
        ]),
      ],
      'landscape',
      'Registers by salesperson',
      '{{ param.period.label }}',
    ),
  }
}

/** Customers that owe something, each with what they may owe and their statement of account. */
export function customerSheets(): ReportDefinition {
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      {
        name: 'salesperson',
        label: 'Salesperson',
        kind: 'choices',
        required: false,
        help: 'Leave empty for the customers of all of them.',
        choices: { table: 'salespeople', value: 'id', label: 'name' },
      },
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('customer', 'customers', {
          caption: 'Customer',
          fields: ['code', 'name', 'credit_limit', 'currency_code'],
          related: [related('seller', 'salespeople', 'salesperson_id', 'id', ['name'])],
          filters: ['salesperson_id in (param.salesperson)', 'credit_limit > 0'],
          sort: [by('name'), by('code')],
        }),
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
              id: 'limit',
              height: 42,
              after: 14,
              showWhen: 'statement.open != empty',
              items: [
                { kind: 'box', id: 'frame', x: 0, y: 0, width: 505.28, height: 38, fill: '#f4efe6', thickness: 0 },
                text('seller', 10, 6, 240, 'Looked after by {{ seller.name }}', { colour: soft }),
                text('limit', 10, 21, 240, 'May owe {{ credit_limit | #,##0 }} {{ currency_code }}'),
                text('owes', 260, 6, 235, 'Owes {{ statement.open | #,##0.00 }} {{ currency_code }}', { align: 'right', bold: true }),
                text('left', 260, 21, 235, "{{ credit_limit - statement.open | #,##0.00 'left';#,##0.00 'over it' }}", {
                  align: 'right',
                  colour: soft,
                }),
              ],
            },
            {
              kind: 'nested',
              id: 'statement',
              report: 'Statement of account',
              name: 'Statement of account',
              feeds: [{ parameter: 'customers', formula: 'code' }],
              totals: [{ name: 'open', type: 'number', scale: 2 }],
              left: 0,
              width: 0,
              after: 0,
              most: 200,
            },
          ],
        },
      ],
      'portrait',
      'Customer sheets',
      'as of {{ today() | d MMMM y }}',
    ).map(layout => ({ ...layout, documentName: 'Customer {{ code }}' })),
  }
}
