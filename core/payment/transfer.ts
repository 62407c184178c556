import { Told, type TermValues } from '../einvoice/told'
import type { Day } from '../value/date'
import type { Decimal } from '../value/decimal'

/** Who is to be paid how much, and what for. */
export interface ToPay {
  payee: string
  payeeAccount: string
  payeeBank?: string
  amount: Decimal
  currency: string
  /** what the payee gets to see: a creditor reference of ISO 11649, or a text */
  reference?: string
  about?: string
}

/** An order to a bank: money from one account to another on a day (ISO 20022, credit transfer). */
export interface Transfer extends ToPay {
  /** who pays, from which account, at which bank (BIC, where it is known) */
  payer: string
  payerAccount: string
  payerBank?: string
  /** the day on which the bank is to do so */
  on: Day
  /** tells this transfer from others, from end to end; made up where nothing is said */
  id?: string
}

/** What a transfer is made of: its word in a definition, and what it is called. */
export interface PaymentTerm {
  id: keyof typeof kinds
  name: string
  /** a transfer cannot be without it */
  must?: true
}
const kinds = {
  payer: 'text',
  payerAccount: 'account',
  payerBank: 'text',
  on: 'date',
  payee: 'text',
  payeeAccount: 'account',
  payeeBank: 'text',
  amount: 'number',
  currency: 'text',
  reference: 'account',
  about: 'text',
  id: 'text',
} as const

/** The terms of a transfer, in the order in which they are told. */
export const paymentTerms: readonly PaymentTerm[] = [
  { id: 'payer', name: 'Who pays', must: true },
  { id: 'payerAccount', name: 'From account (IBAN)', must: true },
  { id: 'payerBank', name: 'From bank (BIC)' },
  { id: 'on', name: 'Day of execution', must: true },
  { id: 'payee', name: 'Who is paid', must: true },
  { id: 'payeeAccount', name: 'To account (IBAN)', must: true },
  { id: 'payeeBank', name: 'To bank (BIC)' },
  { id: 'amount', name: 'Amount to pay', must: true },
  { id: 'currency', name: 'Currency of the amount', must: true },
  { id: 'reference', name: 'Creditor reference (ISO 11649)' },
  { id: 'about', name: 'What it is about, as the payee reads it' },
  { id: 'id', name: 'End-to-end number' },
]

/** What a term of a transfer is called. */
export const nameOf = (id: string): string => paymentTerms.find(term => term.id === id)!.name

/** Reads the terms of a transfer. @throws TermError */
class Terms {
  readonly told: Told
  constructor(values: TermValues) {
    const payee = values.get('payee')
    this.told = new Told(values, nameOf, ` of a payment${typeof payee === 'string' ? ` to ${payee}` : ''}`)
  }

  must(id: PaymentTerm['id']): string {
    return this.told.text(id) ?? this.told.empty(id)
  }

  optional(...ids: PaymentTerm['id'][]): Partial<ToPay & Transfer> {
    const all: Record<string, string> = {}
    for (const id of ids) {
      const found = this.told.text(id)
      if (found !== undefined) all[id] = kinds[id] === 'account' ? found.replaceAll(' ', '') : found
    }
    return all
  }

  toPay(): ToPay {
    return {
      payee: this.must('payee'),
      payeeAccount: this.must('payeeAccount').replaceAll(' ', ''),
      ...this.optional('payeeBank'),
      amount: this.told.amount('amount'),
      currency: this.must('currency'),
      ...this.optional('reference', 'about'),
    }
  }
}

/**
 * The transfer that values of terms make.
 * @throws TermError where a value is of another type than its term, or one that cannot be missing is
 */
export function transferOf(values: TermValues): Transfer {
  const terms = new Terms(values)
  return {
    payer: terms.must('payer'),
    payerAccount: terms.must('payerAccount').replaceAll(' ', ''),
    ...terms.optional('payerBank'),
    on: terms.told.day('on') ?? terms.told.empty('on'),
    ...terms.toPay(),
    ...terms.optional('id'),
  }
}

/** What values of terms ask to be paid. @throws TermError as transferOf */
export const toPayOf = (values: TermValues): ToPay => new Terms(values).toPay()
