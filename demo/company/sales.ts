import { dayText, type Day, dayOf } from '../../core/value/date'
import type { Ledger, Posting } from './ledger'
import { bookedRate, type Customer, clock, firstDay, type Item, type Masters, rateUnit, termDays } from './masters'
import { type Chance, fixed, money, share, type TableText } from './random'

interface Line {
  kind: 'item' | 'service' | 'comment'
  item?: Item
  account?: string
  description: string
  /** thousandths */ quantity: number
  unit?: string
  price: number
  amount: number
  tax?: string
}
/** An invoice or credit note while its payments are made. Amounts are cents, signed. */
interface OpenDocument {
  id: number
  number: string
  customer: Customer
  branch: number
  date: Day
  due: Day
  rate: number
  open: number
  openBase: number
  credit: boolean
}

/** Goods that left a branch's main warehouse with an invoice, or came back with a credit note (less than nothing). Thousandths. */
export interface Shipment {
  item: Item
  branch: number
  day: Day
  number: string
  quantity: number
}

const services: [string, string, number][] = [
  ['Splicing eye ends', '4220', 3600],
  ['Hull cleaning and scraping', '4210', 4200],
  ['Lamp rewiring on board', '4210', 5400],
  ['Rig tuning under load', '4220', 6100],
]
const remarks = [
  'Deliver to the west pontoon, gate code on request',
  'Please return empty drums with the next delivery',
  'Cut to length as agreed on the phone',
  'Spare parts are kept for ten years',
]
function taxRate(code: string, day: Day): number {
  return code === 'S' ? (day < dayOf(2025, 7, 1) ? 21000 : 22000) : code === 'R' ? 9000 : 0
}

/** Writes orders, invoices, credit notes, receipts and their applications, and posts each of them. */
export class Sales {
  private orders = 0
  private invoices = 0
  readonly shipments: Shipment[] = []
  private receipts = 0
  private applications = 0
  private credits = 0
  private returnsPosted = false
  private later: { day: Day; run: () => void }[] = []

  constructor(
    private readonly chance: Chance,
    private readonly masters: Masters,
    private readonly ledger: Ledger,
    private readonly table: (name: string) => TableText,
  ) {}

  get orderCount(): number {
    return this.orders
  }

  /** Documents evenly over the days of the books, with their payments. */
  write(count: number): void {
    const days = clock - firstDay + 1
    for (let index = 0; index < count; index++) {
      const date = firstDay + Math.floor((index * days) / count)
      const invoice = this.invoice(date, index)
      if (index % 29 === 17) this.later.push({ day: date + this.chance.whole(2, 20), run: () => this.creditNote(invoice) })
      this.payLater(invoice)
    }
    // money events in the order of their days; each may add more
    while (this.later.length) {
      this.later.sort((a, b) => a.day - b.day)
      const due = this.later
      this.later = []
      for (const event of due) if (event.day <= clock) event.run()
    }
  }

  private lines(index: number): Line[] {
    const { chance } = this
    if (index % 2500 === 2400) return Array.from({ length: 120 }, () => this.itemLine())
    const lines: Line[] = []
    if (index % 250 === 2) for (const tax of ['S', 'R', 'Z']) lines.push(this.itemLine(tax))
    const count = lines.length ? 2 : chance.whole(1, 6)
    for (let i = 0; i < count; i++) {
      if (chance.chance(0.12)) {
        const [description, account, price] = chance.one(services)
        const quantity = chance.whole(2, 24) * 250
        lines.push({ kind: 'service', account, description, quantity, unit: 'h', price, amount: share(quantity, price, 1000), tax: 'S' })
      } else lines.push(this.itemLine())
      if (chance.chance(0.08)) lines.push({ kind: 'comment', description: chance.one(remarks), quantity: 0, price: 0, amount: 0 })
    }
    if (index % 500 === 77)
      lines.push({
        kind: 'comment',
        description: 'Marked "fragile" & kept <dry> until 12:00; see the note on the crate. '.repeat(4).trim(),
        quantity: 0,
        price: 0,
        amount: 0,
      })
    return lines
  }

  private itemLine(tax?: string): Line {
    let item = this.chance.one(this.masters.items)
    while (tax && item.tax !== tax) item = this.chance.one(this.masters.items)
    const quantity = item.unit === 'm' ? this.chance.whole(10, 600) * 100 : this.chance.whole(1, 30) * 1000
    return {
      kind: 'item',
      item,
      description: item.name,
      quantity,
      unit: item.unit,
      price: item.price,
      amount: share(quantity, item.price, 1000),
      tax: item.tax,
      account: item.account,
    }
  }

