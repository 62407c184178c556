import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { add, decimal, type Decimal, multiply, parseDecimal, round, subtract, zero } from '../value/decimal'
import { parseDay } from '../value/date'
import { amountText, sumOf } from './amounts'
import type { EInvoice, InvoiceLine } from './invoice'
import { breaches } from './rules'

const money = (text: string): Decimal => parseDecimal(text)!

/** An invoice that keeps all rules: two rates, a charge and an allowance. */
export function soundInvoice(): EInvoice {
  return {
    number: 'R-1',
    issued: parseDay('2026-10-20')!,
    kind: '380',
    currency: 'EUR',
    due: parseDay('2026-11-19')!,
    notes: ['Thank you & <come> again'],
    seller: { name: 'Cais Velho', vatNumber: 'PT500000000', address: { country: 'PT', city: 'Porto' } },
    buyer: { name: 'Marina & Sons', address: { country: 'PT' } },
    payment: { code: '58', iban: 'PT50000201231234567890154' },
    charges: [
      { is: 'charge', amount: money('12.50'), reason: 'Freight', category: 'S', rate: money('23') },
      { is: 'allowance', amount: money('2.50'), reason: 'Discount', category: 'S', rate: money('23') },
    ],
    lines: [
      {
        id: '1',
        name: 'Rope',
        quantity: money('3'),
        unit: 'MTR',
        price: money('10'),
        amount: money('30.00'),
        category: 'S',
        rate: money('23'),
      },
      {
        id: '2',
        name: 'Chart',
        quantity: money('2'),
        unit: 'H87',
        price: money('7.5'),
        amount: money('15.00'),
        category: 'S',
        rate: money('6'),
      },
    ],
    taxes: [
      { category: 'S', rate: money('23.00'), base: money('40'), tax: money('9.20') },
      { category: 'S', rate: money('6'), base: money('15'), tax: money('0.90') },
    ],
    totals: {
      lines: money('45'),
      allowances: money('2.50'),
      charges: money('12.5'),
      withoutTax: money('55'),
      tax: money('10.10'),
      withTax: money('65.10'),
      due: money('65.10'),
    },
  }
}

/** One change that breaks a rule, for each rule. */
const broken: [rule: string, change: (invoice: EInvoice) => void][] = [
  ['BR-02', each => (each.number = ' ')],
  ['BR-05', each => (each.currency = '')],
  ['BR-06', each => (each.seller.name = '')],
  ['BR-07', each => (each.buyer.name = '')],
  ['BR-09', each => (each.seller.address.country = '')],
  ['BR-11', each => (each.buyer.address.country = '')],
  ['BR-16', each => (each.lines = [])],
  ['BR-21', each => (each.lines[0]!.id = '')],
  ['BR-23', each => (each.lines[0]!.unit = '')],
  ['BR-24', each => (each.lines[0]!.quantity = money('4'))],
  ['BR-25', each => (each.lines[1]!.name = '')],
  ['BR-27', each => Object.assign(each.lines[0]!, { price: money('-10'), quantity: money('-3') })],
  ['BR-33', each => (each.charges[1]!.reason = '')],
  ['BR-53', each => (each.taxCurrency = 'NOK')],
  ['BR-55', each => (each.before = { number: '' })],
  ['BR-61', each => (each.payment = { code: '58' })],
  ['BT-84', each => (each.payment!.iban = 'PT50000201231234567890155')],
  ['BR-CO-09', each => (each.buyer.vatNumber = '500000000')],
  ['BR-CO-10', each => (each.totals.lines = money('45.01'))],
  ['BR-CO-11', each => (each.totals.allowances = money('2.51'))],
  ['BR-CO-12', each => (each.totals.charges = money('12.51'))],
  ['BR-CO-13', each => (each.totals.withoutTax = money('55.01'))],
  ['BR-CO-14', each => (each.totals.tax = money('10.11'))],
  ['BR-CO-15', each => (each.totals.withTax = money('65.11'))],
  ['BR-CO-16', each => (each.totals.paid = money('5.10'))],
  ['BR-CO-17', each => (each.taxes[0]!.tax = money('9.22'))],
  ['BR-CO-18', each => (each.taxes = [])],
  ['BR-CO-25', each => delete each.due],
  ['BR-CO-26', each => delete each.seller.vatNumber],
  ['BR-DEC', each => (each.totals.due = money('65.101'))],
  ['BR-S-01', each => (each.taxes = [{ category: 'Z', rate: zero, base: zero, tax: money('10.10') }])],
  ['BR-S-02', each => delete each.seller.vatNumber],
  ['BR-S-05', each => (each.lines[0]!.rate = zero)],
  ['BR-S-06', each => (each.charges[1]!.rate = zero)],
  ['BR-S-07', each => (each.charges[0]!.rate = zero)],
  ['BR-S-08', each => (each.taxes[1]!.base = money('15.01'))],
  ['BR-S-10', each => (each.taxes[0]!.exemption = 'None')],
  ['BR-Z-01', each => Object.assign(each.lines[1]!, { category: 'Z', rate: zero })],
  ['BR-Z-05', each => Object.assign(each.lines[1]!, { category: 'Z' })],
  ['BR-Z-08', each => each.taxes.push({ category: 'Z', rate: zero, base: money('1'), tax: zero })],
  ['BR-Z-09', each => each.taxes.push({ category: 'Z', rate: zero, base: zero, tax: money('1') })],
  ['BR-G-05', each => Object.assign(each.lines[1]!, { category: 'G' })],
  ['BR-G-10', each => each.taxes.push({ category: 'G', rate: zero, base: zero, tax: zero })],
  ['BR-AE-10', each => each.taxes.push({ category: 'AE', rate: zero, base: zero, tax: zero })],
  ['BR-IC-10', each => each.taxes.push({ category: 'K', rate: zero, base: zero, tax: zero })],
  ['BR-E-10', each => each.taxes.push({ category: 'E', rate: zero, base: zero, tax: zero })],
  ['BR-O-09', each => each.taxes.push({ category: 'O', rate: zero, base: zero, tax: money('1'), exemption: 'Not taxed' })],
]

