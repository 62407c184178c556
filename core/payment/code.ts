import { add, decimal, decimalText, trim } from '../value/decimal'
import { toPayFaults } from './rules'
import type { ToPay } from './transfer'

/** A payment that no code can be made of: one sentence. */
export class PaymentCodeError extends Error {}

/**
 * What a payment QR holds (EPC069-12 version 3.1, “Quick Response Code: Guidelines to enable data capture for the initiation of an SEPA
 * credit transfer”): a line for each part, in UTF-8; as version 002, in which the bank may be left out.
 * @throws PaymentCodeError with the first thing that is wrong; only euros can be paid so
 */
export function paymentCode(toPay: ToPay): string {
  const { payee, payeeAccount, payeeBank = '', amount, currency, reference = '', about = '' } = toPay
  const [fault] = toPayFaults(toPay)
  if (fault) throw new PaymentCodeError(fault.sentence)
  if (currency !== 'EUR')
    throw new PaymentCodeError(
      `The payment to ${payee} is in ${currency}, and a payment QR is for EUR only; show it where the currency is EUR.`,
    )
  const euros = `EUR${decimalText(add(trim(amount), decimal(0, 2)))}`
  // a structured reference and a text exclude one another
  const lines = ['BCD', '002', '1', 'SCT', payeeBank, payee, payeeAccount, euros, '', reference, reference ? '' : about]
  if (lines.some(line => /[\r\n]/.test(line)))
    throw new PaymentCodeError(`The payment to ${payee} has a line break in it, which a payment QR cannot hold; take it out.`)
  const text = lines.join('\n').replace(/\n+$/, '')
  if (new TextEncoder().encode(text).length > mostBytes)
    throw new PaymentCodeError(`The payment to ${payee} has more text than a payment QR can hold; shorten what it is about.`)
  return text
}

/** The most that a QR code of version 13 with error correction M holds (ISO/IEC 18004), which is the largest of the guideline. */
const mostBytes = 331