  private invoice(date: Day, index: number): OpenDocument {
    const { chance } = this
    const customer = index % 40 < 10 ? this.masters.customers[index % 10]! : chance.one(this.masters.customers)
    const lines = this.lines(index)
    const freight = index % 250 === 2 || chance.chance(0.35) ? chance.whole(6, 90) * 100 : 0
    const goods = lines.reduce((sum, line) => sum + line.amount, 0)
    const discount = chance.chance(0.15) ? share(goods, chance.whole(2, 8), 100) : 0
    const order = chance.chance(0.7) ? this.order(customer, date - chance.whole(1, 9), lines) : null
    const due = date + termDays[customer.terms ?? 'NET-30']!
    return this.document(
      'invoice',
      customer,
      date,
      index % 311 === 200 || customer.terms === null ? null : due,
      due,
      lines,
      freight,
      discount,
      order,
    )
  }

  private order(customer: Customer, date: Day, lines: Line[]): number {
    const id = ++this.orders
    this.table('orders').add(
      id,
      `SO-${String(id).padStart(5, '0')}`,
      customer.id,
      customer.branch,
      dayText(date),
      customer.currency,
      customer.salesperson,
      this.chance.chance(0.4) ? `PO ${this.chance.whole(1000, 99999)}` : null,
    )
    lines
      .filter(line => line.kind === 'item')
      .forEach((line, index) => {
        this.table('order_lines').add(
          id,
          index + 1,
          line.item!.id,
          line.description,
          fixed(line.quantity, 3),
          money(line.price),
          money(line.amount),
        )
      })
    return id
  }

  private creditNote(invoice: OpenDocument): void {
    const line = this.itemLine()
    const quantity = Math.min(line.quantity, 3000)
    const amount = -share(quantity, line.price, 1000)
    const day = Math.min(clock, invoice.date + this.chance.whole(2, 20))
    const lines = [{ ...line, quantity: -quantity, amount }]
    const credit = this.document('credit note', invoice.customer, day, day, day, lines, 0, 0, null, invoice.id)
    if (this.chance.chance(0.7))
      this.later.push({
        day: day + this.chance.whole(0, 10),
        run: () => this.apply(invoice, credit, Math.min(invoice.open, -credit.open), Math.min(clock, day + 10), null),
      })
  }

  private document(
    kind: 'invoice' | 'credit note',
    customer: Customer,
    date: Day,
    due: Day | null,
    expected: Day,
    lines: Line[],
    freight: number,
    discount: number,
    order: number | null,
    credited: number | null = null,
  ): OpenDocument {
    const id = ++this.invoices
    const credit = kind === 'credit note'
    const number = credit ? `CRN-${String(++this.credits).padStart(5, '0')}` : `INV-${String(10000 + id - this.credits)}`
    const branch = customer.branch
    const rate = bookedRate(customer.currency, date)
    const base = (cents: number) => share(cents, rate, rateUnit)
    const goods = lines.reduce((sum, line) => sum + line.amount, 0)
    const taxBases = new Map<string, number>()
    for (const line of lines) if (line.tax) taxBases.set(line.tax, (taxBases.get(line.tax) ?? 0) + line.amount)
    if (freight) taxBases.set('S', (taxBases.get('S') ?? 0) + freight)
    const [largest] = [...taxBases].sort((a, b) => b[1] - a[1])[0]!
    if (discount) taxBases.set(largest, taxBases.get(largest)! - discount)
    const taxes = [...taxBases]
      .sort((a, b) => (a[0] < b[0] ? -1 : 1))
      .map(([code, amount]) => ({ code, base: amount, rate: taxRate(code, date), amount: share(amount, taxRate(code, date), 100000) }))
    const tax = taxes.reduce((sum, each) => sum + each.amount, 0)
    const total = goods + freight - discount + tax
    const baseTotal = base(total)
    this.table('invoices').add(
      id,
      number,
      kind,
      branch,
      customer.id,
      order,
      dayText(date),
      due === null ? null : dayText(due),
      customer.terms,
      customer.salesperson,
      customer.currency,
      fixed(rate, 6),
      money(goods),
      money(freight),
      money(discount),
      money(tax),
      money(total),
      money(baseTotal),
      this.chance.chance(0.1) ? this.chance.one(remarks) : null,
      dayText(date),
      credited,
      freight ? 'S' : null,
      discount ? largest : null,
    )
    lines.forEach((line, index) =>
      this.table('invoice_lines').add(
        id,
        index + 1,
        line.kind,
        line.item?.id ?? null,
        line.kind === 'service' ? line.account! : null,
        line.description,
        line.kind === 'comment' ? null : fixed(line.quantity, 3),
        line.unit ?? null,
        line.kind === 'comment' ? null : money(line.price),
        line.kind === 'comment' ? null : money(line.amount),
        line.tax ?? null,
        line.tax ? fixed(taxRate(line.tax, date), 3) : null,
      ),
    )
    for (const line of lines) if (line.item) this.shipments.push({ item: line.item, branch, day: date, number, quantity: line.quantity })
    const postings: Posting[] = [{ account: '1200', branch, amount: baseTotal }]
    for (const each of taxes) {
      this.table('invoice_taxes').add(id, each.code, fixed(each.rate, 3), money(each.base), money(each.amount), money(base(each.amount)))
      postings.push({ account: '2310', branch, amount: -base(each.amount) })
    }
    const revenue = new Map<string, number>()
    for (const line of lines) if (line.account) revenue.set(line.account, (revenue.get(line.account) ?? 0) + line.amount)
    // exactly one credit note is posted as a return: an account with one entry
    if (credit && !this.returnsPosted && date > dayOf(2025, 1, 1)) {
      this.returnsPosted = true
      const whole = [...revenue.values()].reduce((sum, amount) => sum + amount, 0)
      revenue.clear()
      revenue.set('4900', whole)
    }
    for (const [account, amount] of revenue)
      postings.push({ account, branch, department: account.startsWith('42') ? 2 : 1, amount: -base(amount) })
    if (freight) postings.push({ account: '4500', branch, department: 1, amount: -base(freight) })
    if (discount) postings.push({ account: '4950', branch, department: 1, amount: base(discount) })
    const difference = -postings.reduce((sum, posting) => sum + posting.amount, 0)
    if (difference) postings.push({ account: '7790', branch, amount: difference })
    this.ledger.post(date, 'sales', number, `${credit ? 'Credit note' : 'Invoice'} ${number}`, postings)
    return { id, number, customer, branch, date, due: expected, rate, open: total, openBase: baseTotal, credit }
  }

