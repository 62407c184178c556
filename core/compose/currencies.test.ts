import Exact from 'decimal.js'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { checkFormula } from '../formula/check'
import { compileFormula } from '../formula/evaluate'
import type { FieldInfo, LevelInfo } from '../formula/typed'
import { columnOf } from '../value/columns'
import { decimal } from '../value/decimal'
import type { DataRecords } from '../value/records'
import { checkText, compileText } from './text'

const field = (path: string, type: 'number' | 'text', more: Partial<FieldInfo> = {}): [string, FieldInfo] => [
  path,
  {
    level: 0,
    path,
    type,
    role: type === 'number' ? 'measure' : 'label',
    caption: path,
    record: '',
    column: { name: path, type, databaseType: type, required: false },
    ...(type === 'number' ? { scale: 2 } : {}),
    ...more,
  },
]
const level: LevelInfo = {
  index: 0,
  parent: -1,
  children: [],
  name: 'invoice',
  caption: 'Invoice',
  key: [],
  fields: new Map([
    field('total', 'number', { currency: 'currency' }),
    field('paid', 'number', { currency: 'currency' }),
    field('rate', 'number', { role: 'other' }),
    field('currency', 'text'),
  ]),
  definition: { name: 'invoice', table: 'invoice', on: [], fields: [], related: [], details: [], filters: [], sort: [] },
}
const levels = [level]
interface Row {
  total: number | null
  paid: number
  currency: string | null
}
const row = fc.record({
  total: fc.option(fc.integer({ min: -9999, max: 9999 }), { freq: 6 }),
  paid: fc.integer({ min: 1, max: 9999 }),
  currency: fc.option(fc.constantFrom('EUR', 'NOK', 'GBP'), { freq: 8 }),
})
const dataOf = (rows: Row[]): DataRecords => ({
  levels: [
    {
      count: rows.length,
      starts: Int32Array.of(0, rows.length),
      columns: {
        total: columnOf(
          'number',
          rows.map(each => (each.total === null ? null : decimal(each.total, 2))),
        ),
        paid: columnOf(
          'number',
          rows.map(each => decimal(each.paid, 2)),
        ),
        rate: columnOf(
          'number',
          rows.map(() => decimal(2)),
        ),
        currency: columnOf(
          'text',
          rows.map(each => each.currency),
        ),
      },
    },
  ],
})
const scope = { levels, level: 0, parameters: {}, page: true, groups: ['g'], row: 0 as const }
const around = (rows: Row[]) => ({ levels, data: dataOf(rows), parameters: {}, today: 0 })
const whole = (rows: Row[]) => ({
  level: 0,
  from: 0,
  to: 1,
  covered: {
    rows: Int32Array.from(rows.keys()),
    from: 0,
    to: rows.length,
    node: { depth: 0, from: 0, to: rows.length, children: [], label: '', number: 1 },
  },
  carriedFrom: 0,
  carriedTo: rows.length,
})
const printed = (formula: string, rows: Row[]) => {
  const surroundings = around(rows)
  const text = checkText(`{{ ${formula} | 0.00## }}`, scope, 'en')
  return compileText(text, typed => compileFormula(typed, surroundings))(whole(rows))
}

const D = (value: number) => new Exact(value).div(100)
const sum = (values: number[]) => D(values.reduce((all, each) => all + each, 0))
const totals = (rows: Row[]) => rows.flatMap(each => (each.total === null ? [] : [each.total]))
const paid = (rows: Row[]) => rows.map(each => each.paid)
/** Formulas over totals, and what each comes to over records of one currency. */
const formulas: [string, (rows: Row[]) => Exact | null][] = [
  ['sum(total)', rows => sum(totals(rows))],
  ['-sum(total)', rows => sum(totals(rows)).neg()],
  ['average(paid)', rows => sum(paid(rows)).div(rows.length)],
  ['max(paid) - min(paid)', rows => D(Math.max(...paid(rows)) - Math.min(...paid(rows)))],
  ['sum(total) - sum(paid)', rows => sum(totals(rows)).sub(sum(paid(rows)))],
  [
    'round(sum(total) / sum(paid), 4)',
    rows =>
      sum(totals(rows))
        .div(sum(paid(rows)))
        .toDecimalPlaces(4, Exact.ROUND_HALF_UP),
  ],
  [
    'sum(total - paid, where: paid > 50)',
    rows => sum(rows.filter(each => each.paid > 5000 && each.total !== null).map(each => each.total! - each.paid)),
  ],
  ['running(paid)', rows => sum(paid(rows))],
  ['carried(paid)', rows => sum(paid(rows))],
  ['largest(paid, 1)', rows => D(Math.max(...paid(rows)))],
]
const format = (value: Exact | null) => {
  if (value === null) return ''
  const text = value
    .toDecimalPlaces(4, Exact.ROUND_HALF_UP)
    .toFixed(4)
    .replace(/0{1,2}$/, '')
  return text.replace('-', '−')
}

it('every total of amounts, and every formula over totals, is one line for each currency', () => {
  fc.assert(
    fc.property(fc.array(row, { minLength: 1, maxLength: 12 }), fc.constantFrom(...formulas), (rows, [formula, of]) => {
      const takes = (each: Row) =>
        formula.includes('where:') ? each.paid > 5000 && each.total !== null : formula.includes('paid') || each.total !== null
      const currencies = [...new Set(rows.filter(takes).map(each => each.currency ?? ''))].sort()
      const expected =
        currencies.length < 2
          ? format(of(formula.includes('where:') || formula.includes('paid') ? rows : rows))
          : currencies
              .map(currency => {
                const text = format(of(rows.filter(each => (each.currency ?? '') === currency)))
                return currency ? `${text} ${currency}` : text
              })
              .join('\n')
      expect(printed(formula, rows), formula).toBe(expected)
    }),
    { numRuns: 400 },
  )
})

it('an amount that is converted is one amount again; a total that is only used, not printed, is none where it would mix', () => {
  const rows: Row[] = [
    { total: 100, paid: 50, currency: 'EUR' },
    { total: 300, paid: 50, currency: 'NOK' },
  ]
  expect(printed('sum(total * rate)', rows)).toBe('8.00')
  expect(printed('sum(total)', rows)).toBe('1.00 EUR\n3.00 NOK')
  const used = (formula: string) => compileFormula(checkFormula(formula, scope), around(rows))(whole(rows))
  expect(used('sum(total)')).toBeNull()
  expect(used('sum(total) > 1')).toBe(false)
  expect(used('count(total)')).toEqual(decimal(2))
})
