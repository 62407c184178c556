import { addMonths, dateParts, dayOf, monthEnd, type Day } from '../../core/value/date'
import type { Ledger, Posting } from './ledger'
import { clock, firstDay } from './masters'
import { Chance, money, type TableText } from './random'

/** What a branch pays each month, in euros: account, amount, how much it varies, and the department it falls on. */
const monthly: { account: string; what: string; euros: number; swing: number; department: number; day: number }[] = [
  { account: '6110', what: 'Rent', euros: 2600, swing: 0, department: 3, day: 2 },
  { account: '6115', what: 'Electricity and water', euros: 640, swing: 0.3, department: 3, day: 12 },
  { account: '6125', what: 'Fuel and boat service', euros: 780, swing: 0.4, department: 2, day: 18 },
  { account: '6130', what: 'Telephone and network', euros: 210, swing: 0.05, department: 3, day: 15 },
  { account: '6135', what: 'Office supplies', euros: 130, swing: 0.7, department: 3, day: 9 },
  { account: '6140', what: 'Travel', euros: 340, swing: 0.8, department: 1, day: 24 },
  { account: '6150', what: 'Repairs of the quay', euros: 420, swing: 0.9, department: 2, day: 21 },
  { account: '7020', what: 'Bank charges', euros: 65, swing: 0.2, department: 3, day: 28 },
]
/** Gross salaries of a branch by department, euros a month. */
const salaries = [3600, 2900, 1900]
const branches = [1, 2, 3]
const socialShare = 23.75
const taxShare = 21
const bank = '1010'

/**
 * The rest of the books, after all documents are posted: money the company began with, running expenses, payroll, depreciation, loan,
 * taxes, adjustments, the closing of years, and budgets.
 */
export function writeBooks(ledger: Ledger, table: (name: string) => TableText, scale: number): void {
  new Books(ledger, table, scale).write()
}

class Books {
  private readonly chance = new Chance(20260401)
  private loan = 0
  private readonly fixed: { vehicles: number; buildings: number }
  constructor(
    private readonly ledger: Ledger,
    private readonly table: (name: string) => TableText,
    private readonly scale: number,
  ) {
    this.fixed = { vehicles: this.cents(90000), buildings: this.cents(240000) }
  }

  write(): void {
    this.opening()
    for (let month = addMonths(firstDay, 0) - dateParts(firstDay).day + 1; month <= clock; month = addMonths(month, 1)) {
      for (const branch of branches) this.month(month, branch)
      this.loanOf(month)
      const { month: number } = dateParts(month)
      if (number % 3 === 1) this.salesTax(month)
      if (number === 3 && monthEnd(month) <= clock) this.yearEnd(dateParts(month).year - 1)
      if (number === 7) this.payIncomeTax(month)
    }
    this.budgets()
  }

  private cents(euros: number): number {
    return Math.round(euros * this.scale) * 100
  }

  /** Cents, varied by chance. */
  private varied(euros: number, swing: number): number {
    return Math.round(euros * this.scale * 100 * (1 + (this.chance.next() * 2 - 1) * swing))
  }

  private post(day: Day, source: string, description: string, postings: Posting[], kind?: 'adjustment' | 'closing'): void {
    if (day <= clock && day >= firstDay && postings.some(posting => posting.amount))
      this.ledger.post(day, source, null, description, postings, kind)
  }

  private opening(): void {
    const { vehicles, buildings } = this.fixed
    this.loan = this.cents(360000)
    for (const branch of branches) {
      this.post(firstDay, 'opening', 'Boats, buildings and money brought in by the founders, and the bank’s loan', [
        { account: '1510', branch, amount: vehicles },
        { account: '1520', branch, amount: buildings },
        { account: bank, branch, amount: this.cents(70000) },
        { account: '2510', branch, amount: -this.loan / 3 },
        { account: '3100', branch, amount: this.loan / 3 - vehicles - buildings - this.cents(70000) },
      ])
    }
  }

