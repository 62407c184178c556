import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { FieldInfo, LevelInfo } from './typed'
import { columnOf } from '../value/columns'
import type { DataRecords } from '../value/records'
import type { Value } from '../value/value'
import { decimal, type Decimal, decimalText } from '../value/decimal'
import { checkFormula } from './check'
import { compileFormula } from './evaluate'
import type { GroupNode } from './standing'

// a root with two branches, one of them two levels deep: invoice → lines → lots, invoice → taxes
const shape = [
  { name: 'invoice', parent: -1 },
  { name: 'lines', parent: 0 },
  { name: 'lots', parent: 1 },
  { name: 'taxes', parent: 0 },
]
const levels: LevelInfo[] = shape.map(({ name, parent }, index) => {
  const field = (path: string, type: 'number' | 'text'): [string, FieldInfo] => [
    path,
    {
      level: index,
      path,
      type,
      role: type === 'number' ? 'measure' : 'label',
      caption: path,
      record: '',
      column: { name: path, type, databaseType: type, required: false },
      ...(type === 'number' ? { scale: 2 } : {}),
    },
  ]
  return {
    index,
    parent,
    children: shape.flatMap((each, child) => (each.parent === index ? [child] : [])),
    name,
    caption: name,
    key: [],
    fields: new Map([field('x', 'number'), field('t', 'text')]),
    definition: { name, table: name, on: [], fields: [], related: [], details: [], filters: [], sort: [] },
  }
})

interface Node {
  x: number | null
  t: string | null
  children: Node[][]
}
const cell = fc.record({ x: fc.option(fc.integer({ min: -100000, max: 100000 })), t: fc.option(fc.constantFrom('a', 'b', 'Ä')) })
const leaf = cell.map((value): Node => ({ ...value, children: [] }))
const line = fc.tuple(cell, fc.array(leaf, { maxLength: 3 })).map(([value, lots]): Node => ({ ...value, children: [lots] }))
const invoices = fc.array(
  fc
    .tuple(cell, fc.array(line, { maxLength: 4 }), fc.array(leaf, { maxLength: 3 }))
    .map(([value, lines, taxes]): Node => ({ ...value, children: [lines, taxes] })),
  { minLength: 1, maxLength: 5 },
)

/** The records of a level in order, each with its ancestors by level: what a person would write down row by row. */
type Row = Partial<Record<number, Node>>
function rowsOf(roots: Node[], level: number): Row[] {
  const lines = roots.flatMap(root => root.children[0]!.map((each): Row => ({ 0: root, 1: each })))
  if (level === 0) return roots.map(root => ({ 0: root }))
  if (level === 1) return lines
  if (level === 2) return lines.flatMap(row => row[1]!.children[0]!.map((each): Row => ({ ...row, 2: each })))
  return roots.flatMap(root => root.children[1]!.map((each): Row => ({ 0: root, 3: each })))
}
function recordsOf(roots: Node[]): DataRecords {
  return {
    levels: shape.map(({ parent }, level) => {
      const rows = rowsOf(roots, level)
      const parents = parent < 0 ? [] : rowsOf(roots, parent)
      const starts =
        parent < 0
          ? [0, rows.length]
          : parents.reduce((list, above) => [...list, list.at(-1)! + rows.filter(row => row[parent] === above[parent]).length], [0])
      return {
        count: rows.length,
        starts: Int32Array.from(starts),
        columns: {
          x: columnOf(
            'number',
            rows.map(row => (row[level]!.x === null ? null : decimal(row[level]!.x!, 2))),
          ),
          t: columnOf(
            'text',
            rows.map(row => row[level]!.t),
          ),
        },
      }
    }),
  }
}
const plain = (value: Value) => (value === null ? null : typeof value === 'object' ? Number(decimalText(value)) : value)
const evaluate = (formula: string, roots: Node[], level: number, from: number, to: number) => {
  const typed = checkFormula(formula, { levels, level, parameters: {}, page: true })
  return plain(compileFormula(typed, { levels, data: recordsOf(roots), parameters: {}, today: 0 })({ level, from, to }))
}
/** Records of `target` that a row covering some records of `level` speaks of, by comparing records one by one. */
function covered(roots: Node[], level: number, from: number, to: number, target: number): Node[] {
  const stretch = rowsOf(roots, level).slice(from, to)
  const shared = [0, 1].filter(each => isAbove(each, level) && isAbove(each, target))
  const common = Math.max(...shared, ...(level === target ? [level] : []))
  const wanted = rowsOf(roots, target).filter(row =>
    stretch.some(mine =>
      isAbove(target, level)
        ? mine[target] === row[target]
        : isAbove(level, target)
          ? mine[level] === row[level]
          : mine[common] === row[common],
    ),
  )
  return wanted.map(row => row[target]!)
}
const isAbove = (above: number, level: number): boolean => above === level || (level > 0 && isAbove(above, shape[level]!.parent))
const sum = (nodes: Node[]) => nodes.reduce((all, node) => all + (node.x ?? 0), 0) / 100

