import { absolute, add, compareDecimals, decimal, type Decimal, decimalText, isZero, multiply, round, subtract } from '../value/decimal'
import { amountText, isAmount, same, sumOf } from './amounts'
import type { EInvoice, TaxCategory, TaxRate } from './invoice'
import { isValidIBAN } from 'ibantools'

/** A rule of EN 16931-1 (section 6.4) that an invoice breaks: its number, and what is wrong in a sentence. */
export interface Breach {
  rule: string
  sentence: string
}

interface Rule {
  rule: string
  /** what is wrong, a sentence each; none where the invoice keeps the rule */
  broken: (invoice: EInvoice) => string[]
}

const when = (wrong: boolean, sentence: string): string[] => (wrong ? [sentence] : [])
const missing = (rule: string, what: string, of: (invoice: EInvoice) => string | undefined): Rule => ({
  rule,
  broken: invoice => when(!of(invoice)?.trim(), `The invoice has no ${what}.`),
})
/** A rule on each of several parts. */
const each = <T>(
  rule: string,
  parts: (invoice: EInvoice) => readonly T[],
  wrong: (part: T, invoice: EInvoice) => string | undefined,
): Rule => ({ rule, broken: invoice => parts(invoice).flatMap(part => wrong(part, invoice) ?? []) })
const differs = (
  rule: string,
  what: string,
  own: (invoice: EInvoice) => Decimal,
  expected: (invoice: EInvoice) => Decimal,
  by: string,
): Rule => ({
  rule,
  broken: invoice => {
    const [is, wanted] = [own(invoice), expected(invoice)]
    return when(!same(is, wanted), `${what} is ${shown(is)}, but ${by} ${shown(wanted)}.`)
  },
})
/** An amount as it is said in a sentence: with its two decimals, or with all that it has. */
const shown = (amount: Decimal): string => (isAmount(amount) ? amountText(amount) : decimalText(amount))
const lines = (invoice: EInvoice) => invoice.lines

/** What each category wants, by the numbers of its rules. */
const categories: { category: TaxCategory; prefix: string; called: string; rate: 'some' | 'zero' | 'none'; reason: boolean }[] = [
  { category: 'S', prefix: 'BR-S', called: 'standard rated', rate: 'some', reason: false },
  { category: 'Z', prefix: 'BR-Z', called: 'zero rated', rate: 'zero', reason: false },
  { category: 'E', prefix: 'BR-E', called: 'exempt', rate: 'zero', reason: true },
  { category: 'AE', prefix: 'BR-AE', called: 'reverse charge', rate: 'zero', reason: true },
  { category: 'K', prefix: 'BR-IC', called: 'intra-community', rate: 'zero', reason: true },
  { category: 'G', prefix: 'BR-G', called: 'export', rate: 'zero', reason: true },
  { category: 'O', prefix: 'BR-O', called: 'not subject to tax', rate: 'none', reason: true },
]

/** All that is taxed: lines and charges as they are, allowances taken off. */
const taxed = (invoice: EInvoice): (TaxRate & { amount: Decimal })[] => [
  ...invoice.lines,
  ...invoice.charges.map(({ is, amount, ...rest }) => ({ ...rest, amount: is === 'charge' ? amount : subtract(decimal(0), amount) })),
]

