import { absolute, add, type Decimal, decimal, isZero, trim } from '../value/decimal'
import { amountText } from './amounts'
import type { EInvoice } from './invoice'

/** Marks between the digits of a printed number: points, commas, apostrophes and spaces of all languages. */
const joined = /\d(?:[.,'’\u00a0\u202f\u2009 ]?\d)*/g
const apart = /\d(?:[.,'’\u00a0\u202f\u2009]?\d)*/g

/** The digits of an amount with its decimals, as they stand in any printed form of it. */
export function digitsOf(amount: Decimal, decimals = 2): string {
  const { units } = add(absolute(trim(amount)), decimal(0, decimals))
  return String(units).padStart(decimals + 1, '0')
}

/** The digits of every number in some texts, with and without the marks between them. */
export function printedDigits(texts: Iterable<string>): Set<string> {
  const printed = new Set<string>()
  for (const text of texts)
    for (const pattern of [joined, apart]) for (const [token] of text.matchAll(pattern)) printed.add(token.replace(/\D/g, ''))
  return printed
}

/**
 * Amounts that an invoice tells machines and that stand nowhere on its pages, a sentence each: its totals, its tax, and its lines. They are
 * held against the digits that are printed, whatever the language and the sign; amounts with more than two decimals are left to the rules.
 */
export function notOnPaper({ totals, lines }: EInvoice, texts: Iterable<string>): string[] {
  const printed = printedDigits(texts)
  const told: [what: string, amount: Decimal][] = [
    ['The total with tax (BT-112)', totals.withTax],
    ['The amount due (BT-115)', totals.due],
    ...(isZero(totals.tax) ? [] : [['The tax (BT-110)', totals.tax] as [string, Decimal]]),
    ...lines.map(({ id, amount }): [string, Decimal] => [`The amount of line ${id} (BT-131)`, amount]),
  ]
  return told.flatMap(([what, amount]) =>
    trim(amount).scale > 2 || printed.has(digitsOf(amount)) ? [] : [`${what} is ${amountText(amount)}, which stands nowhere on its pages.`],
  )
}