  private month(month: Day, branch: number): void {
    const { month: number, year } = dateParts(month)
    const growth = 1 + (year * 12 + number - 2024 * 12 - 5) * 0.002
    for (const { account, what, euros, swing, department, day } of monthly) {
      const amount = this.varied(euros * growth * (branch === 1 ? 1.15 : branch === 2 ? 1 : 0.85), swing)
      this.post(month + day - 1, 'expense', what, [
        { account, branch, department, amount },
        { account: bank, branch, amount: -amount },
      ])
    }
    this.payroll(month, branch, growth)
    // a year's insurance is paid in April and spread over twelve months
    const insurance = this.cents(3600)
    if (number === 4 || month < firstDay)
      this.post(Math.max(month + 4, firstDay), 'expense', 'Insurance for the year', [
        { account: '1400', branch, amount: number === 4 ? insurance : (insurance / 12) * 11 },
        { account: bank, branch, amount: -(number === 4 ? insurance : (insurance / 12) * 11) },
      ])
    this.post(monthEnd(month), 'expense', 'Insurance of the month', [
      { account: '6120', branch, department: 3, amount: insurance / 12 },
      { account: '1400', branch, amount: -insurance / 12 },
    ])
    // advertising before and during the season
    if (number >= 2 && number <= 7) {
      const amount = this.varied(900, 0.5)
      this.post(month + 10, 'expense', 'Regatta season advertising', [
        { account: '6145', branch, department: 1, amount },
        { account: bank, branch, amount: -amount },
      ])
    }
    if (number === 6 || number === 2) {
      const amount = this.varied(1400, 0.2)
      this.post(month + 19, 'expense', 'Audit and legal advice', [
        { account: '6155', branch, department: 3, amount },
        { account: bank, branch, amount: -amount },
      ])
    }
    const worn = Math.round(this.fixed.vehicles / 96) + Math.round(this.fixed.buildings / 360)
    this.post(monthEnd(month), 'depreciation', 'Depreciation of the month', [
      { account: '6200', branch, department: 3, amount: worn },
      { account: '1590', branch, amount: -worn },
    ])
  }

  private payroll(month: Day, branch: number, growth: number): void {
    const gross = salaries.map(euros => this.varied(euros * growth * (branch === 3 ? 1.1 : 1), 0.03))
    const social = gross.map(amount => Math.round((amount * socialShare) / 100))
    const all = gross.reduce((sum, amount) => sum + amount, 0)
    const taxes = social.reduce((sum, amount) => sum + amount, 0) + Math.round(all * 0.22)
    const net = all + social.reduce((sum, amount) => sum + amount, 0) - taxes
    this.post(month + 24, 'payroll', 'Salaries of the month', [
      ...gross.map((amount, index): Posting => ({ account: '6010', branch, department: index + 1, amount })),
      ...social.map((amount, index): Posting => ({ account: '6020', branch, department: index + 1, amount })),
      { account: '2200', branch, amount: -net },
      { account: '2210', branch, amount: -taxes },
    ])
    this.post(monthEnd(month), 'payroll', 'Salaries paid', [
      { account: '2200', branch, amount: net },
      { account: bank, branch, amount: -net },
    ])
    this.post(addMonths(month, 1) + 19, 'payroll', 'Payroll taxes paid', [
      { account: '2210', branch, amount: taxes },
      { account: bank, branch, amount: -taxes },
    ])
  }

  private loanOf(month: Day): void {
    const interest = Math.round((this.loan * 0.045) / 12 / 3)
    for (const branch of branches)
      this.post(monthEnd(month), 'bank', 'Interest on the loan', [
        { account: '7010', branch, department: 3, amount: interest },
        { account: bank, branch, amount: -interest },
      ])
    if (dateParts(month).month % 3 === 0) {
      const part = this.cents(3000)
      for (const branch of branches)
        this.post(monthEnd(month), 'bank', 'Repayment of the loan', [
          { account: '2510', branch, amount: part },
          { account: bank, branch, amount: -part },
        ])
      this.loan -= part * 3
    }
  }

