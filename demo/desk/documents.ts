import type { PGlite } from '@electric-sql/pglite'
import { sql } from 'drizzle-orm'
import { parseDay } from '../../core/value/date'
import { compareDecimals, type Decimal, decimal, zero } from '../../core/value/decimal'
import { closePeriod, deskAmount, DeskBooks, DeskError, type DeskPosting, postEntry } from './books'
import type { DeskBill, DeskDocument, DeskInvoice, DeskReceipt } from '../../core/api/desk'
import { bookedRate, rateUnit, salesAccount } from '../company/masters'
import { fixed, money, share } from '../company/random'

/**
 * Posts a document as the company does, in the transaction that somebody else has begun. Comes back with the number of the document, or
 * of the journal. @throws DeskError
 */
export function postAtDesk(db: Pick<PGlite, 'query'>, schema: string, document: DeskDocument): Promise<string> {
  if (document.kind === 'entry') return postEntry(db, schema, document.entry)
  if (document.kind === 'closing') return closePeriod(db, schema, document.closing)
  const desk = new Documents(db, schema)
  return document.kind === 'invoice'
    ? desk.invoice(document.invoice)
    : document.kind === 'receipt'
      ? desk.receipt(document.receipt)
      : desk.bill(document.bill)
}

/** Cents of a document's currency, or thousandths. */
const whole = (value: Decimal, scale: number) => Number(value.units) * 10 ** (scale - value.scale)
const cents = (text: string | undefined, limit = 1e10) => {
  const value = deskAmount(text, 2, limit)
  return value && whole(value, 2)
}
/** Cents that no column of the books can hold. */
const tooMuch = 1e12
const sales = 1
const service = '42'

class Documents {
  private readonly books: DeskBooks
  constructor(db: Pick<PGlite, 'query'>, schema: string) {
    this.books = new DeskBooks(db, schema)
  }

