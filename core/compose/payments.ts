import type { TableBlock } from '../definition/blocks/table'
import type { TermValues } from '../einvoice/told'
import type { GroupNode, Standing } from '../formula/standing'
import type { Scope, Typed } from '../formula/typed'
import { paymentTerms } from '../payment/transfer'
import { type Transfer, transferOf } from '../payment/transfer'
import type { Value } from '../value/value'
import type { Place } from './place'
import type { PreparedPayments, PreparedTable } from './prepared'
import type { PrepareScope } from './prepareScope'
import { standingRows } from './table/standingRows'

/** The formulas of a table's mapping at its groups or lines; a term that a transfer cannot be without and nothing fills is noticed. */
export function preparePayments(
  { payments, ...block }: TableBlock,
  scopeOf: (depth: number) => Scope,
  scope: PrepareScope,
): PreparedPayments | undefined {
  if (!payments) return undefined
  const found = block.groups.findIndex(group => group.id === payments.group)
  const depth = found < 0 ? undefined : found
  const terms = new Map<string, Typed>()
  for (const { id, must, name } of paymentTerms) {
    const formula = payments.terms[id]?.trim()
    if (formula) {
      const typed = scope.formula(formula, scopeOf(depth ?? block.groups.length), { block: block.id, place: 'term', cell: id }, false)
      if (typed) terms.set(id, typed)
    } else if (must)
      scope.notice({
        kind: 'payment',
        block: block.id,
        cell: id,
        part: 'block',
        sentence: `The payments have no formula for “${name}”.`,
        remedies: [],
      })
  }
  return { ...(depth === undefined ? {} : { depth }), terms }
}

/**
 * The transfers that a table tells where it stands at a record: in the order of its rows, and only those of groups that it prints.
 * @throws TermError where a value does not suit its term
 */
export function* transfersOf(
  place: Place,
  table: PreparedTable,
  { depth, terms }: PreparedPayments,
  at: Standing,
): Generator<() => Transfer> {
  const { standing, root, rows } = standingRows(place, table, at)
  const told = (own: Standing) => (): Transfer => {
    const values = new Map<string, Value>()
    for (const [id, typed] of terms) values.set(id, place.values.evaluate(typed)(own))
    return transferOf(values as TermValues)
  }
  const inside = function* (node: GroupNode): Generator<() => Transfer> {
    if (depth !== undefined && node.depth === depth) yield told(standing(node.from, node.to, node))
    else if (depth === undefined && node.depth + 1 >= table.groups.length)
      for (let row = node.from; row < node.to; row++) {
        const own = standing(row, row + 1, node)
        yield told({ ...own, from: rows[row]!, to: rows[row]! + 1, covered: { ...own.covered!, line: true } })
      }
    else for (const child of node.children) yield* inside(child)
  }
  yield* inside(root)
}
