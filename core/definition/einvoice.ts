import { array, lazy, mixed, object, type Schema, string } from 'yup'
import { type TermGroup, termGroups, terms } from '../einvoice/terms'
import { name, rule } from './checks'

/** Formulas by the numbers of the terms that they fill. */
export type TermFormulas = Readonly<Record<string, string>>

/** Terms that stand once for each record of a level under the document's, or once for the document itself, where a rule holds. */
export interface InvoiceGroup {
  group: TermGroup
  /** left out, it is the document's own record */
  level?: string
  /** a formula: only those for which it holds */
  when?: string
  terms: TermFormulas
}

/** How each record of a repeat is told as an e-invoice: business terms of EN 16931 from formulas of its levels. */
export interface InvoiceMapping {
  terms: TermFormulas
  groups: InvoiceGroup[]
}

const formulas = (group?: TermGroup): Schema =>
  object(Object.fromEntries(terms.filter(term => term.group === group).map(term => [term.id, rule])))
    .noUnknown()
    .required()

const groupSchemas = new Map(
  (Object.keys(termGroups) as TermGroup[]).map(own => [
    own,
    object({ group: string().strict().required().oneOf([own]), level: name.optional(), when: rule, terms: formulas(own) }).noUnknown(),
  ]),
)
const groupSchema = lazy(
  (value: { group?: TermGroup } | undefined) =>
    groupSchemas.get(value?.group as TermGroup) ??
    object({
      group: mixed()
        .oneOf([...groupSchemas.keys()])
        .required(),
    }),
)

/** The shape of a mapping: terms stand only where the standard has them. */
export const invoiceMapping: Schema = lazy((value: unknown) =>
  value === undefined
    ? mixed().optional()
    : object({
        terms: formulas(),
        groups: array(groupSchema as unknown as Schema)
          .max(20)
          .required(),
      })
        .noUnknown()
        .required(),
) as unknown as Schema
