import type { PaymentTerm } from '../../payment/transfer'
import { isTable } from '../blocks/table'
import type { PaymentMapping } from '../payments'
import type { ReportDefinition } from '../report'
import { changeBlock } from './layout'

/** Tells the rows of a table as payments, or does not any more. */
export function setPayments(report: ReportDefinition, block: string, mapping: PaymentMapping | undefined): ReportDefinition {
  return changeBlock(report, block, found => {
    if (!isTable(found)) return found
    const { payments: _, ...rest } = found
    return mapping ? { ...rest, payments: mapping } : rest
  })
}

/** Sets the formula of a term; an empty one takes the term out. */
export function setPaymentTerm(report: ReportDefinition, block: string, id: PaymentTerm['id'], formula: string): ReportDefinition {
  return changeBlock(report, block, found => {
    if (!isTable(found) || !found.payments) return found
    const { [id]: _, ...rest } = found.payments.terms
    return { ...found, payments: { ...found.payments, terms: formula.trim() ? { ...found.payments.terms, [id]: formula } : rest } }
  })
}

/** One transfer for each group of this id; none is one for each line. */
export function setPaymentGroup(report: ReportDefinition, block: string, group: string | undefined): ReportDefinition {
  return changeBlock(report, block, found =>
    isTable(found) && found.payments ? { ...found, payments: { terms: found.payments.terms, ...(group ? { group } : {}) } } : found,
  )
}
