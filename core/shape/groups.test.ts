import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { order } from '../formula/values'
import { compareText } from '../value/text'
import { decimal } from '../value/decimal'
import { type GroupNode, nodeAt } from '../formula/standing'
import { type GroupShape, shapeGroups } from './groups'

interface Row {
  town: string | null
  person: string
  amount: number
}
const row = fc.record({
  town: fc.option(fc.constantFrom('Foz', 'Álamo', 'alamo', 'Zona', '')),
  person: fc.constantFrom('p1', 'p2', 'p3'),
  amount: fc.integer({ min: -50, max: 50 }),
})
const orders = { text: compareText, value: order }
const sum = (list: readonly Row[]) => list.reduce((all, each) => all + each.amount, 0)
const shapes = (rows: readonly Row[], more: Partial<GroupShape> = {}): GroupShape[] => [
  {
    key: at => (rows[at]!.town === null ? '' : `=${rows[at]!.town}`),
    value: at => rows[at]!.town,
    label: at => rows[at]!.town ?? '(none)',
    order: { by: 'name', descending: false },
    ...more,
  },
  { key: at => rows[at]!.person, value: at => rows[at]!.person, label: at => rows[at]!.person, order: { by: 'name', descending: true } },
]
const all = (rows: readonly Row[]) => Int32Array.from(rows.keys())
const total = (rows: readonly Row[]) => (list: Int32Array) => decimal(sum([...list].map(at => rows[at]!)), 0)
const leaves = (node: GroupNode): GroupNode[] => (node.children.length ? node.children.flatMap(leaves) : [node])