const standing = fc.tuple(fc.constantFrom(0, 1, 2, 3), fc.nat(8), fc.nat(8))
const paths = ['invoice.x', 'lines.x', 'lines.lots.x', 'taxes.x']

describe('totals follow rule 7, for every pair of levels', () => {
  it('sum, count, lowest, highest, average, first and last equal a naive loop', () => {
    fc.assert(
      fc.property(invoices, standing, fc.constantFrom(0, 1, 2, 3), (roots, [level, a, b], target) => {
        const size = rowsOf(roots, level).length
        const [from, to] = [Math.min(a, b, size), Math.min(Math.max(a, b), size)]
        const nodes = covered(roots, level, from, to, target)
        const values = nodes.flatMap(node => (node.x === null ? [] : [node.x / 100]))
        const path = paths[target]!
        expect(evaluate(`sum(${path})`, roots, level, from, to)).toBeCloseTo(sum(nodes), 8)
        expect(evaluate(`count(${path})`, roots, level, from, to)).toBe(values.length)
        expect(evaluate(`min(${path})`, roots, level, from, to)).toBe(values.length ? Math.min(...values) : null)
        expect(evaluate(`max(${path})`, roots, level, from, to)).toBe(values.length ? Math.max(...values) : null)
        expect(evaluate(`first(${path})`, roots, level, from, to)).toBe(values[0] ?? null)
        expect(evaluate(`last(${path})`, roots, level, from, to)).toBe(values.at(-1) ?? null)
        expect(evaluate(`distinct(${path})`, roots, level, from, to)).toBe(new Set(values).size)
        const average = evaluate(`average(${path})`, roots, level, from, to)
        if (values.length) expect(average).toBeCloseTo(values.reduce((all, value) => all + value, 0) / values.length, 8)
        else expect(average).toBeNull()
      }),
      { numRuns: 400 },
    )
  })
  it('where: is tested for each record of the total’s own level; over: widens what the row covers', () => {
    fc.assert(
      fc.property(invoices, fc.constantFrom(1, 2, 3), fc.nat(8), (roots, level, at) => {
        const rows = rowsOf(roots, level)
        if (!rows.length) return
        const row = at % rows.length
        const nodes = covered(roots, level, row, row + 1, 1)
        expect(evaluate('sum(lines.x, where: lines.t = "a")', roots, level, row, row + 1)).toBeCloseTo(
          sum(nodes.filter(node => node.t === 'a')),
          8,
        )
        expect(evaluate('sum(lines.x, over: report)', roots, level, row, row + 1)).toBeCloseTo(
          sum(rowsOf(roots, 1).map(each => each[1]!)),
          8,
        )
        const own = rows[row]![0]!
        expect(evaluate('sum(taxes.x, over: invoice)', roots, level, row, row + 1)).toBeCloseTo(sum(own.children[1]!), 8)
        expect(evaluate('count(taxes, over: invoice)', roots, level, row, row + 1)).toBe(own.children[1]!.length)
      }),
    )
  })
  it('sums beyond the safe integers stay exact', () => {
    const big: Node[] = [
      { x: null, t: null, children: [Array.from({ length: 5 }, () => ({ x: 9007199254740991, t: null, children: [[]] })), []] },
    ]
    const typed = checkFormula('sum(lines.x)', { levels, level: 0, parameters: {} })
    const value = compileFormula(typed, { levels, data: recordsOf(big), parameters: {}, today: 0 })({ level: 0, from: 0, to: 1 })
    expect(decimalText(value as Decimal)).toBe(
      `${(5n * 9007199254740991n) / 100n}.${String((5n * 9007199254740991n) % 100n).padStart(2, '0')}`,
    )
  })
  it('a ratio is worked out from totals, and a division by zero is empty', () => {
    const roots: Node[] = [
      {
        x: 10000,
        t: null,
        children: [
          [
            { x: 2500, t: null, children: [[]] },
            { x: 5000, t: null, children: [[]] },
          ],
          [],
        ],
      },
    ]
    expect(evaluate('sum(lines.x) / invoice.x', roots, 0, 0, 1)).toBe(0.75)
    expect(evaluate('sum(lines.x) / sum(taxes.x)', roots, 0, 0, 1)).toBeNull()
  })
  it('what is carried equals a naive sum of the rows before', () => {
    fc.assert(
      fc.property(invoices, fc.array(fc.nat(20), { maxLength: 6 }), (roots, stops) => {
        const lines = rowsOf(roots, 1).map(row => row[1]!)
        const carried = compileFormula(checkFormula('carried(x)', { levels, level: 1, parameters: {}, page: true }), {
          levels,
          data: recordsOf(roots),
          parameters: {},
          today: 0,
        })
        for (const stop of stops) {
          const end = Math.min(stop, lines.length)
          expect(plain(carried({ level: 1, from: end, to: end + 1, carriedFrom: 0, carriedTo: end }))).toBeCloseTo(
            sum(lines.slice(0, end)),
            8,
          )
        }
      }),
    )
  })
})

