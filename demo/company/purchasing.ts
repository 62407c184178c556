import { dayText, type Day } from '../../core/value/date'
import type { Ledger, Posting } from './ledger'
import { bookedRate, clock, firstDay, givenNames, type Item, type Masters, rateUnit, surnames, termDays } from './masters'
import { Chance, fixed, money, share, type TableText } from './random'
import type { Shipment } from './sales'
import { type Movement, stockOf, type Stock, type Wanted } from './stock'
import { type Buying, type Supplier, writeSuppliers } from './suppliers'

/** A bill, a credit note or a payment while it is settled. Amounts are cents; what reduces a debt is negative. */
interface OpenBill {
  id: number
  number: string
  supplier: Supplier
  branch: number
  date: Day
  due: Day
  rate: number
  open: number
  openBase: number
}
interface BillLine {
  receipt?: number
  line?: number
  account?: string
  description: string
  quantity?: number
  price?: number
  amount: number
  /** what was booked when it was received, company's currency */ booked?: number
}

const base = (cents: number, rate: number) => share(cents, rate, rateUnit)
const number = (prefix: string, id: number) => `${prefix}-${String(id).padStart(5, '0')}`
const purchaseTax = 22

/**
 * Writes stock, requests, purchase orders, goods receipts, supplier bills and payments, and posts each of them; shipments are posted at
 * what they cost.
 */
export class Purchasing {
  private chance = new Chance(20240502)
  private bills = 0
  private credits = 0
  private payments = 0
  private applications = 0
  private later: { day: Day; run: () => void }[] = []
  private buying: Buying

  constructor(
    private readonly masters: Masters,
    private readonly ledger: Ledger,
    private readonly table: (name: string) => TableText,
    private readonly scale: number,
  ) {
    this.buying = writeSuppliers(this.chance, scale, masters, table)
  }

  write(shipments: readonly Shipment[], orders: number): void {
    const { movements, wanted } = this.stock(shipments, this.openSalesOrders(orders))
    this.opening(movements)
    this.shipments(movements)
    this.orders(wanted, movements)
    this.openRequests()
    while (this.later.length) {
      const due = this.later.sort((a, b) => a.day - b.day)
      this.later = []
      for (const event of due) if (event.day <= clock) event.run()
    }
  }

  /** Sales orders that are not invoiced yet: what they promise is reserved. By item and branch, thousandths. */
  private openSalesOrders(before: number): Map<string, number> {
    const { chance } = this
    const reserved = new Map<string, number>()
    for (let index = 0; index < Math.round(40 * this.scale); index++) {
      const id = before + index + 1
      const customer = chance.one(this.masters.customers)
      this.table('orders').add(
        id,
        `SO-${String(id).padStart(5, '0')}`,
        customer.id,
        customer.branch,
        dayText(clock - chance.whole(0, 20)),
        customer.currency,
        customer.salesperson,
        null,
      )
      const items = new Set(Array.from({ length: chance.whole(1, 4) }, () => chance.one(this.masters.items)))
      ;[...items].forEach((item, line) => {
        const quantity = chance.whole(1, 12) * 1000
        this.table('order_lines').add(
          id,
          line + 1,
          item.id,
          item.name,
          fixed(quantity, 3),
          money(item.price),
          money(share(quantity, item.price, 1000)),
        )
        const key = `${item.id} ${customer.branch}`
        reserved.set(key, (reserved.get(key) ?? 0) + quantity)
      })
    }
    return reserved
  }