describe('rules of an invoice', () => {
  it('are all kept by a sound one', () => {
    expect(breaches(soundInvoice())).toEqual([])
  })

  it.each(broken)('%s is found where it is broken', (rule, change) => {
    const invoice = soundInvoice()
    change(invoice)
    expect(breaches(invoice).map(each => each.rule)).toContain(rule)
    for (const { sentence } of breaches(invoice)) expect(sentence).toMatch(/^[“A-Z].*\.$/s)
  })

  it('hold for invoices of any lines that are added up by cents, and none of the sums may be a cent off', () => {
    const cents = (most: number) => fc.integer({ min: 0, max: most })
    const line = fc.record({ quantity: cents(9_999_999), price: cents(9_999_999), rate: fc.constantFrom('23', '13', '6') })
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 30 }), cents(50_000), fc.nat(), (found, freight, pick) => {
        const invoice = soundInvoice()
        invoice.lines = found.map(({ quantity, price, rate }, at): InvoiceLine => {
          const own = { quantity: decimal(quantity, 3), price: decimal(price, 2) }
          const amount = round(multiply(own.quantity, own.price), 2)
          return { id: String(at + 1), name: 'Item', unit: 'H87', ...own, amount, category: 'S', rate: money(rate) }
        })
        invoice.charges = [{ is: 'charge', amount: decimal(freight, 2), reason: 'Freight', category: 'S', rate: money('23') }]
        // added up by a naive loop over whole cents
        const bases: Record<string, bigint> = { 23: BigInt(freight) }
        let lines = 0n
        for (const { quantity, price, rate } of found) {
          const exact = BigInt(quantity) * BigInt(price)
          const amount = (exact + 500n) / 1000n
          lines += amount
          bases[rate] = (bases[rate] ?? 0n) + amount
        }
        invoice.taxes = Object.entries(bases).map(([rate, base]) => ({
          ...{ category: 'S' as const, rate: money(rate), base: decimal(base, 2) },
          tax: decimal((base * BigInt(rate) + 50n) / 100n, 2),
        }))
        const tax = sumOf(invoice.taxes.map(each => each.tax))
        const withoutTax = decimal(lines + BigInt(freight), 2)
        const withTax = add(withoutTax, tax)
        invoice.totals = {
          lines: decimal(lines, 2),
          allowances: zero,
          charges: decimal(freight, 2),
          withoutTax,
          tax,
          withTax,
          due: withTax,
        }
        expect(breaches(invoice)).toEqual([])
        const names = ['lines', 'charges', 'withoutTax', 'tax', 'withTax', 'due'] as const
        const name = names[pick % names.length]!
        invoice.totals[name] = subtract(invoice.totals[name], decimal(1, 2))
        expect(breaches(invoice).length).toBeGreaterThan(0)
      }),
      { numRuns: 300 },
    )
  })
})

it('amounts are written with two decimals, and are refused where they have more', () => {
  expect(['0', '5', '-1.5', '1234567890123456789.10', '2.500'].map(text => amountText(money(text)))).toEqual([
    '0.00',
    '5.00',
    '-1.50',
    '1234567890123456789.10',
    '2.50',
  ])
  expect(() => amountText(money('0.001'))).toThrow('more than two decimals')
})
