import { addMonths, dateParts, dayOf, dayText, monthEnd, type Day } from '../../core/value/date'
import { money, type TableText } from './random'

/** The chart of accounts: code, name, type, class, natural side. Some never move. */
const accounts: [string, string, string, string, string][] = [
  ['1010', 'Bank, current account', 'asset', 'Current assets', 'debit'],
  ['1020', 'Bank, foreign currency', 'asset', 'Current assets', 'debit'],
  ['1090', 'Petty cash', 'asset', 'Current assets', 'debit'],
  ['1200', 'Receivables control', 'asset', 'Current assets', 'debit'],
  ['1300', 'Stock', 'asset', 'Current assets', 'debit'],
  ['1350', 'Purchase tax recoverable', 'asset', 'Current assets', 'debit'],
  ['1400', 'Prepaid expenses', 'asset', 'Current assets', 'debit'],
  ['1510', 'Vehicles and boats', 'asset', 'Fixed assets', 'debit'],
  ['1520', 'Buildings and quays', 'asset', 'Fixed assets', 'debit'],
  ['1530', 'Furniture', 'asset', 'Fixed assets', 'debit'],
  ['1590', 'Accumulated depreciation', 'asset', 'Fixed assets', 'credit'],
  ['2100', 'Payables control', 'liability', 'Current liabilities', 'credit'],
  ['2150', 'Goods received, not billed', 'liability', 'Current liabilities', 'credit'],
  ['2310', 'Sales tax payable', 'liability', 'Current liabilities', 'credit'],
  ['2390', 'Accruals', 'liability', 'Current liabilities', 'credit'],
  ['2200', 'Salaries payable', 'liability', 'Current liabilities', 'credit'],
  ['2210', 'Payroll taxes payable', 'liability', 'Current liabilities', 'credit'],
  ['2330', 'Income tax payable', 'liability', 'Current liabilities', 'credit'],
  ['2510', 'Bank loan', 'liability', 'Long-term liabilities', 'credit'],
  ['2520', 'Loan of the founders', 'liability', 'Long-term liabilities', 'credit'],
  ['3100', 'Share capital', 'equity', 'Equity', 'credit'],
  ['3900', 'Retained earnings', 'equity', 'Equity', 'credit'],
  ['4010', 'Sales, rope', 'income', 'Sales', 'credit'],
  ['4020', 'Sales, deck gear and chain', 'income', 'Sales', 'credit'],
  ['4030', 'Sales, paint', 'income', 'Sales', 'credit'],
  ['4040', 'Sales, lamps', 'income', 'Sales', 'credit'],
  ['4050', 'Sales, safety and charts', 'income', 'Sales', 'credit'],
  ['4060', 'Sales, provisions', 'income', 'Sales', 'credit'],
  ['4210', 'Repair work', 'income', 'Services', 'credit'],
  ['4220', 'Rigging work', 'income', 'Services', 'credit'],
  ['4500', 'Freight charged', 'income', 'Sales', 'credit'],
  ['4900', 'Sales returns', 'income', 'Sales', 'credit'],
  ['4950', 'Discounts given', 'income', 'Sales', 'debit'],
  ['4990', 'Other income', 'income', 'Other income', 'credit'],
  ['5010', 'Cost of goods sold', 'expense', 'Cost of sales', 'debit'],
  ['5190', 'Purchase price differences', 'expense', 'Cost of sales', 'debit'],
  ['5200', 'Freight in', 'expense', 'Cost of sales', 'debit'],
  ['6010', 'Salaries', 'expense', 'Personnel', 'debit'],
  ['6020', 'Social charges', 'expense', 'Personnel', 'debit'],
  ['6030', 'Training', 'expense', 'Personnel', 'debit'],
  ['6110', 'Rent', 'expense', 'Operating expenses', 'debit'],
  ['6115', 'Electricity and water', 'expense', 'Operating expenses', 'debit'],
  ['6120', 'Insurance', 'expense', 'Operating expenses', 'debit'],
  ['6125', 'Vehicles', 'expense', 'Operating expenses', 'debit'],
  ['6130', 'Telephone and network', 'expense', 'Operating expenses', 'debit'],
  ['6135', 'Office supplies', 'expense', 'Operating expenses', 'debit'],
  ['6140', 'Travel', 'expense', 'Operating expenses', 'debit'],
  ['6150', 'Repairs and maintenance', 'expense', 'Operating expenses', 'debit'],
  ['6155', 'Legal and audit', 'expense', 'Operating expenses', 'debit'],
  ['6200', 'Depreciation', 'expense', 'Depreciation', 'debit'],
  ['7010', 'Interest paid', 'expense', 'Financial', 'debit'],
  ['7020', 'Bank charges', 'expense', 'Financial', 'debit'],
  ['7100', 'Interest received', 'income', 'Financial', 'credit'],
  ['8010', 'Income tax', 'expense', 'Income tax', 'debit'],
  ['6145', 'Advertising', 'expense', 'Operating expenses', 'debit'],
  ['7710', 'Exchange differences', 'expense', 'Financial', 'debit'],
  ['7790', 'Rounding differences', 'expense', 'Financial', 'debit'],
]