  private stock(shipments: readonly Shipment[], reserved: Map<string, number>): { movements: Movement[]; wanted: Wanted[] } {
    const byPlace = new Map<string, Shipment[]>()
    for (const shipment of shipments) {
      const key = `${shipment.item.id} ${shipment.branch}`
      const list = byPlace.get(key)
      if (list) list.push(shipment)
      else byPlace.set(key, [shipment])
    }
    const movements: Movement[] = []
    const wanted: Wanted[] = []
    for (const item of this.masters.items) {
      for (const { id: branch } of this.masters.branches) {
        for (const yard of [0, 1]) {
          const warehouse = branch * 2 - 1 + yard
          const own = yard ? [] : (byPlace.get(`${item.id} ${branch}`) ?? []).sort((a, b) => a.day - b.day)
          const stock: Stock = stockOf(item, warehouse, own, this.buying.offers.get(item.id)!)
          movements.push(...stock.movements)
          for (const each of stock.movements)
            if (each.wanted) this.arrivals.set(each.wanted, [...(this.arrivals.get(each.wanted) ?? []), each])
          wanted.push(...stock.wanted)
          const held = yard ? 0 : (reserved.get(`${item.id} ${branch}`) ?? 0)
          this.table('stock_levels').add(
            item.id,
            warehouse,
            fixed(stock.onHand, 3),
            fixed(held, 3),
            fixed(stock.onOrder, 3),
            fixed(stock.point, 3),
            fixed(stock.upTo, 3),
          )
        }
      }
    }
    return { movements, wanted }
  }

  private opening(movements: readonly Movement[]): void {
    const byBranch = new Map<number, number>()
    for (const each of movements)
      if (each.kind === 'opening') byBranch.set(branchOf(each.warehouse), (byBranch.get(branchOf(each.warehouse)) ?? 0) + each.amount)
    this.ledger.post(
      firstDay,
      'opening',
      null,
      'Stock brought in by the founders',
      [...byBranch].flatMap(([branch, amount]): Posting[] => [
        { account: '1300', branch, amount },
        { account: '3100', branch, amount: -amount },
      ]),
    )
  }

  /** Cost of sales with each shipment. */
  private shipments(movements: readonly Movement[]): void {
    const byDocument = new Map<string, { day: Day; branch: number; amount: number }>()
    for (const each of movements) {
      if (each.kind !== 'shipment' && each.kind !== 'return') continue
      const found = byDocument.get(each.number!)
      if (found) found.amount += each.amount
      else byDocument.set(each.number!, { day: each.day, branch: branchOf(each.warehouse), amount: each.amount })
    }
    for (const [document, { day, branch, amount }] of byDocument)
      if (amount)
        this.ledger.post(day, 'shipment', document, `Goods of ${document}`, [
          { account: '5010', branch, department: 1, amount: -amount },
          { account: '1300', branch, amount },
        ])
  }

  private orders(wanted: readonly Wanted[], movements: readonly Movement[]): void {
    const orders = new Map<string, Wanted[]>()
    for (const each of wanted) {
      const key = `${String(each.ordered).padStart(6, '0')} ${String(each.offer.supplier.id).padStart(5, '0')} ${each.warehouse}`
      const list = orders.get(key)
      if (list) list.push(each)
      else orders.set(key, [each])
    }
    const received: { order: number; line: number; wanted: Wanted; day: Day; quantity: number }[] = []
    let [id, requests] = [0, 0]
    for (const [, lines] of [...orders].sort((a, b) => (a[0] < b[0] ? -1 : 1))) {
      const [
        {
          offer: { supplier },
          warehouse,
          ordered,
        },
      ] = lines as [Wanted, ...Wanted[]]
      const branch = branchOf(warehouse)
      id++
      const request = this.chance.chance(0.2)
        ? this.request(
            ++requests,
            branch,
            ordered - this.chance.whole(1, 6),
            'ordered',
            lines.map(({ item, quantity }) => ({ item, quantity })),
          )
        : null
      const amounts = lines.map(line => share(line.quantity, line.offer.price, 1000))
      this.table('purchase_orders').add(
        id,
        number('PO', id),
        supplier.id,
        branch,
        warehouse,
        supplier.buyer,
        request,
        dayText(ordered),
        supplier.currency,
        supplier.terms,
        money(amounts.reduce((sum, each) => sum + each, 0)),
        this.chance.chance(0.1) ? 'Deliver before noon; ring at the gate' : null,
      )
      lines.forEach((line, index) => {
        const sum = line.received.reduce((total, each) => total + each.quantity, 0)
        this.table('purchase_order_lines').add(
          id,
          index + 1,
          line.item.id,
          line.offer.number,
          line.item.name,
          fixed(line.quantity, 3),
          line.item.unit,
          money(line.offer.price),
          money(amounts[index]!),
          dayText(line.expected),
          fixed(sum, 3),
          line.closed || sum >= line.quantity,
        )
        for (const each of line.received) received.push({ order: id, line: index + 1, wanted: line, ...each })
      })
    }
    this.requests = requests
    this.receipts(received)
    movements.forEach((each, index) =>
      this.table('stock_movements').add(
        index + 1,
        each.item.id,
        each.warehouse,
        dayText(each.day),
        each.kind,
        each.number,
        fixed(each.quantity, 3),
        money(each.amount),
      ),
    )
    this.arrivals.clear()
  }