describe('groups', () => {
  it('hold every row once, under the group of its values, and their totals add up to the total of all', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 60 }), rows => {
        const shaped = shapeGroups(all(rows), shapes(rows), orders)
        expect([...shaped.rows].sort((a, b) => a - b)).toEqual([...rows.keys()])
        const visit = (node: GroupNode): void => {
          const own = [...shaped.rows.subarray(node.from, node.to)].map(at => rows[at]!)
          if (node.children.length) {
            expect(
              node.children.reduce((each, child) => each + sum([...shaped.rows.subarray(child.from, child.to)].map(at => rows[at]!)), 0),
            ).toBe(sum(own))
            expect(node.children.map(child => child.number)).toEqual(node.children.map((_, index) => index + 1))
          }
          if (node.depth === 0) expect(own.every(each => (each.town ?? '(none)') === node.label)).toBe(true)
          if (node.depth === 1) {
            expect(own.every(each => each.person === node.label)).toBe(true)
            expect(nodeAt(node, 0)).toBe(node.parent)
          }
          node.children.forEach(visit)
        }
        visit(shaped.root)
        // outer groups by the Unicode order of their names, rows in the order they came
        const names = shaped.root.children.map(child => child.label).filter(label => label !== '(none)')
        expect(names).toEqual([...names].sort(compareText))
        expect(shaped.root.children.findIndex(child => child.label === '(none)')).toBe(
          rows.some(each => each.town === null) ? shaped.root.children.length - 1 : -1,
        )
        for (const leaf of leaves(shaped.root))
          expect([...shaped.rows.subarray(leaf.from, leaf.to)]).toEqual([...shaped.rows.subarray(leaf.from, leaf.to)].sort((a, b) => a - b))
      }),
    )
  })
  it('top n and the others are all: the n groups with the most, ties by key, the rest as one', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 60 }), fc.integer({ min: 1, max: 5 }), fc.boolean(), (rows, count, last) => {
        const shaped = shapeGroups(all(rows), shapes(rows, { top: { count, last, others: 'All others', total: total(rows) } }), orders)
        const keys = [...new Set(rows.map(each => (each.town === null ? '' : `=${each.town}`)))]
        const naive = keys
          .map(key => ({ key, sum: sum(rows.filter(each => (each.town === null ? '' : `=${each.town}`) === key)) }))
          .sort((a, b) => (last ? a.sum - b.sum : b.sum - a.sum) || compareText(a.key, b.key))
        const chosen = new Set(naive.slice(0, count).map(each => each.key))
        const shown = shaped.root.children.filter(child => !child.others)
        expect(
          new Set(shown.map(child => (rows[shaped.rows[child.from]!]!.town === null ? '' : `=${rows[shaped.rows[child.from]!]!.town}`))),
        ).toEqual(chosen)
        const rest = shaped.root.children.find(child => child.others)
        expect(!!rest).toBe(keys.length > count)
        expect(shaped.rows.length).toBe(rows.length)
        const others = rest ? sum([...shaped.rows.subarray(rest.from, rest.to)].map(at => rows[at]!)) : 0
        expect(
          shown.reduce((each, child) => each + sum([...shaped.rows.subarray(child.from, child.to)].map(at => rows[at]!)), 0) + others,
        ).toBe(sum(rows))
        if (rest) expect(shaped.root.children.at(-1)).toBe(rest)
      }),
    )
  })
  it('a filter by a total leaves groups out with their rows', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 40 }), rows => {
        const shaped = shapeGroups(all(rows), shapes(rows, { keep: list => sum([...list].map(at => rows[at]!)) > 10 }), orders)
        const naive = rows.filter(each => sum(rows.filter(other => other.town === each.town)) > 10)
        expect([...shaped.rows].map(at => rows[at]!.amount).sort()).toEqual(naive.map(each => each.amount).sort())
      }),
    )
  })
  it('stand in a given order, the others by name behind', () => {
    const rows: Row[] = ['Foz', 'Zona', 'Álamo', 'Beira'].map(town => ({ town, person: 'p1', amount: 1 }))
    expect(
      shapeGroups(
        all(rows),
        shapes(rows, { order: { by: 'given', descending: false, given: ['Zona', 'Beira'] } }),
        orders,
      ).root.children.map(child => child.label),
    ).toEqual(['Zona', 'Beira', 'Álamo', 'Foz'])
  })
  it('two of one name stay apart and get their codes', () => {
    const rows: Row[] = [
      { town: 'a', person: 'p1', amount: 1 },
      { town: 'b', person: 'p1', amount: 1 },
    ]
    const shaped = shapeGroups(all(rows), [{ ...shapes(rows)[0]!, label: () => 'Marina', code: at => `C-${at + 1}` }], orders)
    expect(shaped.root.children.map(child => child.label)).toEqual(['Marina (C-1)', 'Marina (C-2)'])
    expect(shaped.twins).toEqual([{ depth: 0, label: 'Marina' }])
  })
  it('two of one name get their codes wherever they stand, one that stands in several groups none', () => {
    const rows: Row[] = [
      { town: 'a', person: 'p1', amount: 1 },
      { town: 'a', person: 'p3', amount: 1 },
      { town: 'b', person: 'p2', amount: 1 },
      { town: 'b', person: 'p3', amount: 1 },
    ]
    const [towns, people] = shapes(rows)
    const named: GroupShape = {
      ...people!,
      label: at => (rows[at]!.person === 'p3' ? 'Boatyard' : 'Marina'),
      code: at => rows[at]!.person,
      order: { by: 'name', descending: false },
    }
    const shaped = shapeGroups(all(rows), [towns!, named], orders)
    expect(shaped.root.children.flatMap(child => child.children.map(each => each.label))).toEqual([
      'Boatyard',
      'Marina (p1)',
      'Boatyard',
      'Marina (p2)',
    ])
  })
  it('a group whose members are all dropped is none, and takes no number', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 40 }), rows => {
        const keep = (list: Int32Array) => sum([...list].map(at => rows[at]!)) > 10
        const [towns, people] = shapes(rows)
        const shaped = shapeGroups(all(rows), [towns!, { ...people!, keep }], orders)
        const kept = rows.filter(each => sum(rows.filter(other => other.town === each.town && other.person === each.person)) > 10)
        expect(shaped.rows.length).toBe(kept.length)
        expect(shaped.root.children.length).toBe(new Set(kept.map(each => each.town)).size)
        expect(shaped.root.children.map(child => child.number)).toEqual(shaped.root.children.map((_, index) => index + 1))
        for (const child of shaped.root.children) expect(child.to).toBeGreaterThan(child.from)
      }),
    )
  })
})
