import { addGroup } from '../core/definition/edits/tableGroups'
import type { GroupDefinition } from '../core/definition/blocks/table'
import { formatVersion, type ReportDefinition } from '../core/definition/report'
import { plainTable } from '../core/definition/upgrade'
import { by, column, end, level, page, related } from '../demo/reports/invoice'

const right = { style: { align: 'right' as const } }

/**
 * Invoice lines in three levels of groups (branch, salesperson, customer) with a count and a sum at the end of each: about `lines` of
 * them.
 */
export function groupedLines(
  lines: number,
  fields: readonly string[] = ['invoice.branch.name', 'invoice.salesperson.name', 'invoice.customer.name'],
  order: GroupDefinition['order'] = { by: 'name', descending: false },
): ReportDefinition {
  const totals = { number: '{{ count(line) }} lines', amount: '{{ sum(base) }}' }
  const report: ReportDefinition = {
    format: formatVersion,
    language: 'en-GB',
    parameters: [],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: { 'line.base': { format: '#,##0.00' } },
        root: level('line', 'invoice_lines', {
          // about 4 lines of each invoice have an amount
          caption: 'Line',
          fields: ['description', 'amount'],
          filters: ['amount != empty', `invoice_id <= ${Math.round(lines / 3.4)}`],
          sort: [by('invoice_id'), by('line_no')],
          related: [
            {
              ...related(
                'invoice',
                'invoices',
                'invoice_id',
                'id',
                ['number', 'invoice_date'],
                [
                  related('branch', 'branches', 'branch_id', 'id', ['name']),
                  related('salesperson', 'salespeople', 'salesperson_id', 'id', ['name']),
                  related('customer', 'customers', 'customer_id', 'id', ['name', 'code']),
                ],
              ),
            },
          ],
          calculated: [{ name: 'base', formula: 'round(amount * invoice.rate, 2)' }],
        }),
      },
    ],
    layouts: page(
      [
        plainTable('list', 'line', [
          column('number', 'Invoice', '{{ invoice.number }}', 70),
          column('date', 'Date', '{{ invoice.invoice_date }}', 62),
          column('description', 'Description', '{{ description }}', 0),
          column('quantity', 'Quantity', '{{ quantity }}', 54, right),
          column('amount', 'EUR', '{{ base }}', 80, { ...right, ...end('{{ sum(base) }}') }),
        ]),
      ],
      'portrait',
      'Lines by branch, salesperson and customer',
      'all',
    ),
  }
  return fields.reduce((sum, field) => addGroup(sum, 'list', { by: field, order, repeatStart: true }, totals), report)
}