  private requests = 0

  private request(id: number, branch: number, day: Day, status: string, lines: { item: Item; quantity: number }[]): number {
    const { chance } = this
    const decided = status !== 'waiting'
    const total = lines.reduce((sum, line) => sum + share(line.quantity, line.item.cost, 1000), 0)
    this.table('purchase_requests').add(
      id,
      number('REQ', id),
      dayText(day),
      `${chance.one(givenNames)} ${chance.one(surnames)}`,
      chance.whole(1, 3),
      branch,
      status,
      decided || chance.chance(0.7) ? (total <= 250000 ? 1 : total <= 500000 ? 3 : total <= 1000000 ? 4 : 5) : null,
      decided ? dayText(Math.min(clock, day + 1)) : null,
      chance.chance(0.8) ? dayText(day + chance.whole(7, 40)) : null,
      chance.chance(0.3)
        ? chance.one(['Spring fit-out', 'Stock for the regatta week', 'Asked for by the workshop', 'Price goes up next month'])
        : null,
    )
    lines.forEach((line, index) =>
      this.table('purchase_request_lines').add(
        id,
        index + 1,
        line.item.id,
        line.item.name,
        fixed(line.quantity, 3),
        line.item.unit,
        money(line.item.cost),
        money(share(line.quantity, line.item.cost, 1000)),
      ),
    )
    return id
  }

  /** Requests of the last weeks that no order came of yet. */
  private openRequests(): void {
    const { chance } = this
    for (let index = 0; index < 24; index++) {
      const lines = Array.from({ length: chance.whole(1, 5) }, () => ({
        item: chance.one(this.masters.items),
        quantity: chance.whole(1, 40) * 1000,
      }))
      this.request(
        ++this.requests,
        chance.whole(1, 3),
        clock - chance.whole(0, 30),
        chance.one(['waiting', 'waiting', 'approved', 'refused']),
        lines,
      )
    }
  }

  /** Goods received stand in the books at standard cost against what the order says they cost. */
  private receipts(received: { order: number; line: number; wanted: Wanted; day: Day; quantity: number }[]): void {
    const { chance } = this
    const groups = new Map<string, typeof received>()
    for (const each of received) {
      const key = `${String(each.day).padStart(6, '0')} ${String(each.order).padStart(7, '0')}`
      const list = groups.get(key)
      if (list) list.push(each)
      else groups.set(key, [each])
    }
    let id = 0
    for (const [, lines] of [...groups].sort((a, b) => (a[0] < b[0] ? -1 : 1))) {
      id++
      const [
        {
          wanted: {
            offer: { supplier },
            warehouse,
          },
          day,
          order,
        },
      ] = lines as [(typeof received)[0]]
      const branch = branchOf(warehouse)
      const rate = bookedRate(supplier.currency, day)
      this.table('goods_receipts').add(
        id,
        number('GR', id),
        order,
        supplier.id,
        warehouse,
        dayText(day),
        chance.chance(0.8) ? `DN ${chance.whole(10000, 99999)}` : null,
      )
      const bill: BillLine[] = []
      let [stocked, owed] = [0, 0]
      lines.forEach((each, index) => {
        const { wanted } = each
        const amount = share(each.quantity, wanted.offer.price, 1000)
        const booked = base(amount, rate)
        const cost = share(each.quantity, wanted.item.cost, 1000)
        stocked += cost
        owed += booked
        this.table('goods_receipt_lines').add(
          id,
          index + 1,
          each.order,
          each.line,
          wanted.item.id,
          fixed(each.quantity, 3),
          money(wanted.offer.price),
          money(booked),
          money(cost),
        )
        bill.push({
          receipt: id,
          line: index + 1,
          description: wanted.item.name,
          quantity: each.quantity,
          price: wanted.offer.price,
          amount,
          booked,
        })
      })
      for (const { wanted, quantity } of lines) {
        const movement = this.arrivals.get(wanted)!.find(each => each.day === day && each.quantity === quantity)
        movement!.number = number('GR', id)
      }
      this.ledger.post(day, 'goods receipt', number('GR', id), `Goods received ${number('GR', id)}`, [
        { account: '1300', branch, amount: stocked },
        { account: '2150', branch, amount: -owed },
        { account: '5190', branch, department: 1, amount: owed - stocked },
      ])
      // a few are never billed: someone has to ask
      if (id % 67 !== 33) this.later.push({ day: day + chance.whole(1, 16), run: () => this.receiptBill(supplier, branch, day, bill) })
    }
  }