describe('totals that have no meaning are refused with a sentence', () => {
  it.each([
    ['lines.x', 0, '“lines.x” has many values for one invoice; put it in sum(…), count(…), first(…) or another total.'],
    ['sum(lines.t)', 0, 'sum(…) needs a number, but this is a text.'],
    ['sum(lines)', 0, '“lines” is a level; sum(…) needs one of its fields.'],
    ['sum(lines.x + taxes.x)', 0, 'sum(…) mixes lines and taxes, which are not under one another; total each by itself.'],
    ['sum(lines.x, over: lots)', 0, 'over: takes report, or the name of a level that this row stands in.'],
    ['sum(lines.x, when: x = 1)', 0, '“when:” is not known here; use where: or over:.'],
    ['lines', 0, '“lines” is a level, not a field; write count(lines) for how many there are.'],
  ])('%s', (formula, level, sentence) => {
    expect(() => checkFormula(formula, { levels, level, parameters: {} })).toThrow(sentence)
  })
})

it('what top n left over has no rank, and takes no place from the others', () => {
  const roots = [5, 9, 7, 100].map((x): Node => ({ x: x * 100, t: null, children: [[], []] }))
  const root: GroupNode = { depth: -1, from: 0, to: 4, children: [], label: '', number: 1 }
  root.children = roots.map((_, at) => ({
    depth: 0,
    from: at,
    to: at + 1,
    parent: root,
    children: [],
    label: String(at),
    number: at + 1,
    ...(at === 3 ? { others: true } : {}),
  }))
  const rows = Int32Array.from(roots.keys())
  const typed = checkFormula('rank(sum(x))', { levels, level: 0, parameters: {}, groups: ['g'], row: 0 })
  const rank = compileFormula(typed, { levels, data: recordsOf(roots), parameters: {}, today: 0 })
  const ranks = root.children.map(node =>
    plain(rank({ level: 0, from: node.from, to: node.from + 1, covered: { rows, from: node.from, to: node.to, node } })),
  )
  expect(ranks).toEqual([3, 1, 2, null])
})