/** Accounts that gather others in the tree of accounts; nothing is posted on them. */
const headings: [string, string, string, string, string][] = [
  ['4000', 'Sales of goods', 'income', 'Sales', 'credit'],
  ['4200', 'Work of the yard', 'income', 'Services', 'credit'],
  ['6000', 'People', 'expense', 'Personnel', 'debit'],
  ['6100', 'Running the branches', 'expense', 'Operating expenses', 'debit'],
  ['6101', 'Premises', 'expense', 'Operating expenses', 'debit'],
  ['6102', 'Vehicles and travel', 'expense', 'Operating expenses', 'debit'],
  ['6103', 'Office', 'expense', 'Operating expenses', 'debit'],
]
const under: Record<string, string[]> = {
  4000: ['4010', '4020', '4030', '4040', '4050', '4060'],
  4200: ['4210', '4220'],
  6000: ['6010', '6020', '6030'],
  6100: ['6101', '6102', '6103', '6145'],
  6101: ['6110', '6115', '6150'],
  6102: ['6125', '6140'],
  6103: ['6120', '6130', '6135', '6155'],
}
const parents = new Map(Object.entries(under).flatMap(([parent, codes]) => codes.map(code => [code, parent] as const)))
/** The whole chart: code, name, type, class, natural side and the account that it stands under. */
export const chartOfAccounts = [...headings, ...accounts].map(([code, ...rest]) => ({ code, rest, parent: parents.get(code) ?? null }))

export interface Posting {
  account: string
  branch: number
  department?: number
  /** cents of the company's currency; credits are negative */ amount: number
}

/** How long after its end a period is closed. */
const daysToClose = 9

/** The books: a journal is posted whole, and only if it balances within each branch. */
export class Ledger {
  private journals = 0
  /** what was posted so far, cents by fiscal year, period, account, branch and department; closing journals left out */
  readonly activity = new Map<
    string,
    { year: number; period: number; account: string; branch: number; department: number | null; amount: number }
  >()
  /** accounts of income and expense, closed into retained earnings at the end of each year */
  readonly resultAccounts = new Set(accounts.filter(([, , type]) => type === 'income' || type === 'expense').map(([code]) => code))
  readonly creditNatured = new Set(accounts.filter(row => row[4] === 'credit').map(([code]) => code))
  constructor(
    private readonly table: (name: string) => TableText,
    first: Day,
    last: Day,
  ) {
    for (const { code, rest, parent } of chartOfAccounts) table('accounts').add(code, ...rest, parent)
    for (let year = dateParts(addMonths(first, -3)).year; dayOf(year, 4, 1) <= last; year++) this.openYear(year, last)
  }

  private openYear(year: number, last: Day): void {
    const start = dayOf(year, 4, 1)
    const end = dayOf(year + 1, 3, 31)
    this.table('fiscal_years').add(year, `${year}/${String(year + 1).slice(2)}`, dayText(start), dayText(end))
    for (let number = 1; number <= 12; number++) {
      const from = addMonths(start, number - 1)
      const closed = monthEnd(from) + daysToClose
      const closedOn = closed <= last ? dayText(closed) : null
      this.table('fiscal_periods').add(year, number, dayText(from).slice(0, 7), dayText(from), dayText(monthEnd(from)), false, closedOn)
    }
    this.table('fiscal_periods').add(
      year,
      13,
      `${year}/${String(year + 1).slice(2)} adjustments`,
      dayText(end),
      dayText(end),
      true,
      end + daysToClose <= last ? dayText(end + daysToClose) : null,
    )
  }

  /** @throws where a branch does not balance: a fault of the generator, never of data */
  post(
    date: Day,
    source: string,
    document: string | null,
    description: string,
    postings: readonly Posting[],
    kind: 'ordinary' | 'adjustment' | 'closing' = 'ordinary',
  ): void {
    const sums = new Map<number, number>()
    for (const posting of postings) sums.set(posting.branch, (sums.get(posting.branch) ?? 0) + posting.amount)
    for (const [branch, sum] of sums)
      if (sum) throw new Error(`Journal of ${document ?? description} is out by ${sum} cents in branch ${branch}.`)
    const id = ++this.journals
    const { year, month } = dateParts(date)
    const fiscalYear = month >= 4 ? year : year - 1
    const period = kind === 'ordinary' ? ((month + 8) % 12) + 1 : 13
    this.table('journals').add(
      id,
      `J-${String(id).padStart(6, '0')}`,
      dayText(date),
      fiscalYear,
      period,
      source,
      document,
      description,
      kind === 'closing',
    )
    postings
      .filter(posting => posting.amount)
      .forEach((posting, index) => {
        this.table('journal_lines').add(
          id,
          index + 1,
          posting.account,
          posting.branch,
          posting.department ?? null,
          money(Math.max(posting.amount, 0)),
          money(Math.max(-posting.amount, 0)),
        )
        if (kind === 'closing') return
        const { account, branch, department = null, amount } = posting
        const key = `${fiscalYear} ${period} ${account} ${branch} ${department}`
        const known = this.activity.get(key)
        if (known) known.amount += amount
        else this.activity.set(key, { year: fiscalYear, period, account, branch, department, amount })
      })
  }
}