  /** Early, punctual, late, partial, shared and missing payments, by the customer's habit. */
  private payLater(invoice: OpenDocument): void {
    const { chance } = this
    const habit = invoice.customer.reliable * 0.5 + chance.next() * 0.5
    const delay = habit > 0.75 ? chance.whole(-12, 0) : habit > 0.4 ? chance.whole(0, 12) : habit > 0.15 ? chance.whole(15, 75) : 10000
    const day = Math.max(invoice.date + 1, invoice.due + delay)
    const partial = chance.chance(0.12)
    this.later.push({
      day,
      run: () => {
        if (invoice.open <= 0) return
        const amount = partial ? share(invoice.open, chance.whole(20, 80), 100) : invoice.open
        const extra = chance.chance(0.03) ? chance.whole(1, 50) * 1000 : 0
        this.receipt(invoice, amount, extra, day)
        if (partial && chance.chance(0.6)) {
          const rest = day + chance.whole(10, 50)
          this.later.push({ day: rest, run: () => invoice.open > 0 && this.receipt(invoice, invoice.open, 0, rest) })
        }
      },
    })
  }

  /** Money in; what is not applied at once stays on the customer's account. */
  private receipt(invoice: OpenDocument, amount: number, extra: number, day: Day): void {
    const id = ++this.receipts
    const { customer, branch } = invoice
    const rate = bookedRate(customer.currency, day)
    const received = amount + extra
    const base = share(received, rate, rateUnit)
    const number = `REC-${String(id).padStart(5, '0')}`
    this.table('receipts').add(
      id,
      number,
      customer.id,
      branch,
      dayText(day),
      customer.currency,
      fixed(rate, 6),
      money(received),
      money(base),
    )
    this.ledger.post(day, 'receipt', number, `Receipt ${number}`, [
      { account: customer.currency === 'EUR' ? '1010' : '1020', branch, amount: base },
      { account: '1200', branch, amount: -base },
    ])
    if (this.chance.chance(0.02)) return
    const source: OpenDocument = {
      id,
      number,
      customer,
      branch,
      date: day,
      due: day,
      rate,
      open: -received,
      openBase: -base,
      credit: false,
    }
    const appliedOn = Math.min(clock, day + (this.chance.chance(0.1) ? this.chance.whole(1, 9) : 0))
    this.apply(invoice, source, amount, appliedOn, id)
  }

  /** Applies a receipt (or a credit note) to an invoice; the difference between their booked rates is an exchange difference. */
  private apply(invoice: OpenDocument, source: OpenDocument, amount: number, day: Day, receipt: number | null): void {
    if (amount <= 0) return
    const part = (side: OpenDocument) =>
      amount === Math.abs(side.open) ? Math.abs(side.openBase) : Math.min(share(amount, side.rate, rateUnit), Math.abs(side.openBase))
    const [invoiceBase, sourceBase] = [part(invoice), part(source)]
    invoice.open -= amount
    invoice.openBase -= invoiceBase
    source.open += amount
    source.openBase += sourceBase
    this.table('applications').add(
      ++this.applications,
      invoice.id,
      receipt,
      receipt === null ? source.id : null,
      dayText(day),
      money(amount),
      money(invoiceBase),
      money(sourceBase),
    )
    const difference = sourceBase - invoiceBase
    if (difference) {
      this.ledger.post(day, 'application', invoice.number, `Exchange difference on ${invoice.number}`, [
        { account: '1200', branch: invoice.branch, amount: difference },
        { account: '7710', branch: invoice.branch, amount: -difference },
      ])
    }
  }
}