  /** Tax on sales less tax on purchases, as it stood at the end of the quarter before, paid on the 15th. */
  private salesTax(month: Day): void {
    const last = this.periodOf(addMonths(month, -1))
    for (const branch of branches) {
      const posted = (account: string) =>
        this.sum(each => each.account === account && each.branch === branch && each.year * 13 + each.period <= last.year * 13 + last.period)
      const [sales, purchases] = [posted('2310'), posted('1350')]
      this.post(month + 14, 'tax', 'Sales tax of the quarter', [
        { account: '2310', branch, amount: -sales },
        { account: '1350', branch, amount: -purchases },
        { account: bank, branch, amount: sales + purchases },
      ])
    }
  }

  private periodOf(day: Day): { year: number; period: number } {
    const { year, month } = dateParts(day)
    return { year: month >= 4 ? year : year - 1, period: ((month + 8) % 12) + 1 }
  }

  private sum(wanted: (each: { year: number; period: number; account: string; branch: number }) => boolean): number {
    let total = 0
    for (const each of this.ledger.activity.values()) if (wanted(each)) total += each.amount
    return total
  }

  private readonly tax = new Map<string, number>()
  /** Adjustments in the thirteenth period, the year's income tax, and the closing of its income and expense into retained earnings. */
  private yearEnd(year: number): void {
    const day = dayOf(year + 1, 3, 31)
    for (const branch of branches) {
      const bonus = this.varied(2500, 0.2)
      this.post(
        day,
        'adjustment',
        'Bonuses of the year, accrued',
        [
          { account: '6010', branch, department: 1, amount: bonus },
          { account: '2390', branch, amount: -bonus },
        ],
        'adjustment',
      )
      const profit = -this.sum(each => each.year === year && each.branch === branch && this.ledger.resultAccounts.has(each.account))
      const tax = Math.max(0, Math.round((profit * taxShare) / 100))
      this.tax.set(`${year} ${branch}`, tax)
      this.post(
        day,
        'adjustment',
        'Income tax of the year',
        [
          { account: '8010', branch, department: 3, amount: tax },
          { account: '2330', branch, amount: -tax },
        ],
        'adjustment',
      )
      const closed = [...this.ledger.activity.values()].filter(
        each => each.year === year && each.branch === branch && this.ledger.resultAccounts.has(each.account) && each.amount,
      )
      this.post(
        day,
        'closing',
        `Closing of ${year}/${String(year + 1).slice(2)}`,
        [
          ...closed.map(({ account, department, amount }): Posting => ({
            account,
            branch,
            ...(department === null ? {} : { department }),
            amount: -amount,
          })),
          { account: '3900', branch, amount: closed.reduce((sum, each) => sum + each.amount, 0) },
        ],
        'closing',
      )
    }
  }

  private payIncomeTax(month: Day): void {
    const year = dateParts(month).year - 1
    for (const branch of branches) {
      const tax = this.tax.get(`${year} ${branch}`) ?? 0
      this.post(month + 30, 'tax', 'Income tax of the year before, paid', [
        { account: '2330', branch, amount: tax },
        { account: bank, branch, amount: -tax },
      ])
    }
  }

  /**
   * Two versions by account, branch and period: what the year before came to and a little more, and the same looked at again from the
   * fourth period on.
   */
  private budgets(): void {
    const years = [2024, 2025, 2026]
    const base = new Map<string, number>()
    for (const each of this.ledger.activity.values()) {
      if (each.year !== 2025 || !this.ledger.resultAccounts.has(each.account) || each.period === 13) continue
      const key = `${each.account} ${each.branch} ${each.period}`
      base.set(key, (base.get(key) ?? 0) + each.amount)
    }
    for (const version of ['original', 'revised']) {
      for (const year of years) {
        for (const [key, amount] of [...base].sort(([a], [b]) => (a < b ? -1 : 1))) {
          const [account, branch, period] = key.split(' ') as [string, string, string]
          const drift = 1 + (year - 2025) * 0.04 + (version === 'revised' && Number(period) >= 4 ? this.chance.whole(-8, 6) / 100 : 0)
          // whole tens of euros, in the account's natural sign
          const planned = Math.round((amount * (this.creditNatured(account) ? -1 : 1) * drift) / 1000) * 1000
          if (planned) this.table('budgets').add(version, account, Number(branch), year, Number(period), money(planned))
        }
      }
    }
  }

  private creditNatured(account: string): boolean {
    return this.ledger.creditNatured.has(account)
  }
}
