import { isValidBIC, isValidIBAN } from 'ibantools'
import { compareDecimals, decimal, decimalText, trim, zero } from '../value/decimal'
import { isCreditorReference } from './reference'
import type { ToPay, Transfer } from './transfer'

/** Currencies without minor units or with three of them (ISO 4217, list one); all others have two. */
const minorUnits: Readonly<Record<string, number>> = Object.fromEntries([
  ...'BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF'.split(' ').map(code => [code, 0]),
  ...'BHD IQD JOD KWD LYD OMR TND'.split(' ').map(code => [code, 3]),
])
/** How many decimals amounts of a currency have. */
export const decimalsIn = (currency: string): number => minorUnits[currency] ?? 2

/** The longest texts that banks of the euro area take (EPC132-08, 1.6): a name, what it is about, a number. */
const longest = { name: 70, about: 140, id: 35 }
/** The most that one payment can be (EPC132-08: 999,999,999.99). */
const largest = decimal(99_999_999_999, 2)
/** Characters of numbers that all banks take (EPC132-08, 1.4). */
const plain = /^[A-Za-z0-9/\-?:().,'+ ]*$/

/** What is wrong with a transfer, and by which rule. */
export interface PaymentFault {
  rule: string
  sentence: string
}

/** Gathers the rules that are broken. */
class Faults {
  readonly found: PaymentFault[] = []

  rule(rule: string, broken: boolean, sentence: string): void {
    if (broken) this.found.push({ rule, sentence })
  }

  name(name: string): void {
    this.rule('name', lengthOf(name) > longest.name, `“${name}” has more than 70 characters, which banks do not take; shorten that name.`)
  }

  bank(to: string, bank: string | undefined): void {
    this.rule('bank', bank !== undefined && !isValidBIC(bank), `${to} names the bank “${bank}”, which is no BIC; correct it.`)
  }
}

const lengthOf = (text: string): number => [...text].length

/** What is wrong with what is to be paid; nothing is cut or rounded to make it fit. */
export function toPayFaults({ payee, payeeAccount, payeeBank, amount, currency, about, reference }: ToPay): PaymentFault[] {
  const to = `The payment to ${payee}`
  const faults = new Faults()
  faults.name(payee)
  faults.rule('to', !isValidIBAN(payeeAccount), `${to} goes to “${payeeAccount}”, which is no IBAN; correct that account.`)
  faults.bank(to, payeeBank)
  faults.rule('currency', !/^[A-Z]{3}$/.test(currency), `${to} is in “${currency}”, which is no code of a currency; correct it.`)
  const plainAmount = trim(amount)
  const printed = `${decimalText(plainAmount)} ${currency}`
  const above = compareDecimals(amount, zero) > 0
  faults.rule('amount', !above, `${to} is ${printed}; only amounts above zero are paid, so leave it out by a rule.`)
  const fine = plainAmount.scale <= decimalsIn(currency)
  faults.rule('decimals', above && !fine, `${to} is ${printed}, which has more decimals than its currency; round it in the formula.`)
  const most = compareDecimals(amount, largest) > 0
  faults.rule('largest', most, `${to} is ${printed}, which is more than one payment can be; pay it in parts.`)
  faults.rule(
    'about',
    about !== undefined && lengthOf(about) > longest.about,
    `${to} is about a text of more than 140 characters, which banks cut off; shorten what it is about.`,
  )
  faults.rule(
    'reference',
    reference !== undefined && !isCreditorReference(reference),
    `${to} has the reference “${reference}”, which is none of ISO 11649; correct it.`,
  )
  return faults.found
}

/** What is wrong with a transfer, the payer's side of it too. */
export function faultsOf(transfer: Transfer): PaymentFault[] {
  const { payer, payerAccount, payerBank, id } = transfer
  const to = `The payment to ${transfer.payee}`
  const faults = new Faults()
  faults.name(payer)
  faults.rule('from', !isValidIBAN(payerAccount), `${to} comes from “${payerAccount}”, which is no IBAN; correct that account.`)
  faults.bank(to, payerBank)
  faults.rule(
    'id',
    id !== undefined && (id.length > longest.id || !plain.test(id) || /^\/|\/$|\/\//.test(id)),
    `${to} has the number “${id}”, which banks do not take; use up to 35 letters, digits and signs like - or /.`,
  )
  return [...toPayFaults(transfer), ...faults.found]
}
