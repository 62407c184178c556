import type { TableBlock } from '../definition/blocks/table'
import type { PaymentFormulas, PaymentMapping } from '../definition/payments'
import type { LevelInfo } from '../formula/typed'
import type { PaymentItemDefinition } from '../definition/blocks/panel'
import { fieldFor, type Fields, filled, want } from './spoken'

/** Fields that say who is paid to which account. */
const fields: Fields = {
  payer: [want(['seller', 'legal', 'name']), want(['seller', 'name'], { none: ['town', 'region', 'country', 'supplier'] })],
  payerAccount: [want(['seller', 'iban'])],
  payerBank: [want(['seller', 'bic'])],
  payee: [want(['supplier', 'name'], { none: ['town', 'region', 'country', 'terms'] })],
  payeeAccount: [want(['supplier', 'iban']), want(['supplier', 'bank', 'account']), want(['supplier', 'account'])],
  payeeBank: [want(['supplier', 'bic'])],
}
const amounts = [
  want(['open'], { own: true, type: 'number', none: ['base'] }),
  want(['amount'], { own: true, type: 'number', none: ['base', 'tax'] }),
]
const currencies = [want(['currency', 'code'], { own: true }), want(['currency'], { own: true, type: 'text' })]
const numbers = [want(['theirs', 'number'], { own: true }), want(['number'], { own: true })]

/** Different texts of a group, as far as a bank takes them; of more, the first and the last. */
const listedIn = (path: string): string => `if(length(listed(${path})) > 140, join(" to ", first(${path}), last(${path})), listed(${path}))`

/**
 * How the rows of a table may be told as payments, by the names of the fields of its level: one for each of the outermost groups that are
 * by who is paid, or for each line where there is no such group. What nothing speaks of is left out; the notices say what is missing.
 */
export function proposePayments(table: TableBlock, level: LevelInfo): PaymentMapping {
  const own = filled(level, fields)
  const party = own.payee?.slice(0, own.payee.lastIndexOf('.') + 1)
  const group = table.groups.find(each => party && each.by.startsWith(party))?.id
  const [amount, currency, number] = [amounts, currencies, numbers].map(list => fieldFor(level, list)?.path)
  const many = group !== undefined
  const terms: PaymentFormulas = {
    ...own,
    on: 'today()',
    ...(amount ? { amount: many ? `sum(${amount})` : amount } : {}),
    // amounts of several currencies are no payment
    currency: currency ? (many ? `if(distinct(${currency}) = 1, ${currency}, empty)` : currency) : '"EUR"',
    ...(number ? { about: many ? listedIn(number) : number } : {}),
  }
  return { ...(group ? { group } : {}), terms }
}

/** Totals of a document that is to be paid, by their names. */
const totals = [
  want(['due'], { own: true, type: 'number' }),
  want(['amount'], { own: true, type: 'number', none: ['base', 'tax', 'discount'] }),
]

/** What a payment QR of a document asks for, by the names of the fields of its level: to whom, how much, and by which reference. */
export function proposePayee(level: LevelInfo): PaymentItemDefinition['terms'] {
  const { payer: payee, payerAccount: payeeAccount, payerBank: payeeBank } = filled(level, fields)
  const [amount, currency, number] = [totals, currencies, numbers].map(list => fieldFor(level, list)?.path)
  return {
    ...(payee ? { payee } : {}),
    ...(payeeAccount ? { payeeAccount } : {}),
    ...(payeeBank ? { payeeBank } : {}),
    ...(amount ? { amount } : {}),
    currency: currency ?? '"EUR"',
    ...(number ? { reference: `creditorReference(${number})` } : {}),
  }
}