  /** Movements into a warehouse by the order line that they came of. */
  private arrivals = new Map<Wanted, Movement[]>()

  private receiptBill(supplier: Supplier, branch: number, received: Day, lines: BillLine[]): void {
    const { chance } = this
    const day = Math.min(clock, received + chance.whole(1, 16))
    // now and then a supplier bills another price than was ordered
    const priced = lines.map((line): BillLine => {
      if (!chance.chance(0.04)) return line
      const price = line.price! + Math.max(1, share(line.price!, chance.whole(1, 6), 100))
      return { ...line, price, amount: share(line.quantity!, price, 1000) }
    })
    if (chance.chance(0.25)) priced.push({ account: '5200', description: 'Freight', amount: chance.whole(5, 60) * 100 })
    const bill = this.bill('bill', supplier, branch, day, priced)
    if (chance.chance(0.05)) this.later.push({ day: day + chance.whole(3, 25), run: () => this.credit(bill) })
    if (chance.chance(0.015)) this.later.push({ day, run: () => this.payment(supplier, branch, chance.whole(2, 40) * 2500, [], day) })
    this.payLater(bill)
  }

  private credit(bill: OpenBill): void {
    const day = Math.min(clock, bill.date + this.chance.whole(3, 25))
    const credit = this.bill('credit note', bill.supplier, bill.branch, day, [
      { account: '5190', description: 'Goodwill for late delivery', amount: -this.chance.whole(10, 90) * 100 },
    ])
    if (this.chance.chance(0.6)) this.later.push({ day, run: () => this.apply(bill, credit, Math.min(bill.open, -credit.open), day, null) })
  }

  private bill(kind: 'bill' | 'credit note', supplier: Supplier, branch: number, date: Day, lines: BillLine[]): OpenBill {
    const { chance } = this
    const id = ++this.bills
    const name = kind === 'bill' ? number('BILL', id - this.credits) : number('SCN', ++this.credits)
    const rate = bookedRate(supplier.currency, date)
    const goods = lines.reduce((sum, line) => sum + line.amount, 0)
    const tax = supplier.currency === 'EUR' ? share(goods, purchaseTax, 100) : 0
    const total = goods + tax
    const expected = date + termDays[supplier.terms ?? 'NET-30']!
    const due = kind === 'credit note' ? date : id % 173 === 90 || supplier.terms === null ? null : expected
    this.table('supplier_bills').add(
      id,
      name,
      kind,
      `${chance.one(['F', 'R', 'A/', ''])}${chance.whole(100, 99999)}`,
      supplier.id,
      branch,
      dayText(date),
      due === null ? null : dayText(due),
      supplier.terms,
      supplier.currency,
      fixed(rate, 6),
      money(goods),
      money(tax),
      money(total),
      money(base(total, rate)),
    )
    const postings: Posting[] = [
      { account: '2100', branch, amount: -base(total, rate) },
      { account: '1350', branch, amount: base(tax, rate) },
    ]
    let cleared = 0
    const other = new Map<string, number>()
    lines.forEach((line, index) => {
      this.table('supplier_bill_lines').add(
        id,
        index + 1,
        line.receipt ?? null,
        line.line ?? null,
        line.account ?? null,
        line.description,
        line.quantity === undefined ? null : fixed(line.quantity, 3),
        line.price === undefined ? null : money(line.price),
        money(line.amount),
        supplier.currency === 'EUR' ? 'S' : 'Z',
      )
      if (line.account) other.set(line.account, (other.get(line.account) ?? 0) + base(line.amount, rate))
      else cleared += line.booked!
    })
    postings.push({ account: '2150', branch, amount: cleared })
    for (const [account, amount] of other) postings.push({ account, branch, department: 1, amount })
    // prices and rates that differ from those of the receipt
    postings.push({ account: '5190', branch, department: 1, amount: -postings.reduce((sum, posting) => sum + posting.amount, 0) })
    this.ledger.post(date, 'purchases', name, `${kind === 'bill' ? 'Bill' : 'Credit note'} ${name}`, postings)
    return { id, number: name, supplier, branch, date, due: expected, rate, open: total, openBase: base(total, rate) }
  }