const ofCategory = ({ category, prefix, called, rate, reason }: (typeof categories)[number]): Rule[] => {
  const own = (invoice: EInvoice) => invoice.taxes.filter(tax => tax.category === category)
  const rates = (numbers: [string, (invoice: EInvoice) => readonly (TaxRate & { what: string })[]][]): Rule[] =>
    rate === 'none'
      ? []
      : numbers.map(([number, parts]) =>
          each(
            `${prefix}-${number}`,
            invoice => parts(invoice).filter(part => part.category === category),
            part =>
              (rate === 'zero' ? !isZero(part.rate) : compareDecimals(part.rate, decimal(0)) <= 0)
                ? `${part.what} is ${called}, so its rate is ${rate === 'zero' ? '0' : 'more than 0'}, not ${decimalText(part.rate)}.`
                : undefined,
          ),
        )
  return [
    {
      rule: `${prefix}-01`,
      broken: invoice => {
        const used = taxed(invoice).some(part => part.category === category)
        return when(used && !own(invoice).length, `Something is ${called}, but no tax of the document is.`)
      },
    },
    {
      rule: `${prefix}-02`,
      broken: invoice =>
        when(
          category !== 'O' && taxed(invoice).some(part => part.category === category) && !invoice.seller.vatNumber,
          `Something is ${called}, so the seller needs a VAT number.`,
        ),
    },
    ...rates([
      ['05', invoice => invoice.lines.map(line => ({ ...line, what: `Line ${line.id}` }))],
      [
        '06',
        invoice =>
          invoice.charges.filter(({ is }) => is === 'allowance').map(part => ({ ...part, what: `The allowance “${part.reason}”` })),
      ],
      [
        '07',
        invoice => invoice.charges.filter(({ is }) => is === 'charge').map(part => ({ ...part, what: `The charge “${part.reason}”` })),
      ],
    ]),
    each(`${prefix}-08`, own, (tax, invoice) => {
      const parts = taxed(invoice).filter(part => part.category === category && (rate !== 'some' || same(part.rate, tax.rate)))
      const sum = sumOf(parts.map(part => part.amount))
      return same(sum, tax.base) ? undefined : `The base of what is ${called} is ${shown(tax.base)}, but ${shown(sum)} is taxed so.`
    }),
    each(`${prefix}-09`, own, tax =>
      rate !== 'some' && !isZero(tax.tax) ? `What is ${called} has no tax, but ${shown(tax.tax)} is charged.` : undefined,
    ),
    each(`${prefix}-10`, own, ({ exemption }) =>
      reason && !exemption
        ? `What is ${called} needs the reason why no tax is charged.`
        : !reason && exemption
          ? `What is ${called} has no reason for an exemption.`
          : undefined,
    ),
  ]
}

const amounts = ({ totals, taxes, charges, lines: own }: EInvoice): [what: string, amount: Decimal | undefined][] => [
  ...Object.entries(totals).map(([name, amount]): [string, Decimal | undefined] => [`The total “${name}”`, amount as Decimal | undefined]),
  ...taxes.flatMap((tax): [string, Decimal][] => [
    [`The base of ${decimalText(tax.rate)} %`, tax.base],
    [`The tax of ${decimalText(tax.rate)} %`, tax.tax],
  ]),
  ...charges.map(({ reason, amount }): [string, Decimal] => [`“${reason}”`, amount]),
  ...own.map(({ id, amount }): [string, Decimal] => [`The amount of line ${id}`, amount]),
]

/**
 * The rules, in the order of the standard. Tax of a rate is that on the sum of what is taxed with it; a cent of difference is let pass
 * there, as BR-CO-17 is checked everywhere, since books may have added rounded lines.
 */
