import type { TermGroup } from '../../einvoice/terms'
import { isRepeat } from '../blocks/block'
import type { InvoiceGroup, InvoiceMapping } from '../einvoice'
import type { ReportDefinition } from '../report'
import { changeBlock } from './layout'

/** Tells each record of a repeat as an e-invoice, or does not any more. */
export function setInvoices(report: ReportDefinition, block: string, mapping: InvoiceMapping | undefined): ReportDefinition {
  return changeBlock(report, block, found => {
    if (!isRepeat(found)) return found
    const { einvoice: _, ...rest } = found
    return mapping ? { ...rest, einvoice: mapping } : rest
  })
}

const changed = (report: ReportDefinition, block: string, change: (mapping: InvoiceMapping) => InvoiceMapping): ReportDefinition =>
  changeBlock(report, block, found => (isRepeat(found) && found.einvoice ? { ...found, einvoice: change(found.einvoice) } : found))

const withTerm = (terms: InvoiceMapping['terms'], id: string, formula: string): InvoiceMapping['terms'] => {
  const { [id]: _, ...rest } = terms
  return formula.trim() ? { ...terms, [id]: formula } : rest
}

/** Sets the formula of a term, of the document or of one of its groups by its place; an empty one takes the term out. */
export function setTerm(report: ReportDefinition, block: string, id: string, formula: string, group?: number): ReportDefinition {
  return changed(report, block, mapping =>
    group === undefined
      ? { ...mapping, terms: withTerm(mapping.terms, id, formula) }
      : {
          ...mapping,
          groups: mapping.groups.map((each, at) => (at === group ? { ...each, terms: withTerm(each.terms, id, formula) } : each)),
        },
  )
}

/** Where the records of a group come from: a level, and a rule; empty ones are the document's own record, and all. */
export function setInvoiceGroup(
  report: ReportDefinition,
  block: string,
  group: number,
  { level, when }: { level?: string; when?: string },
): ReportDefinition {
  const next = (own: InvoiceGroup): InvoiceGroup => {
    const { level: wasLevel, when: wasWhen, ...rest } = own
    const [toLevel, toWhen] = [level ?? wasLevel, when ?? wasWhen]
    return { ...rest, ...(toLevel ? { level: toLevel } : {}), ...(toWhen ? { when: toWhen } : {}) }
  }
  return changed(report, block, mapping => ({ ...mapping, groups: mapping.groups.map((each, at) => (at === group ? next(each) : each)) }))
}

export function addInvoiceGroup(report: ReportDefinition, block: string, group: TermGroup): ReportDefinition {
  return changed(report, block, mapping => ({ ...mapping, groups: [...mapping.groups, { group, terms: {} }] }))
}

export function removeInvoiceGroup(report: ReportDefinition, block: string, group: number): ReportDefinition {
  return changed(report, block, mapping => ({ ...mapping, groups: mapping.groups.filter((_, at) => at !== group) }))
}
