import Exact from 'decimal.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { columnOf } from '../value/columns'
import { type Decimal, decimalText, parseDecimal } from '../value/decimal'
import type { DataRecords } from '../value/records'
import { checkFormula } from './check'
import { compileFormula } from './evaluate'
import { isRatio, totalledAs } from './ratio'
import type { FieldInfo, LevelInfo } from './typed'

const D = Exact.clone({ precision: 80, rounding: Exact.ROUND_HALF_UP })
type Number = Exact | null
const divided = (a: Number, b: Number): Number => (a === null || b === null || b.isZero() ? null : a.div(b).toDecimalPlaces(12))

const names = [
  ['invoice', -1, ['total', 'freight', 'rate']],
  ['lines', 0, ['amount', 'quantity', 'price', 'pack_size']],
] as const
const shape: LevelInfo[] = names.map(([name, parent, fields], index) => ({
  index,
  parent,
  children: index ? [] : [1],
  name,
  caption: name,
  key: [],
  fields: new Map([
    ...fields.map((path): [string, FieldInfo] => [path, fieldOf(index, path, 'number')]),
    ['kind', fieldOf(index, 'kind', 'text')],
  ]),
  definition: { name, table: name, on: [], fields: [], related: [], details: [], filters: [], sort: [] },
}))
function fieldOf(level: number, path: string, type: 'number' | 'text'): FieldInfo {
  return {
    level,
    path,
    type,
    role: /rate|price|size/.test(path) ? 'rate' : 'measure',
    caption: path,
    record: '',
    column: { name: path, type, databaseType: type, required: false },
    ...(type === 'number' ? { scale: 2 } : {}),
  }
}

/** A line with its invoice, written down flat. */
interface Line {
  invoice: { total: Number; freight: Number; rate: Number; kind: string }
  amount: Number
  quantity: Number
  price: Number
  pack_size: Number
  kind: string
}
const cents = fc.option(
  fc.integer({ min: -5000, max: 5000 }).map(units => new D(units).div(100)),
  { freq: 8 },
)
const kind = fc.constantFrom('item', 'service')
const lineOf = fc.record({ amount: cents, quantity: cents, price: cents, pack_size: cents, kind })
const invoices = fc.array(
  fc.tuple(fc.record({ total: cents, freight: cents, rate: cents, kind }), fc.array(lineOf, { minLength: 1, maxLength: 4 })),
  { minLength: 1, maxLength: 5 },
)

/** A formula, and what it gives for one line, written as a program. */
interface Written {
  text: string
  of: (line: Line) => Number
  header?: boolean
}
const plainField = (text: string, of: Written['of'], header = false): Written => ({ text, of, header })
const amounts: Written[] = [
  plainField('amount', line => line.amount),
  plainField('quantity', line => line.quantity),
  plainField('invoice.total', line => line.invoice.total, true),
  plainField('invoice.freight', line => line.invoice.freight, true),
]
const factors: Written[] = [
  plainField('price', line => line.price),
  plainField('pack_size', line => line.pack_size),
  plainField('invoice.rate', line => line.invoice.rate, true),
  plainField('2.5', () => new D('2.5')),
]
const both = (a: Written, b: Written, sign: string, work: (a: Exact, b: Exact) => Number): Written => ({
  text: `(${a.text} ${sign} ${b.text})`,
  of: line => {
    const [x, y] = [a.of(line), b.of(line)]
    return x === null || y === null ? null : work(x, y)
  },
  header: isHeader(a) && isHeader(b),
})
const isHeader = (each: Written) => each.header === true || each.text === '2.5'
const times = (a: Written, b: Written) => both(a, b, '*', (x, y) => x.mul(y))
const minus = (a: Written, b: Written) => both(a, b, '-', (x, y) => x.sub(y))
const over = (a: Written, b: Written) => both(a, b, '/', divided)
const anAmount = fc.oneof(
  fc.constantFrom(...amounts),
  fc.tuple(fc.constantFrom(...amounts), fc.constantFrom(...factors)).map(([a, b]) => times(a, b)),
  fc.tuple(fc.constantFrom(...amounts), fc.constantFrom(...amounts)).map(([a, b]) => minus(a, b)),
  fc.tuple(fc.constantFrom(...amounts), fc.constantFrom(...factors)).map(([a, b]) => over(a, b)),
)
/** What may stand around a quotient without making it another thing. */
interface Around {
  text: (inner: string) => string
  of: (inner: Number) => Number
}
const around: fc.Arbitrary<Around> = fc.constantFrom<Around>(
  { text: inner => inner, of: inner => inner },
  { text: inner => `-(${inner})`, of: inner => inner && inner.neg() },
  { text: inner => `${inner} * 100`, of: inner => inner && inner.mul(100) },
  { text: inner => `100 * ${inner}`, of: inner => inner && inner.mul(100) },
  { text: inner => `${inner} / 8`, of: inner => divided(inner, new D(8)) },
  { text: inner => `round(${inner}, 2)`, of: inner => inner && inner.toDecimalPlaces(2) },
  { text: inner => `ifEmpty(${inner}, 0)`, of: inner => inner ?? new D(0) },
  { text: inner => `round(-(${inner}) * 100, 1)`, of: inner => inner && inner.neg().mul(100).toDecimalPlaces(1) },
)

