import type { TableBlock } from '../definition/blocks/table'
import { TermError, type TermValues } from '../einvoice/told'
import { outsideTotals } from '../formula/parts'
import { dayText } from '../value/date'
import { plainText } from '../value/plain'
import type { GroupNode, Standing } from '../formula/standing'
import type { Scope, Typed } from '../formula/typed'
import { nameOf, paymentTerms, type Transfer, transferOf } from '../payment/transfer'
import type { Value } from '../value/value'
import type { Place } from './place'
import type { PreparedPayments, PreparedTable } from './prepared'
import type { PrepareScope } from './prepareScope'
import { standingRows } from './table/standingRows'

/** What each line of a payment may say otherwise: the text of the first is its own. */
const paymentTermsOfLines: ReadonlySet<string> = new Set(['about', 'id'])

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
    const transfer = transferOf(values as TermValues)
    // a group that one payment is made of is to one payee, from one account, in one currency: its first line must not speak for others
    for (const [id, typed] of terms)
      for (const field of outsideTotals(typed)) {
        const each = place.values.evaluate(field)
        const { covered } = own
        if (!covered || paymentTermsOfLines.has(id)) continue
        const texts = new Set<string>()
        for (let row = covered.from; row < covered.to; row++)
          texts.add(plainText(each({ level: table.level, from: rows[row]!, to: rows[row]! + 1 }), dayText))
        if (texts.size > 1)
          throw new TermError(
            `“${nameOf(id)}” is not the same in all lines of a payment to ${transfer.payee}; make a payment of each line, or group by it.`,
          )
      }
    return transfer
  }
  const lines = table.rows.filter(row => row.row.kind === 'line')
  const printed = (own: Standing): boolean => !lines.length || lines.some(({ when }) => !when || place.values.holds(when, own))
  const inside = function* (node: GroupNode): Generator<() => Transfer> {
    if (depth !== undefined && node.depth === depth) yield told(standing(node.from, node.to, node))
    else if (depth === undefined && node.depth + 1 >= table.groups.length)
      for (let row = node.from; row < node.to; row++) {
        const own = standing(row, row + 1, node)
        const line: Standing = { ...own, from: rows[row]!, to: rows[row]! + 1, covered: { ...own.covered!, line: true } }
        // a line that no row prints is not paid either
        if (printed(line)) yield told(line)
      }
    else for (const child of node.children) yield* inside(child)
  }
  yield* inside(root)
}
