import { newPack, type PackDefinition, type PackReport } from '../core/pack/definition'
import type { TieFigure } from '../core/definition/tieOuts'

/** A report of the library in a pack, called by its name. */
const report = (name: string, answers: PackReport['answers'], more: Partial<PackReport> = {}): PackReport => ({
  id: name.toLowerCase().replace(/\W+/g, '_'),
  report: name,
  name,
  answers,
  ...more,
})
const period: PackReport['answers'] = { period: { is: 'parameter', name: 'period' } }
const atItsEnd: PackReport['answers'] = { asOf: { is: 'formula', formula: 'periodEnd(param.period)' } }
const line = (id: string, column: string): TieFigure => ({ is: 'line', statement: 'statement', line: id, column })

/** All that the finance team reads at a month's end, of one moment, held where the reports do not agree with each other. */
function monthEnd(): PackDefinition {
  return {
    ...newPack(),
    parameters: [{ name: 'period', label: 'Period', kind: 'period', required: true, default: 'addPeriods(period(today()), -1)' }],
    reports: [
      report('Income statement', period),
      report('Balance sheet', period),
      report('Trial balance', period),
      report('Customer ageing', atItsEnd),
      report('Supplier ageing', atItsEnd),
      report('Budget variance', period),
      report('Income statement', period, { id: 'income_of_branch', each: { parameter: 'branches' } }),
    ],
    ties: [
      {
        id: 'result',
        name: 'The year’s result is the same against the budget',
        left: { report: 'income_statement', figure: line('result', 'toDate') },
        right: { report: 'budget_variance', figure: line('result', 'actualYear') },
        tolerance: '0',
      },
      {
        id: 'branches',
        name: 'The branches’ results add up to the company’s',
        left: { report: 'income_of_branch', figure: line('result', 'toDate') },
        right: { report: 'income_statement', figure: line('result', 'toDate') },
        tolerance: '0',
      },
    ],
    out: { name: 'Month end {{ param.period }}', pdf: true, cover: true, numbered: true, zip: true, xlsx: true },
    when: { is: 'times', days: { on: 'afterPeriod', nth: 3 }, at: '07:00' },
    to: [
      {
        is: 'mail',
        id: 'board',
        to: ['finance@caisvelho.example', 'board@caisvelho.example'],
        subject: 'Month end {{ param.period }}',
        body:
          'Good morning,\n\nthe statements of {{ param.period }} are attached. All figures are of one moment, and what has to tie out ' +
          'is listed on the cover.\n\nCais Velho, finance',
        files: ['pdf'],
      },
      { is: 'folder', id: 'archive', folder: 'Month end', files: ['pdf', 'zip'], replace: true },
    ],
  }
}

/** Each customer's statement, by mail and in their language; those without an address are listed, and on paper in one file. */
function statements(): PackDefinition {
  return {
    ...newPack(),
    parameters: [{ name: 'asOf', label: 'As of', kind: 'date', required: true, default: 'today()' }],
    reports: [
      report(
        'Statement of account',
        { asOf: { is: 'parameter', name: 'asOf' } },
        { id: 'statement', layout: 'In the customer’s language' },
      ),
    ],
    out: { name: 'Statements {{ param.asOf | yyyy-MM-dd }}', pdf: true, cover: false, numbered: false, zip: false },
    hold: 'always',
    to: [
      {
        is: 'records',
        id: 'customers',
        report: 'statement',
        address: 'email',
        name: 'Statement {{ code }} {{ param.asOf | yyyy-MM-dd }}',
        subject: 'Statement of account {{ code }} as of {{ param.asOf | d MMMM y }}',
        body:
          'To {{ name }}\n\nYour statement of account as of {{ param.asOf | d MMMM y }} is attached: ' +
          '{{ sum(open.open) | #,##0.00 }} {{ currency_code }} are open.\n\nCais Velho, accounts',
        inLanguages: [
          {
            language: 'pt',
            name: 'Extrato {{ code }} {{ param.asOf | yyyy-MM-dd }}',
            subject: "Extrato de conta {{ code }} em {{ param.asOf | d 'de' MMMM 'de' y }}",
            body:
              "A {{ name }}\n\nSegue em anexo o seu extrato de conta em {{ param.asOf | d 'de' MMMM 'de' y }}: " +
              'estão em aberto {{ sum(open.open) | #,##0.00 }} {{ currency_code }}.\n\nCais Velho, contabilidade',
          },
          {
            language: 'nb',
            name: 'Kontoutskrift {{ code }} {{ param.asOf | yyyy-MM-dd }}',
            subject: 'Kontoutskrift {{ code }} per {{ param.asOf | d. MMMM y }}',
            body:
              'Til {{ name }}\n\nVedlagt er kontoutskriften per {{ param.asOf | d. MMMM y }}: ' +
              '{{ sum(open.open) | #,##0.00 }} {{ currency_code }} er åpent.\n\nCais Velho, regnskap',
          },
        ],
      },
    ],
  }
}

/** Orders of the last days, each to its supplier. */
function orders(): PackDefinition {
  return {
    ...newPack(),
    parameters: [{ name: 'dates', label: 'Ordered', kind: 'dates', required: true, default: 'addDays(today(), -6)', defaultTo: 'today()' }],
    reports: [report('Purchase order', { dates: { is: 'parameter', name: 'dates' } }, { id: 'order' })],
    out: { name: 'Orders', pdf: true, cover: false, numbered: false, zip: false },
    to: [
      {
        is: 'records',
        id: 'suppliers',
        report: 'order',
        address: 'supplier.email',
        name: 'Order {{ number }}',
        subject: 'Our order {{ number }}',
        body:
          'To {{ supplier.name }}\n\nOur order {{ number }} of {{ order_date | d MMMM y }} is attached, ' +
          '{{ total | #,##0.00 }} {{ currency_code }} in all. Please confirm it to {{ buyer.name }}.\n\nCais Velho, purchasing',
        inLanguages: [],
      },
    ],
  }
}

/** What is to be ordered, on the first working day of each week. */
function reorderMonday(): PackDefinition {
  return {
    ...newPack(),
    reports: [report('Reorder list', {}), report('Open order lines', { lateOnly: { is: 'text', text: 'true' } })],
    out: { name: 'Reorder {{ today() | yyyy-MM-dd }}', pdf: true, cover: false, numbered: true, zip: false, xlsx: true },
    when: { is: 'times', days: { on: 'workingDay', of: 'week', nth: 1 }, at: '07:00' },
    to: [
      {
        is: 'mail',
        id: 'buyers',
        to: ['purchasing@caisvelho.example'],
        subject: 'What to order this week',
        body: 'Good morning,\n\nthe reorder list and the orders that are late are attached.\n\nCais Velho, purchasing',
        files: ['pdf', 'xlsx'],
      },
      { is: 'print', id: 'warehouse', printer: 'stand-in', files: ['pdf'], copies: 1, sides: 'two-sided-long-edge' },
    ],
  }
}

/** Packs that the library is offered. */
export const demoPacks = (): { name: string; definition: PackDefinition }[] => [
  { name: 'Month end', definition: monthEnd() },
  { name: 'Statements to customers', definition: statements() },
  { name: 'Orders to suppliers', definition: orders() },
  { name: 'Reorder Monday', definition: reorderMonday() },
]