const inDecimals = (value: Number): Decimal | null => (value === null ? null : parseDecimal(value.toFixed())!)
function recordsOf(list: Line['invoice'][], lines: Line[]): DataRecords {
  const numbers = <T>(rows: T[], paths: readonly string[]) =>
    Object.fromEntries(
      paths.map(path => [
        path,
        columnOf(
          'number',
          rows.map(row => inDecimals((row as Record<string, Number>)[path]!)),
        ),
      ]),
    )
  const texts = (rows: { kind: string }[]) => ({
    kind: columnOf(
      'text',
      rows.map(row => row.kind),
    ),
  })
  const starts = list.reduce((all, invoice) => [...all, all.at(-1)! + lines.filter(line => line.invoice === invoice).length], [0])
  return {
    levels: [
      { count: list.length, starts: Int32Array.of(0, list.length), columns: { ...numbers(list, names[0][2]), ...texts(list) } },
      { count: lines.length, starts: Int32Array.from(starts), columns: { ...numbers(lines, names[1][2]), ...texts(lines) } },
    ],
  }
}

/** The total of a calculated field over some lines, as the program under test works it out. */
function totalOf(formula: string, roots: [Line['invoice'], Omit<Line, 'invoice'>[]][], rows: number[], total: string, as?: 'records') {
  const lines = roots.flatMap(([invoice, own]) => own.map((each): Line => ({ ...each, invoice })))
  const data = recordsOf(
    roots.map(([invoice]) => invoice),
    lines,
  )
  const own = checkFormula(formula, { levels: shape, level: 1, parameters: {} })
  const around = { levels: shape, data, parameters: {}, today: 0 }
  const worked = compileFormula(own, around)
  data.levels[1]!.columns.f = columnOf(
    'number',
    lines.map((_, row) => worked({ level: 1, from: row, to: row + 1 })),
  )
  const field: FieldInfo = { ...fieldOf(1, 'f', 'number'), formula: own }
  if (!as && isRatio(own)) field.ratio = { of: own, forced: false }
  const levels = shape.map(level => (level.index ? { ...level, fields: new Map([...level.fields, ['f', field]]) } : level))
  const typed = checkFormula(total, { levels, level: 1, parameters: {}, groups: ['g'], row: 0 })
  const node = { depth: 0, from: 0, to: rows.length, children: [], label: '', number: 1 }
  const value = compileFormula(typed, { ...around, levels })({
    level: 1,
    from: rows[0]!,
    to: rows[0]! + 1,
    covered: { rows: Int32Array.from(rows), from: 0, to: rows.length, node },
  }) as Decimal | null
  return { value: value && decimalText(value), lines, field }
}
/** Added up by rule 7: lines once each, headers once for all the lines that are covered. */
function added(part: Written, lines: Line[]): Exact {
  const seen = new Set<unknown>()
  let sum = new D(0)
  for (const line of lines) {
    if (part.header) {
      if (seen.has(line.invoice)) continue
      seen.add(line.invoice)
    }
    sum = sum.add(part.of(line) ?? 0)
  }
  return sum
}
const same = (found: string | null, wanted: Number) => expect(found && new D(found).toFixed()).toBe(wanted && wanted.toFixed())
const rowsOf = (roots: [unknown, unknown[]][], picks: boolean[]) => {
  const count = roots.reduce((sum, [, lines]) => sum + lines.length, 0)
  const rows = Array.from({ length: count }, (_, row) => row).filter(row => picks[row % picks.length])
  return rows.length ? rows : [0]
}
const picks = fc.array(fc.boolean(), { minLength: 1, maxLength: 7 })