  /** Payment runs are weekly; a few bills are paid early, in part, or wait for an answer. */
  private payLater(bill: OpenBill): void {
    const { chance } = this
    const habit = chance.next()
    const delay = habit < 0.1 ? -chance.whole(3, 12) : habit < 0.8 ? 0 : habit < 0.95 ? chance.whole(7, 60) : 100000
    const day = Math.max(bill.date + 1, Math.ceil((bill.due + delay) / 7) * 7)
    const partial = chance.chance(0.06)
    this.later.push({
      day,
      run: () => {
        if (bill.open <= 0) return
        const amount = partial ? share(bill.open, chance.whole(30, 70), 100) : bill.open
        this.payment(bill.supplier, bill.branch, amount, [bill], day)
        if (partial && chance.chance(0.7))
          this.later.push({
            day: day + 28,
            run: () => bill.open > 0 && this.payment(bill.supplier, bill.branch, bill.open, [bill], day + 28),
          })
      },
    })
  }

  /** Money out; without bills it is an advance that waits to be applied. */
  private payment(supplier: Supplier, branch: number, amount: number, bills: OpenBill[], day: Day): void {
    const id = ++this.payments
    const rate = bookedRate(supplier.currency, day)
    const booked = base(amount, rate)
    const name = number('PAY', id)
    this.table('payments').add(id, name, supplier.id, branch, dayText(day), supplier.currency, fixed(rate, 6), money(amount), money(booked))
    this.ledger.post(day, 'payment', name, `Payment ${name}`, [
      { account: '2100', branch, amount: booked },
      { account: supplier.currency === 'EUR' ? '1010' : '1020', branch, amount: -booked },
    ])
    const source: OpenBill = { id, number: name, supplier, branch, date: day, due: day, rate, open: -amount, openBase: -booked }
    for (const bill of bills) this.apply(bill, source, amount, day, id)
  }

  /** Applies a payment (or a credit note) to a bill; the difference between their booked rates is an exchange difference. */
  private apply(bill: OpenBill, source: OpenBill, amount: number, day: Day, payment: number | null): void {
    if (amount <= 0) return
    const part = (side: OpenBill) =>
      amount === Math.abs(side.open) ? Math.abs(side.openBase) : Math.min(base(amount, side.rate), Math.abs(side.openBase))
    const [billBase, sourceBase] = [part(bill), part(source)]
    bill.open -= amount
    bill.openBase -= billBase
    source.open += amount
    source.openBase += sourceBase
    this.table('payment_applications').add(
      ++this.applications,
      bill.id,
      payment,
      payment === null ? source.id : null,
      dayText(day),
      money(amount),
      money(billBase),
      money(sourceBase),
    )
    const difference = billBase - sourceBase
    if (difference)
      this.ledger.post(day, 'application', bill.number, `Exchange difference on ${bill.number}`, [
        { account: '2100', branch: bill.branch, amount: difference },
        { account: '7710', branch: bill.branch, amount: -difference },
      ])
  }
}

const branchOf = (warehouse: number) => Math.ceil(warehouse / 2)