export const rules: readonly Rule[] = [
  missing('BR-02', 'number (BT-1)', invoice => invoice.number),
  missing('BR-05', 'currency (BT-5)', invoice => invoice.currency),
  missing('BR-06', 'name of the seller (BT-27)', invoice => invoice.seller.name),
  missing('BR-07', 'name of the buyer (BT-44)', invoice => invoice.buyer.name),
  missing('BR-09', 'country of the seller (BT-40)', invoice => invoice.seller.address.country),
  missing('BR-11', 'country of the buyer (BT-55)', invoice => invoice.buyer.address.country),
  { rule: 'BR-16', broken: invoice => when(!invoice.lines.length, 'The invoice has no line.') },
  each('BR-21', lines, line => (line.id.trim() ? undefined : 'A line has no number (BT-126).')),
  each('BR-23', lines, line => (line.unit.trim() ? undefined : `Line ${line.id} has no unit of measure (BT-130).`)),
  each('BR-25', lines, line => (line.name.trim() ? undefined : `Line ${line.id} has no name of its item (BT-153).`)),
  each('BR-27', lines, line =>
    compareDecimals(line.price, decimal(0)) < 0
      ? `The price of line ${line.id} is ${decimalText(line.price)}; prices are not negative, quantities may be.`
      : undefined,
  ),
  each(
    'BR-33',
    invoice => invoice.charges,
    charge => (charge.reason.trim() ? undefined : `The ${charge.is} of ${shown(charge.amount)} has no reason.`),
  ),
  {
    rule: 'BR-53',
    broken: ({ taxCurrency, totals }) =>
      when(!!taxCurrency && !totals.taxAccounted, `Tax is accounted in ${taxCurrency}, but its amount in it (BT-111) is missing.`),
  },
  { rule: 'BR-55', broken: ({ before }) => when(!!before && !before.number.trim(), 'The invoice before has no number (BT-25).') },
  {
    rule: 'BR-61',
    broken: ({ payment }) =>
      when(['30', '58'].includes(payment?.code ?? '') && !payment?.iban, 'A credit transfer needs an account that is paid to (BT-84).'),
  },
  {
    rule: 'BT-84',
    broken: ({ payment }) =>
      when(!!payment?.iban && !isValidIBAN(payment.iban), `“${payment?.iban}” is no IBAN; its check digits are wrong (ISO 13616).`),
  },
  each(
    'BR-CO-09',
    ({ seller, buyer }) => [seller.vatNumber, buyer.vatNumber].filter(number => number !== undefined),
    number => (/^[A-Z]{2}./.test(number) ? undefined : `The VAT number ${number} does not begin with the letters of its country.`),
  ),
  differs(
    'BR-CO-10',
    'The sum of the lines (BT-106)',
    ({ totals }) => totals.lines,
    invoice => sumOf(invoice.lines.map(line => line.amount)),
    'they add up to',
  ),
  differs(
    'BR-CO-11',
    'The sum of allowances (BT-107)',
    ({ totals }) => totals.allowances,
    ({ charges }) => sumOf(charges.filter(({ is }) => is === 'allowance').map(({ amount }) => amount)),
    'they add up to',
  ),
  differs(
    'BR-CO-12',
    'The sum of charges (BT-108)',
    ({ totals }) => totals.charges,
    ({ charges }) => sumOf(charges.filter(({ is }) => is === 'charge').map(({ amount }) => amount)),
    'they add up to',
  ),
  differs(
    'BR-CO-13',
    'The total without tax (BT-109)',
    ({ totals }) => totals.withoutTax,
    ({ totals }) => add(subtract(totals.lines, totals.allowances), totals.charges),
    'lines less allowances and with charges are',
  ),
  differs(
    'BR-CO-14',
    'The tax (BT-110)',
    ({ totals }) => totals.tax,
    ({ taxes }) => sumOf(taxes.map(({ tax }) => tax)),
    'its rates add up to',
  ),
  differs(
    'BR-CO-15',
    'The total with tax (BT-112)',
    ({ totals }) => totals.withTax,
    ({ totals }) => add(totals.withoutTax, totals.tax),
    'the total without tax and the tax are',
  ),
  differs(
    'BR-CO-16',
    'The amount due (BT-115)',
    ({ totals }) => totals.due,
    ({ totals }) => (totals.paid ? subtract(totals.withTax, totals.paid) : totals.withTax),
    'the total less what is paid is',
  ),
  each(
    'BR-CO-17',
    ({ taxes }) => taxes,
    ({ base, rate, tax }) => {
      const exact = multiply(base, { ...rate, scale: rate.scale + 2 })
      const off = absolute(subtract(tax, round(exact, 2)))
      return compareDecimals(off, decimal(1, 2)) > 0
        ? `The tax of ${decimalText(rate)} % on ${shown(base)} is ${shown(round(exact, 2))}, not ${shown(tax)}.`
        : undefined
    },
  ),
  { rule: 'BR-CO-18', broken: ({ taxes }) => when(!taxes.length, 'The invoice has no tax of any category.') },
  {
    rule: 'BR-CO-25',
    broken: ({ totals, due, terms, kind }) =>
      when(
        kind === '380' && compareDecimals(totals.due, decimal(0)) > 0 && due === undefined && !terms,
        'Something is to be paid, so there is a day when it is due (BT-9) or a text of terms (BT-20).',
      ),
  },
  {
    rule: 'BR-CO-26',
    broken: ({ seller }) =>
      when(!seller.id && !seller.registration && !seller.vatNumber, 'The seller has no number by which the buyer can know it.'),
  },
  each('BR-DEC', amounts, ([what, amount]) =>
    amount && !isAmount(amount) ? `${what} is ${decimalText(amount)}; amounts have two decimals at most.` : undefined,
  ),
  each('BR-24', lines, line => {
    const exact = round(multiply(line.quantity, line.price), 2)
    return same(exact, line.amount)
      ? undefined
      : `Line ${line.id} comes to ${decimalText(line.amount)}, but ${decimalText(line.quantity)} × ${decimalText(line.price)} is ` +
          `${decimalText(exact)}.`
  }),
  ...categories.flatMap(ofCategory),
]

/** All rules that an invoice breaks, in their order. */
export const breaches = (invoice: EInvoice): Breach[] =>
  rules.flatMap(({ rule, broken }) => broken(invoice).map(sentence => ({ rule, sentence })))