describe('totals of calculated fields that divide', () => {
  it('a quotient by an amount or quantity is worked out from totals, whatever stands around it', () => {
    fc.assert(
      fc.property(
        invoices,
        picks,
        anAmount,
        anAmount,
        around,
        fc.constantFrom('sum', 'average'),
        (roots, some, top, bottom, more, name) => {
          const rows = rowsOf(roots, some)
          const { value, lines } = totalOf(more.text(over(top, bottom).text), roots as never, rows, `${name}(f)`)
          const covered = rows.map(row => lines[row]!)
          same(value, more.of(divided(added(top, covered), added(bottom, covered))))
        },
      ),
      { numRuns: 300 },
    )
  })

  it('a condition chooses the lines, and a header counts once among those', () => {
    fc.assert(
      fc.property(invoices, picks, anAmount, anAmount, (roots, some, top, bottom) => {
        const rows = rowsOf(roots, some)
        const { value, lines } = totalOf(over(top, bottom).text, roots as never, rows, 'sum(f, where: kind = "item")')
        const covered = rows.map(row => lines[row]!).filter(line => line.kind === 'item')
        same(value, divided(added(top, covered), added(bottom, covered)))
      }),
      { numRuns: 200 },
    )
  })

  it('whatever else divides is added up line by line', () => {
    const inside = fc.oneof(
      fc.tuple(anAmount, fc.constantFrom(...factors)).map(([a, b]) => over(a, b)),
      fc
        .tuple(anAmount, fc.constantFrom(...factors), fc.constantFrom(...factors))
        .map(([a, b, c]): Written => times({ text: `floor(${over(a, b).text})`, of: line => over(a, b).of(line)?.floor() ?? null }, c)),
      fc.tuple(anAmount, anAmount, anAmount).map(([a, b, c]): Written => ({ ...minus(a, over(b, c)), header: false })),
      fc.tuple(anAmount, anAmount, fc.constantFrom(...amounts)).map(([a, b, c]): Written => times(over(a, b), c)),
    )
    fc.assert(
      fc.property(invoices, picks, inside, (roots, some, written) => {
        const rows = rowsOf(roots, some)
        const { value, lines } = totalOf(written.text, roots as never, rows, 'sum(f)')
        same(
          value,
          added(
            { ...written, header: false },
            rows.map(row => lines[row]!),
          ),
        )
      }),
      { numRuns: 300 },
    )
  })

  it('an author’s choice overrules the formula, either way', () => {
    fc.assert(
      fc.property(invoices, picks, anAmount, anAmount, (roots, some, top, bottom) => {
        const rows = rowsOf(roots, some)
        const { value, lines } = totalOf(over(top, bottom).text, roots as never, rows, 'sum(f)', 'records')
        same(
          value,
          added(
            { ...over(top, bottom), header: false },
            rows.map(row => lines[row]!),
          ),
        )
      }),
    )
    const byPrice = checkFormula('amount / price', { levels: shape, level: 1, parameters: {} })
    expect([isRatio(byPrice), isRatio(byPrice, true)]).toEqual([false, true])
    expect(totalledAs({ ...fieldOf(1, 'f', 'number'), formula: byPrice })).toEqual({ as: 'records', other: true })
    expect(totalledAs(fieldOf(1, 'amount', 'number'))).toEqual({ as: 'records', other: false })
  })

  it('a choice between ratios keeps its test: of numbers at the totals, of a kind at each record', () => {
    const invoice = { total: new D(100), freight: new D(5), rate: new D(1), kind: 'item' }
    const line = (kind: string, amount: number, quantity: number) => ({
      kind,
      amount: new D(amount),
      quantity: new D(quantity),
      price: new D(1),
      pack_size: new D(1),
    })
    const roots = [[invoice, [line('item', 30, 10), line('service', 50, 0), line('item', 10, 10)]]] as never
    const of = (formula: string) => totalOf(formula, roots, [0, 1, 2], 'sum(f)').value
    expect(of('if(quantity = 0, 0, amount / quantity)')).toBe('4.5')
    expect(of('if(kind = "item", amount / quantity, 0)')).toBe('2')
  })
})
