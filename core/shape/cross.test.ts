import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decimal, type Decimal, toNumber } from '../value/decimal'
import type { Value } from '../value/value'
import { type AxisNode, crossGroups } from './cross'
import type { GroupShape, Orders } from './groups'

const orders: Orders = { text: (a, b) => (a < b ? -1 : a > b ? 1 : 0), value: (a, b) => toNumber(a as Decimal) - toNumber(b as Decimal) }
interface Made {
  a: string
  b: string
  c: string
  amount: number
}
const made = fc.array(
  fc.record({
    a: fc.constantFrom('x', 'y', 'z', ''),
    b: fc.constantFrom('1', '2', '3'),
    c: fc.constantFrom('p', 'q', 'r', 's'),
    amount: fc.integer({ min: -20, max: 50 }),
  }),
  { maxLength: 60 },
)
const total =
  (list: readonly Made[]) =>
  (rows: Int32Array): Value =>
    decimal([...rows].reduce((sum, row) => sum + list[row]!.amount, 0))
const shape = (list: readonly Made[], by: 'a' | 'b' | 'c', more: Partial<GroupShape> = {}): GroupShape => ({
  key: row => list[row]![by],
  value: row => decimal(list[row]![by].length),
  label: row => list[row]![by] || 'none',
  order: { by: 'name', descending: false },
  ...more,
})
const records = (list: readonly Made[]) => Int32Array.from(list, (_, at) => at)
/** All groups of an axis, with the axis as a whole. */
const nodes = (root: AxisNode): AxisNode[] => [root, ...root.children.flatMap(nodes)]
/** The labels of a group from the outside in; what was left over stands for any that is not named beside it. */
const covers = (node: AxisNode, row: Made, by: readonly ('a' | 'b' | 'c')[]): boolean => {
  for (let at: AxisNode | undefined = node; at && at.depth >= 0; at = at.parent) {
    const own = row[by[at.depth]!] || 'none'
    const named = at.parent!.group.children.filter(each => !each.others).map(each => each.label)
    if (at.group.others ? named.includes(own) : own !== at.label) return false
  }
  return true
}

describe('records by two axes', () => {
  it('meet where a naive look through all of them says, in every cell and margin', () => {
    fc.assert(
      fc.property(made, list => {
        const crossed = crossGroups(records(list), [shape(list, 'a'), shape(list, 'b')], [shape(list, 'c')], orders)
        for (const row of nodes(crossed.rows))
          for (const column of nodes(crossed.columns)) {
            const { records: own, from, to } = crossed.meet(row, column)
            const expected = list.flatMap((each, at) => (covers(row, each, ['a', 'b']) && covers(column, each, ['c']) ? [at] : []))
            expect([...own.subarray(from, to)]).toEqual(expected)
          }
      }),
    )
  })

  it('with the first ones by a total, the rest together or left out, are those of both axes', () => {
    fc.assert(
      fc.property(made, fc.integer({ min: 1, max: 3 }), fc.boolean(), (list, count, kept) => {
        const top = { count, last: false, total: total(list), ...(kept ? { others: 'All others' } : {}) }
        const crossed = crossGroups(records(list), [shape(list, 'a', { top })], [shape(list, 'c', { top })], orders)
        const ranked = (by: 'a' | 'c') => {
          const sums = new Map<string, number>()
          for (const each of list) sums.set(each[by], (sums.get(each[by]) ?? 0) + each.amount)
          return [...sums].sort(([a, x], [b, y]) => y - x || (a < b ? -1 : 1)).slice(0, count)
        }
        const [first, second] = [ranked('a'), ranked('c')].map(each => each.map(([name]) => name))
        const expected = kept ? list : list.filter(each => first!.includes(each.a) && second!.includes(each.c))
        const { from, to } = crossed.meet(crossed.rows, crossed.columns)
        expect(to - from).toBe(expected.length)
        for (const row of nodes(crossed.rows)) {
          const own = crossed.meet(row, crossed.columns)
          expect(own.to - own.from).toBe(expected.filter(each => covers(row, each, ['a'])).length)
          // no group is left without records
          if (list.length) expect(own.to).toBeGreaterThan(own.from - (expected.length ? 0 : 1))
        }
        if (kept && crossed.rows.children.length > count) expect(crossed.rows.children.at(-1)!.label).toBe('All others')
      }),
    )
  })

  it('have each stretch that is asked for, in order, and nothing where none of its records are', () => {
    const lengths = ['1', '2', '3', '4', '5']
    const every = lengths.map(label => ({ value: decimal(Number(label)), label }))
    fc.assert(
      fc.property(made, fc.boolean(), (list, descending) => {
        const stretch = shape(list, 'b', { value: row => decimal(Number(list[row]!.b)), order: { by: 'value', descending }, every })
        const [full, bare] = [[stretch], [{ ...stretch, every: [] }]].map(own =>
          crossGroups(records(list), [shape(list, 'a')], [shape(list, 'c'), ...own], orders),
        )
        for (const outer of full!.columns.children) {
          expect(outer.children.map(each => each.label)).toEqual(descending ? [...lengths].reverse() : lengths)
          const before = bare!.columns.children.find(each => each.label === outer.label)!
          for (const row of [full!.rows, ...full!.rows.children]) {
            const same = row.depth < 0 ? bare!.rows : bare!.rows.children.find(each => each.label === row.label)!
            for (const node of [outer, ...outer.children]) {
              const other = node === outer ? before : before.children.find(each => each.label === node.label)
              const [met, known] = [full!.meet(row, node), other && bare!.meet(same, other)]
              expect([...met.records.subarray(met.from, met.to)]).toEqual(known ? [...known.records.subarray(known.from, known.to)] : [])
            }
          }
        }
      }),
    )
  })

  it('give the same where the axes are swapped', () => {
    fc.assert(
      fc.property(made, list => {
        const top = { count: 2, last: false, total: total(list) }
        const [one, other] = [[shape(list, 'a', { top }), shape(list, 'b')], [shape(list, 'c')]]
        const [own, swapped] = [crossGroups(records(list), one, other, orders), crossGroups(records(list), other, one, orders)]
        const named = (node: AxisNode): string => `${node.parent ? named(node.parent) : ''}/${node.label}`
        const cells = (crossed: typeof own, turned: boolean) =>
          nodes(crossed.rows)
            .flatMap(row =>
              nodes(crossed.columns).map(column => {
                const { records: all, from, to } = crossed.meet(row, column)
                const names = [named(row), named(column)]
                return `${(turned ? names.reverse() : names).join(' × ')}: ${[...all.subarray(from, to)].join()}`
              }),
            )
            .sort()
        expect(cells(swapped, true)).toEqual(cells(own, false))
      }),
    )
  })
})
