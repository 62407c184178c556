import type { RepeatBlock } from '../definition/blocks/block'
import type { TermFormulas } from '../definition/einvoice'
import type { EInvoice } from '../einvoice/invoice'
import { invoiceOf, type TermGroup, termGroups, terms } from '../einvoice/terms'
import type { TermValues } from '../einvoice/told'
import type { Standing } from '../formula/standing'
import type { Typed } from '../formula/typed'
import type { Value } from '../value/value'
import type { PrepareScope } from './prepareScope'
import type { Values } from './values'

type PreparedTerms = ReadonlyMap<string, Typed>

/** A mapping with its formulas checked. */
export interface PreparedInvoice {
  terms: PreparedTerms
  groups: { group: TermGroup; level: number; when?: Typed; terms: PreparedTerms }[]
}

/** Where a formula of a mapping stands: its term, and the group in which it is told by its place in the list. */
export const termCell = (id: string, group?: number): string => (group === undefined ? id : `${group} ${id}`)

/** The formulas of a repeat's mapping at their levels; a term that the standard wants and nothing fills is noticed. */
export function prepareInvoice(block: RepeatBlock, level: number, scope: PrepareScope): PreparedInvoice | undefined {
  const { einvoice } = block
  if (!einvoice) return undefined
  const prepared = (formulas: TermFormulas, at: number, group?: number): PreparedTerms => {
    const found = new Map<string, Typed>()
    for (const [id, formula] of Object.entries(formulas)) {
      const typed = scope.formula(formula, scope.at(at), { block: block.id, place: 'term', cell: termCell(id, group) }, false)
      if (typed) found.set(id, typed)
    }
    return found
  }
  const lacks = (formulas: TermFormulas, group?: TermGroup, at?: number): void => {
    for (const { id, name } of terms.filter(term => term.must && term.group === group && !formulas[term.id]?.trim()))
      scope.notice({
        kind: 'invoice',
        block: block.id,
        cell: termCell(id, at),
        part: 'block',
        sentence: `The e-invoice has no formula for “${name}” (${id})${group ? ` of its ${termGroups[group].toLowerCase()}` : ''}.`,
        remedies: [],
      })
  }
  lacks(einvoice.terms)
  for (const group of ['BG-23', 'BG-25'] as const) if (!einvoice.groups.some(each => each.group === group)) lacks({}, group)
  return {
    terms: prepared(einvoice.terms, level),
    groups: einvoice.groups.map((each, at) => {
      const own = each.level === undefined ? level : scope.levelNamed(each.level, block, level)
      lacks(each.terms, each.group, at)
      const when = scope.formula(each.when, scope.at(own), { block: block.id, place: 'term', cell: termCell('when', at) })
      return { group: each.group, level: own, ...(when ? { when } : {}), terms: prepared(each.terms, own, at) }
    }),
  }
}

/**
 * The invoice that a record of a repeat is told as.
 * @throws TermError where a value does not suit its term
 */
export function invoiceAt({ terms: own, groups }: PreparedInvoice, at: Standing, values: Values): EInvoice {
  const told = (formulas: PreparedTerms, standing: Standing): TermValues => {
    const found = new Map<string, Value>()
    for (const [id, typed] of formulas) found.set(id, values.evaluate(typed)(standing))
    return found
  }
  const all: Record<TermGroup, TermValues[]> = { 'BG-20': [], 'BG-21': [], 'BG-23': [], 'BG-25': [] }
  for (const { group, level, when, terms: formulas } of groups)
    for (const [from, to] of values.lineage.covered(at.from, at.to, at.level, level))
      for (let row = from; row < to; row++) {
        const standing = { level, from: row, to: row + 1 }
        if (!when || values.holds(when, standing)) all[group].push(told(formulas, standing))
      }
  return invoiceOf({ document: told(own, at), groups: all })
}

/** Every formula of a mapping, for whoever looks for what is used. */
export const formulasOf = ({ einvoice }: RepeatBlock): string[] =>
  einvoice
    ? [...Object.values(einvoice.terms), ...einvoice.groups.flatMap(each => [each.when ?? '', ...Object.values(each.terms)])].filter(
        Boolean,
      )
    : []
