import type { InvoiceMapping, TermFormulas } from '../../core/definition/einvoice'
import type { RelatedDefinition } from '../../core/definition/levels'
import type { ReportDefinition } from '../../core/definition/report'
import { isRepeat } from '../../core/definition/blocks/block'
import { isPanel, type PanelBlock } from '../../core/definition/blocks/panel'
import { related, soft, text } from './invoice'

/** What an invoice by law names beside what stands on paper: the company, the order, the invoice that is credited, categories of tax. */
const lawful: RelatedDefinition[] = [
  related('sales_order', 'orders', 'order_id', 'id', []),
  related('credited', 'invoices', 'credited_invoice_id', 'id', []),
  related('freight_tax', 'tax_codes', 'freight_tax_code', 'code', []),
  related('discount_tax', 'tax_codes', 'discount_tax_code', 'code', []),
]

/** How the company tells its invoices; credit notes stand with amounts below zero in its tables, and with plain ones in an e-invoice. */
export function mapping(kind: '380' | '381'): InvoiceMapping {
  const amount = (formula: string) => (kind === '381' ? `-(${formula})` : formula)
  const rateOf = (code: string) => `first(taxes.rate, where: taxes.tax_code = ${code})`
  const document: TermFormulas = {
    'BT-1': 'number',
    'BT-2': 'invoice_date',
    'BT-3': `"${kind}"`,
    'BT-5': 'currency_code',
    'BT-6': 'if(currency_code = branch.company.currency_code, empty, branch.company.currency_code)',
    'BT-9': 'due_date',
    'BT-13': 'sales_order.customer_reference',
    'BT-20': 'if(payment_term.name = empty, "On receipt", payment_term.name)',
    'BT-22': 'note',
    'BT-25': 'credited.number',
    'BT-26': 'credited.invoice_date',
    'BT-27': 'branch.company.legal_name',
    'BT-30': 'branch.company.registration_number',
    'BT-31': 'branch.company.tax_number',
    'BT-34': 'branch.company.email',
    'BT-35': 'branch.company.address',
    'BT-37': 'branch.company.town.name',
    'BT-38': 'branch.company.town.postcode',
    'BT-40': 'branch.company.country_code',
    'BT-41': 'salesperson.name',
    'BT-42': 'branch.phone',
    'BT-43': 'salesperson.email',
    'BT-44': 'customer.name',
    'BT-46': 'customer.code',
    'BT-48': 'customer.tax_number',
    'BT-49': 'if(contains(customer.email, "@"), customer.email, empty)',
    'BT-50': 'customer.address',
    'BT-51': 'customer.address_line_2',
    'BT-52': 'customer.town.name',
    'BT-53': 'customer.town.postcode',
    'BT-54': 'customer.town.region.name',
    'BT-55': 'customer.country_code',
    'BT-72': 'delivered_on',
    'BT-81': 'if(currency_code = "EUR", "58", "30")',
    'BT-83': 'creditorReference(number)',
    'BT-84': 'branch.company.iban',
    'BT-85': 'branch.company.legal_name',
    'BT-86': 'branch.company.bic',
    'BT-106': amount('sum(lines.amount)'),
    'BT-107': 'discount',
    'BT-108': 'freight',
    'BT-109': amount('sum(lines.amount) + freight - discount'),
    'BT-110': amount('sum(taxes.amount)'),
    'BT-111': `if(currency_code = branch.company.currency_code, empty, ${amount('sum(taxes.base_currency_amount)')})`,
    'BT-112': amount('sum(lines.amount) + freight - discount + sum(taxes.amount)'),
    'BT-115': amount('sum(lines.amount) + freight - discount + sum(taxes.amount)'),
  }
  return {
    terms: document,
    groups: [
      {
        group: 'BG-20',
        when: 'discount != 0',
        terms: { 'BT-92': 'discount', 'BT-95': 'discount_tax.category', 'BT-96': rateOf('discount_tax_code'), 'BT-97': '"Discount"' },
      },
      {
        group: 'BG-21',
        when: 'freight != 0',
        terms: { 'BT-99': 'freight', 'BT-102': 'freight_tax.category', 'BT-103': rateOf('freight_tax_code'), 'BT-104': '"Freight"' },
      },
      {
        group: 'BG-23',
        level: 'taxes',
        terms: {
          'BT-116': amount('base'),
          'BT-117': amount('amount'),
          'BT-118': 'tax.category',
          'BT-119': 'rate',
          'BT-120': 'tax.exemption_reason',
        },
      },
      {
        group: 'BG-25',
        level: 'lines',
        // remarks between the lines are read by people only
        when: 'kind != "comment"',
        terms: {
          'BT-126': 'line_no',
          'BT-129': amount('quantity'),
          'BT-130': 'unit.unece_code',
          'BT-131': amount('amount'),
          'BT-146': 'unit_price',
          'BT-151': 'tax.category',
          'BT-152': 'tax_rate',
          'BT-153': 'description',
          'BT-155': 'item.code',
        },
      },
    ],
  }
}

/** Totals of an invoice with what it is paid by: a code for the bank's program, and the reference of the payment. */
const payable = (totals: PanelBlock): PanelBlock => ({
  ...totals,
  items: [...totals.items, ...payItems.map(item => ({ ...item, showWhen: euros }))],
})
const payItems = [
  {
    kind: 'payment' as const,
    id: 'payCode',
    x: 0,
    y: 4,
    width: 84,
    height: 84,
    terms: {
      payee: 'branch.company.legal_name',
      payeeAccount: 'branch.company.iban',
      payeeBank: 'branch.company.bic',
      amount: 'sum(lines.amount) + freight - discount + sum(taxes.amount)',
      currency: 'currency_code',
      reference: 'creditorReference(number)',
    },
  },
  text('payLabel', 92, 8, 140, 'Pay by the code, or to', { colour: soft }),
  text('payAccount', 92, 21, 150, '{{ branch.company.iban }}'),
  text('payReferenceLabel', 92, 40, 140, 'with the reference', { colour: soft }),
  text('payReference', 92, 53, 150, '{{ creditorReference(number) }}'),
]
/** Codes for payments are for euros, and only for what is to be paid. */
const euros = 'currency_code = "EUR" and sum(lines.amount) + freight - discount + sum(taxes.amount) > 0'

/** A document report whose documents are e-invoices too. */
export function toldByLaw(report: ReportDefinition, kind: '380' | '381'): ReportDefinition {
  const [main, ...others] = report.dataSets
  const { root } = main!
  const company = related('company', 'companies', 'company_id', 'id', [], [related('town', 'towns', 'town_id', 'id', [])])
  return {
    ...report,
    dataSets: [
      {
        ...main!,
        root: {
          ...root,
          related: [
            ...root.related.map(each => (each.name === 'branch' ? { ...each, related: [...each.related, company] } : each)),
            ...lawful,
          ],
          details: root.details.map(each =>
            each.name === 'lines' ? { ...each, related: [...each.related, related('tax', 'tax_codes', 'tax_code', 'code', [])] } : each,
          ),
        },
      },
      ...others,
    ],
    layouts: report.layouts.map(layout => ({
      ...layout,
      blocks: layout.blocks.map(block =>
        isRepeat(block)
          ? {
              ...block,
              einvoice: mapping(kind),
              blocks:
                kind === '380' ? block.blocks.map(each => (each.id === 'totals' && isPanel(each) ? payable(each) : each)) : block.blocks,
            }
          : block,
      ),
    })),
  }
}