  /** Due by the customer's terms; taxed by the rates of the day; goods leave the first warehouse of the branch at standard cost. */
  async invoice(invoice: DeskInvoice): Promise<string> {
    const { books } = this
    const period = await books.period(invoice.date)
    const branch = await this.branch(invoice.branch)
    const [customer] = await books.ask<{
      id: number
      currency: string
      terms: string | null
      days: number | null
      salesperson: number | null
    }>(sql`select c.id, trim(c.currency_code) as currency, c.payment_term_code as terms, t.days, c.salesperson_id as salesperson
      from ${books.table('customers')} c left join ${books.table('payment_terms')} t on t.code = c.payment_term_code where c.code =
      ${invoice.customer}`)
    if (!customer) throw new DeskError(`There is no customer “${invoice.customer}”; choose one of the list.`)
    if (!invoice.lines.length) throw new DeskError('The invoice has no lines; add what is sold.')
    const rates = new Map(
      (
        await books.ask<{ code: string; rate: string }>(
          sql`select distinct on (tax_code) tax_code as code, rate::text from ${books.table('tax_rates')} where valid_from <=
            ${invoice.date}::date order by tax_code, valid_from desc`,
        )
      ).map(({ code, rate }) => [code, Math.round(Number(rate) * 1000)]),
    )
    const taxBases = new Map<string, number>()
    const revenue = new Map<string, number>()
    const plus = (map: Map<string, number>, key: string, amount: number) => map.set(key, (map.get(key) ?? 0) + amount)
    const lines: {
      kind: string
      item: number | null
      account: string | null
      description: string
      quantity: number
      unit: string
      price: number
      amount: number
      tax: string
      cost: number
    }[] = []
    for (const [index, line] of invoice.lines.entries()) {
      const fail = (what: string): never => {
        throw new DeskError(`Line ${index + 1} ${what}`)
      }
      const quantity = deskAmount(line.quantity, 3, 1e9)
      if (!quantity || compareDecimals(quantity, zero) === 0)
        return fail(`has the quantity “${line.quantity}”; write a number above zero with at most three decimals.`)
      const [item] = line.item
        ? await books.ask<{ id: number; code: string; name: string; unit: string; tax: string; price: string; cost: string | null }>(
            sql`select id, code, name, unit_code as unit, tax_code as tax, price::text, cost::text from ${books.table('items')}
              where code = ${line.item}`,
          )
        : []
      if (line.item && !item) return fail(`sells the item “${line.item}”, which does not exist; choose one of the list.`)
      const account = item ? salesAccount(item.code) : (line.account ?? '')
      if (
        !item &&
        !(
          await books.ask(
            sql`select 1 from ${books.table('accounts')} where code = ${account} and type = 'income' and code not in (select
              parent_code from ${books.table('accounts')} where parent_code is not null)`,
          )
        ).length
      )
        return fail(
          account
            ? `is on the account “${account}”, which is no account of income; choose an item, or an account of income.`
            : 'sells nothing yet; choose an item, or an account of income.',
        )
      const price = line.price?.trim() ? cents(line.price) : item ? cents(item.price) : undefined
      if (price === undefined) return fail(`has the price “${line.price ?? ''}”; write a positive amount with at most two decimals.`)
      const thousandths = whole(quantity, 3)
      const amount = share(thousandths, price, 1000)
      const description = line.description?.trim() || item?.name
      if (!description) return fail('has no description; say what is sold.')
      const tax = item?.tax ?? 'S'
      plus(taxBases, tax, amount)
      plus(revenue, account, amount)
      lines.push({
        kind: item ? 'item' : 'service',
        item: item?.id ?? null,
        account: item ? null : account,
        description,
        quantity: thousandths,
        unit: item?.unit ?? 'h',
        price,
        amount,
        tax,
        cost: item ? share(thousandths, cents(item.cost ?? '0')!, 1000) : 0,
      })
    }
    const [freight, discount] = [cents(invoice.freight), cents(invoice.discount)]
    const goods = lines.reduce((sum, line) => sum + line.amount, 0)
    if (freight === undefined || discount === undefined)
      throw new DeskError('Freight and discount are amounts with at most two decimals, or nothing.')
    if (discount > goods) throw new DeskError('The discount is more than the lines come to; write a smaller one.')
    if (freight) plus(taxBases, 'S', freight)
    const [largest] = [...taxBases].sort((a, b) => b[1] - a[1])[0]!
    if (discount) plus(taxBases, largest, -discount)
    const rate = bookedRate(customer.currency, parseDay(invoice.date)!)
    const base = (amount: number) => share(amount, rate, rateUnit)
    const taxes = [...taxBases]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([code, amount]) => ({ code, base: amount, rate: rates.get(code) ?? 0, amount: share(amount, rates.get(code) ?? 0, 100_000) }))
    const tax = taxes.reduce((sum, each) => sum + each.amount, 0)
    const total = goods + freight - discount + tax
    if (total <= 0 || total >= tooMuch)
      throw new DeskError(
        `The invoice comes to ${total <= 0 ? 'nothing' : 'more than the books can hold'}; check its quantities and prices.`,
      )
    const { id, number } = await books.next('invoices', 'INV-D')
    const due = customer.terms === null ? null : sql`${invoice.date}::date + ${customer.days}::integer`
    await books.ask(sql`insert into ${books.table('invoices')} (id, number, kind, branch_id, customer_id, order_id, invoice_date,
      due_date, payment_term_code, salesperson_id, currency_code, rate, lines_total, freight, discount, tax_total, total, base_total, note,
      delivered_on, freight_tax_code, discount_tax_code)
      values (${id}, ${number}, 'invoice', ${branch}, ${customer.id}, null, ${invoice.date}, ${due}, ${customer.terms},
      ${customer.salesperson}, ${customer.currency}, ${fixed(rate, 6)}, ${money(goods)}, ${money(freight)}, ${money(discount)},
      ${money(tax)}, ${money(total)}, ${money(base(total))}, ${invoice.note?.trim() || null}, ${invoice.date},
      ${freight ? 'S' : null}, ${discount ? largest : null})`)
    for (const [index, line] of lines.entries())
      await books.ask(sql`insert into ${books.table('invoice_lines')} (invoice_id, line_no, kind, item_id, account_code,
        description, quantity, unit_code, unit_price, amount, tax_code, tax_rate)
      values (${id}, ${index + 1}, ${line.kind}, ${line.item}, ${line.account}, ${line.description}, ${fixed(line.quantity, 3)},
      ${line.unit}, ${money(line.price)}, ${money(line.amount)}, ${line.tax}, ${fixed(rates.get(line.tax) ?? 0, 3)})`)
    const postings = new Postings(branch)
    postings.add('1200', base(total))
    for (const each of taxes) {
      await books.ask(
        sql`insert into ${books.table('invoice_taxes')} (invoice_id, tax_code, rate, base, amount, base_currency_amount) values
          (${id}, ${each.code}, ${fixed(each.rate, 3)}, ${money(each.base)}, ${money(each.amount)}, ${money(base(each.amount))})`,
      )
      postings.add('2310', -base(each.amount))
    }
    for (const [account, amount] of revenue) postings.add(account, -base(amount), account.startsWith(service) ? 2 : sales)
    postings.add('4500', -base(freight), sales)
    postings.add('4950', base(discount), sales)
    postings.add('7790', -postings.sum)
    await books.journal(period, invoice.date, `Invoice ${number}`, number, postings.list)
    const goodsOut = new Postings(branch)
    const [warehouse] = await books.ask<{ id: number }>(
      sql`select min(id) as id from ${books.table('warehouses')} where branch_id = ${branch}`,
    )
    for (const line of lines) {
      if (line.item === null || !warehouse) continue
      const { id: movement } = await books.next('stock_movements', '')
      await books.ask(
        sql`insert into ${books.table('stock_movements')} (id, item_id, warehouse_id, movement_date, kind, document_number,
          quantity, amount) values (${movement}, ${line.item}, ${warehouse.id}, ${invoice.date}, 'shipment', ${number},
          ${fixed(-line.quantity, 3)}, ${money(-line.cost)})`,
      )
      await books.ask(
        sql`update ${books.table('stock_levels')} set on_hand = on_hand - ${fixed(line.quantity, 3)}::numeric where item_id =
          ${line.item} and warehouse_id = ${warehouse.id}`,
      )
      goodsOut.add('5010', line.cost, sales)
      goodsOut.add('1300', -line.cost)
    }
    if (goodsOut.list.length) await books.journal(period, invoice.date, `Goods of ${number}`, number, goodsOut.list)
    return number
  }

  /** At the rate of the day; what pays an invoice booked at another rate leaves an exchange difference. */
  async receipt(receipt: DeskReceipt): Promise<string> {
    const { books } = this
    const period = await books.period(receipt.date)
    const branch = await this.branch(receipt.branch)
    const [customer] = await books.ask<{ id: number; currency: string }>(
      sql`select id, trim(currency_code) as currency from ${books.table('customers')} where code = ${receipt.customer}`,
    )
    if (!customer) throw new DeskError(`There is no customer “${receipt.customer}”; choose one of the list.`)
    const amount = cents(receipt.amount)
    if (!amount)
      throw new DeskError(`“${receipt.amount}” is no amount that can be received; write a number above zero with at most two decimals.`)
    const rate = bookedRate(customer.currency, parseDay(receipt.date)!)
    const base = share(amount, rate, rateUnit)
    const { id, number } = await books.next('receipts', 'REC-D')
    await books.ask(
      sql`insert into ${books.table('receipts')} (id, number, customer_id, branch_id, receipt_date, currency_code, rate, amount,
        base_amount) values (${id}, ${number}, ${customer.id}, ${branch}, ${receipt.date}, ${customer.currency}, ${fixed(rate, 6)},
        ${money(amount)}, ${money(base)})`,
    )
    const postings = new Postings(branch)
    postings.add(customer.currency === 'EUR' ? '1010' : '1020', base)
    postings.add('1200', -base)
    await books.journal(period, receipt.date, `Receipt ${number}`, number, postings.list)
    let [left, leftBase] = [amount, base]
    for (const each of receipt.pays) {
      const paid = cents(each.amount)
      if (!paid)
        throw new DeskError(`“${each.amount}” for ${each.invoice} is no amount; write a number above zero with at most two decimals.`)
      const [invoice] = await books.ask<{
        id: number
        branch: number
        rate: string
        open: string
        base: string
        date: string
        name: string
      }>(sql`select i.id, i.branch_id as branch, i.rate::text, i.invoice_date::text as date, b.name, (i.total -
        coalesce(sum(a.amount), 0))::text as open, (i.base_total - coalesce(sum(a.base_amount), 0))::text as base
        from ${books.table('invoices')} i left join ${books.table('applications')} a on a.invoice_id = i.id join
        ${books.table('branches')} b on b.id = i.branch_id where i.number = ${each.invoice} and i.customer_id = ${customer.id} and
        i.kind = 'invoice' group by i.id, i.branch_id, i.rate, i.invoice_date, i.total, i.base_total, b.name`)
      if (!invoice) throw new DeskError(`${each.invoice} is no invoice of this customer; choose one that is open.`)
      if (invoice.branch !== branch) throw new DeskError(`${each.invoice} belongs to ${invoice.name}; choose that branch for the receipt.`)
      const open = Math.round(Number(invoice.open) * 100)
      if (paid > open) throw new DeskError(`Only ${money(open)} of ${each.invoice} is open; write no more than that.`)
      if (paid > left)
        throw new DeskError(`The invoices take more than the ${money(amount)} that is received; write less for ${each.invoice}.`)
      if (invoice.date > receipt.date)
        throw new DeskError(`${each.invoice} is dated after the receipt; choose a later date or another invoice.`)
      const openBase = Math.round(Number(invoice.base) * 100)
      const invoiceBase = paid === open ? openBase : Math.min(share(paid, Math.round(Number(invoice.rate) * rateUnit), rateUnit), openBase)
      const paidBase = paid === left ? leftBase : Math.min(share(paid, rate, rateUnit), leftBase)
      left -= paid
      leftBase -= paidBase
      const application = await books.next('applications', '')
      await books.ask(
        sql`insert into ${books.table('applications')} (id, invoice_id, receipt_id, credit_note_id, applied_on, amount,
          base_amount, source_base_amount) values (${application.id}, ${invoice.id}, ${id}, null, ${receipt.date}, ${money(paid)},
          ${money(invoiceBase)}, ${money(paidBase)})`,
      )
      const difference = new Postings(invoice.branch)
      difference.add('1200', paidBase - invoiceBase)
      difference.add('7710', invoiceBase - paidBase)
      if (difference.list.length)
        await books.journal(period, receipt.date, `Exchange difference on ${each.invoice}`, each.invoice, difference.list)
    }
    return number
  }

  /** Due by the supplier's terms; suppliers at home add the standard tax. */
  async bill(bill: DeskBill): Promise<string> {
    const { books } = this
    const period = await books.period(bill.date)
    const branch = await this.branch(bill.branch)
    const [supplier] = await books.ask<{ id: number; currency: string; terms: string | null; days: number | null }>(
      sql`select s.id, trim(s.currency_code) as currency, s.payment_term_code as terms, t.days from ${books.table('suppliers')} s
        left join ${books.table('payment_terms')} t on t.code = s.payment_term_code where s.code = ${bill.supplier}`,
    )
    if (!supplier) throw new DeskError(`There is no supplier “${bill.supplier}”; choose one of the list.`)
    if (!bill.supplierNumber.trim()) throw new DeskError('The bill has no number of the supplier; write what stands on it.')
    if (!bill.lines.length) throw new DeskError('The bill has no lines; add what was bought.')
    const [standard] = await books.ask<{ rate: string }>(
      sql`select rate::text from ${books.table('tax_rates')} where tax_code = 'S' and valid_from <= ${bill.date}::date order by
        valid_from desc limit 1`,
    )
    const home = supplier.currency === 'EUR'
    const rate = bookedRate(supplier.currency, parseDay(bill.date)!)
    const base = (amount: number) => share(amount, rate, rateUnit)
    const lines: { account: string; department: number | null; description: string; amount: number }[] = []
    for (const [index, line] of bill.lines.entries()) {
      const amount = cents(line.amount)
      if (!amount)
        throw new DeskError(`Line ${index + 1} has the amount “${line.amount}”; write a number above zero with at most two decimals.`)
      const fault = await books.accountFault(line.account)
      if (fault) throw new DeskError(`Line ${index + 1} ${fault}`)
      const [department] = line.department
        ? await books.ask<{ id: number }>(sql`select id from ${books.table('departments')} where code = ${line.department}`)
        : []
      if (line.department && !department) throw new DeskError(`Line ${index + 1} names a department that does not exist; choose another.`)
      if (!line.description.trim()) throw new DeskError(`Line ${index + 1} has no description; say what was bought.`)
      lines.push({ account: line.account, department: department?.id ?? null, description: line.description.trim(), amount })
    }
    const goods = lines.reduce((sum, line) => sum + line.amount, 0)
    const tax = home ? share(goods, Math.round(Number(standard?.rate ?? 0) * 1000), 100_000) : 0
    const { id, number } = await books.next('supplier_bills', 'BILL-D')
    const due = supplier.terms === null ? null : sql`${bill.date}::date + ${supplier.days}::integer`
    await books.ask(sql`insert into ${books.table('supplier_bills')} (id, number, kind, supplier_number, supplier_id, branch_id,
      bill_date, due_date, payment_term_code, currency_code, rate, lines_total, tax_total, total, base_total)
      values (${id}, ${number}, 'bill', ${bill.supplierNumber.trim()}, ${supplier.id}, ${branch}, ${bill.date}, ${due},
      ${supplier.terms}, ${supplier.currency}, ${fixed(rate, 6)}, ${money(goods)}, ${money(tax)}, ${money(goods + tax)},
      ${money(base(goods + tax))})`)
    const postings = new Postings(branch)
    postings.add('2100', -base(goods + tax))
    postings.add('1350', base(tax))
    for (const [index, line] of lines.entries()) {
      await books.ask(
        sql`insert into ${books.table('supplier_bill_lines')} (bill_id, line_no, receipt_id, receipt_line_no, account_code,
          description, quantity, unit_price, amount, tax_code) values (${id}, ${index + 1}, null, null, ${line.account},
          ${line.description}, null, null, ${money(line.amount)}, ${home ? 'S' : 'Z'})`,
      )
      postings.add(line.account, base(line.amount), line.department)
    }
    postings.add('7790', -postings.sum)
    await books.journal(period, bill.date, `Bill ${number}`, number, postings.list)
    return number
  }

  private async branch(code: string): Promise<number> {
    const found = await this.books.branch(code)
    if (!found) throw new DeskError(`There is no branch “${code}”; choose one of the list.`)
    return found
  }
}

/** Postings of one branch in cents; what is nothing is left out. */
class Postings {
  readonly list: DeskPosting[] = []
  sum = 0
  constructor(private readonly branch: number) {}

  /** Debits are positive. */
  add(account: string, amount: number, department: number | null = null): void {
    if (!amount) return
    this.sum += amount
    this.list.push({
      account,
      branch: this.branch,
      department,
      debit: decimal(Math.max(amount, 0), 2),
      credit: decimal(Math.max(-amount, 0), 2),
    })
  }
}
