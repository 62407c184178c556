import { lazy, mixed, object, type Schema } from 'yup'
import { type PaymentTerm, paymentTerms } from '../payment/transfer'
import { identifier, rule } from './checks'

/** Formulas by the terms of a transfer that they fill. */
export type PaymentFormulas = Readonly<Partial<Record<PaymentTerm['id'], string>>>

/** How the rows of a table are told to a bank: each group of that id is one transfer, or each line where no group is named. */
export interface PaymentMapping {
  group?: string
  terms: PaymentFormulas
}

/** The shape of a mapping: terms stand only where a transfer has them. */
export const paymentMapping: Schema = lazy((value: unknown) =>
  value === undefined
    ? mixed().optional()
    : object({
        group: identifier.optional(),
        terms: object(Object.fromEntries(paymentTerms.map(({ id }) => [id, rule])))
          .noUnknown()
          .required(),
      })
        .noUnknown()
        .required(),
) as unknown as Schema
