import { sql } from 'drizzle-orm'
import { emptyDatabase } from '../../onServer'
import { PgDialect } from 'drizzle-orm/pg-core'
import fc from 'fast-check'
import type { PGlite } from '@electric-sql/pglite'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readFileSync } from 'node:fs'
import { generate } from '../../../scripts/grammar.mjs'
import type { FieldInfo, LevelInfo } from '../../../core/formula/typed'
import { columnOf } from '../../../core/value/columns'
import type { Value, ValueType } from '../../../core/value/value'
import { dayText } from '../../../core/value/date'
import { momentText } from '../../../core/value/moment'
import { decimal, type Decimal, decimalText } from '../../../core/value/decimal'
import { checkFormula } from '../../../core/formula/check'
import { compileFormula } from '../../../core/formula/evaluate'
import { Lineage } from '../../../core/formula/lineage'
import { formulaSql } from '../../../core/formula/sql'
import { FormulaError, parseFormula } from '../../../core/formula/syntax'

const types: Record<string, ValueType> = {
  a: 'number',
  b: 'number',
  s: 'text',
  t: 'text',
  d: 'date',
  e: 'date',
  m: 'moment',
  w: 'moment',
  y: 'boolean',
}
const databaseTypes: Record<ValueType, string> = { number: 'numeric', text: 'text', date: 'date', moment: 'timestamp', boolean: 'boolean' }

function oneLevel(): LevelInfo {
  const fields = new Map(
    Object.entries(types).map(([path, type]): [string, FieldInfo] => [
      path,
      {
        level: 0,
        path,
        type,
        role: type === 'number' ? 'measure' : 'label',
        caption: path,
        record: '',
        column: { name: path, type, databaseType: databaseTypes[type], required: false },
      },
    ]),
  )
  return {
    index: 0,
    parent: -1,
    children: [],
    name: 'row',
    caption: 'Row',
    key: ['a'],
    fields,
    definition: { name: 'row', table: 'rows', on: [], fields: [], related: [], details: [], filters: [], sort: [] },
  }
}

const levels = [oneLevel()]
const scope = { levels, level: 0, parameters: { limit: 'number' as const } }
const today = 20757

// random formulas of each type
const number = fc
  .oneof(fc.integer({ min: -5000, max: 5000 }), fc.constantFrom(0, 1, 250, 12345678901234))
  .chain(units => fc.constantFrom(0, 2, 4).map(scale => decimal(units, scale)))
const text = fc.oneof(
  fc.constantFrom('', 'Ana', 'ana', 'Âncora', 'zebra', 'Ärmel', 'a b', '%', '_', "o'Hara", '"', 'Ψαράδες', 'Заря', ' x '),
  fc.string({ maxLength: 6, unit: 'grapheme-ascii' }),
)
const day = fc.integer({ min: 15000, max: 22000 })
// times of day at the ends of days too, before and after 1970, with and without parts of a second
const moment = fc
  .tuple(
    fc.oneof(day, fc.constantFrom(-1, 0, 2_900_000, -700_000)),
    fc.constantFrom(0n, 1n, 86_399_999_999n, 43_200_000_000n, 5_400_000_000n, 61_250_000n, 3_600_000_001n),
  )
  .map(([days, rest]) => BigInt(days) * 86_400_000_000n + rest)
const literal = (value: string) => `"${value.replace(/[\\"]/g, '\\$&')}"`
const { numeric, textual, dated, timed, test } = fc.letrec<{
  numeric: string
  textual: string
  dated: string
  timed: string
  test: string
}>(tie => ({
  numeric: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.constantFrom('a', 'b', 'param.limit', 'empty'),
    number.filter(value => value.units >= 0).map(decimalText),
    fc.tuple(tie('numeric'), fc.constantFrom('+', '-', '*', '/'), tie('numeric')).map(parts => `(${parts.join(' ')})`),
    tie('numeric').map(inner => `-(${inner})`),
    fc.tuple(fc.constantFrom('abs', 'floor', 'ceiling', 'round'), tie('numeric')).map(([name, inner]) => `${name}(${inner})`),
    fc.tuple(tie('numeric'), fc.integer({ min: 0, max: 4 })).map(([inner, digits]) => `round(${inner}, ${digits})`),
    tie('textual').map(inner => `length(${inner})`),
    fc.tuple(fc.constantFrom('year', 'month', 'quarter'), fc.oneof(tie('dated'), tie('timed'))).map(([name, inner]) => `${name}(${inner})`),
    fc.tuple(fc.constantFrom('hour', 'minute'), tie('timed')).map(([name, inner]) => `${name}(${inner})`),
    fc.tuple(tie('timed'), tie('dated')).map(([from, to]) => `daysBetween(${from}, ${to})`),
    fc.tuple(tie('dated'), tie('dated')).map(([from, to]) => `daysBetween(${from}, ${to})`),
    tie('numeric').map(inner => `bucket(${inner}, 0, 30, 60)`),
    fc.tuple(tie('test'), tie('numeric'), tie('numeric')).map(([when, then, otherwise]) => `if(${when}, ${then}, ${otherwise})`),
    fc.tuple(tie('numeric'), tie('numeric')).map(([value, otherwise]) => `ifEmpty(${value}, ${otherwise})`),
  ),
  textual: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom('s', 't'),
    text.map(literal),
    fc.tuple(tie('textual'), tie('textual')).map(([left, right]) => `(${left} & ${right})`),
    tie('numeric').map(inner => `("" & ${inner})`),
    tie('dated').map(inner => `("" & ${inner})`),
    tie('timed').map(inner => `("" & ${inner})`),
    fc.tuple(fc.constantFrom('upper', 'lower', 'trim'), tie('textual')).map(([name, inner]) => `${name}(${inner})`),
    fc
      .tuple(fc.constantFrom('left', 'right'), tie('textual'), fc.integer({ min: 0, max: 5 }))
      .map(([name, inner, count]) => `${name}(${inner}, ${count})`),
    fc.tuple(tie('textual'), tie('textual'), tie('textual')).map(parts => `replace(${parts.join(', ')})`),
    fc.tuple(tie('textual'), tie('textual')).map(([left, right]) => `join("-", ${left}, ${right})`),
    fc.tuple(tie('test'), tie('textual'), tie('textual')).map(([when, then, otherwise]) => `if(${when}, ${then}, ${otherwise})`),
  ),
  timed: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom('m', 'w'),
    fc.tuple(tie('test'), tie('timed'), tie('timed')).map(([when, then, otherwise]) => `if(${when}, ${then}, ${otherwise})`),
    fc.tuple(tie('timed'), tie('timed')).map(([value, otherwise]) => `ifEmpty(${value}, ${otherwise})`),
  ),
  dated: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom('d', 'e', 'today()'),
    tie('timed').map(inner => `date(${inner})`),
    fc
      .tuple(fc.integer({ min: 2000, max: 2040 }), fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 31 }))
      .map(parts => `date(${parts.join(', ')})`),
    fc.tuple(tie('dated'), fc.integer({ min: -400, max: 400 })).map(([inner, days]) => `addDays(${inner}, ${days})`),
    fc.tuple(tie('dated'), fc.integer({ min: -30, max: 30 })).map(([inner, months]) => `addMonths(${inner}, ${months})`),
    fc.tuple(fc.constantFrom('monthStart', 'monthEnd'), tie('dated')).map(([name, inner]) => `${name}(${inner})`),
  ),
  test: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom('y', 'true', 'false'),
    fc.tuple(tie('numeric'), fc.constantFrom('=', '!=', '<', '<=', '>', '>='), tie('numeric')).map(parts => `(${parts.join(' ')})`),
    fc.tuple(tie('textual'), fc.constantFrom('=', '!=', '<', '<=', '>', '>='), tie('textual')).map(parts => `(${parts.join(' ')})`),
    fc
      .tuple(tie('timed'), fc.constantFrom('=', '!=', '<', '<=', '>', '>='), fc.oneof(tie('timed'), tie('dated')))
      .map(parts => `(${parts.join(' ')})`),
    fc.tuple(tie('dated'), fc.constantFrom('=', '<', '<=', '>'), tie('timed')).map(parts => `(${parts.join(' ')})`),
    fc.tuple(tie('timed'), tie('dated'), tie('dated')).map(([value, low, high]) => `(${value} between ${low} and ${high})`),
    fc.tuple(tie('timed'), tie('dated'), tie('timed')).map(([value, one, two]) => `(${value} in (${one}, ${two}))`),
    fc.tuple(tie('dated'), fc.constantFrom('=', '!=', '<', '>='), tie('dated')).map(parts => `(${parts.join(' ')})`),
    fc.tuple(tie('test'), fc.constantFrom('and', 'or'), tie('test')).map(parts => `(${parts.join(' ')})`),
    tie('test').map(inner => `(not ${inner})`),
    fc.tuple(tie('numeric'), tie('numeric'), tie('numeric')).map(([value, low, high]) => `(${value} between ${low} and ${high})`),
    fc
      .tuple(tie('textual'), fc.constantFrom('in', 'not in'), tie('textual'), tie('textual'))
      .map(([value, word, one, two]) => `(${value} ${word} (${one}, ${two}))`),
    fc
      .tuple(fc.constantFrom('contains', 'startsWith'), tie('textual'), tie('textual'))
      .map(([name, value, part]) => `${name}(${value}, ${part})`),
  ),
}))
const row: fc.Arbitrary<Record<string, Value>> = fc.record({
  a: fc.option(number),
  b: fc.option(number),
  s: fc.option(text),
  t: fc.option(text),
  d: fc.option(day),
  e: fc.option(day),
  m: fc.option(moment),
  w: fc.option(moment),
  y: fc.option(fc.boolean()),
})

describe('SQL and the evaluator give the same answers', () => {
  let db: PGlite
  beforeAll(async () => {
    db = await emptyDatabase()
  })
  afterAll(() => db.close())

  const dialect = new PgDialect()
  const asText = (value: Value): string | null =>
    value === null
      ? null
      : typeof value === 'object'
        ? trimmed(decimalText(value))
        : typeof value === 'number'
          ? dayText(value)
          : typeof value === 'boolean'
            ? String(value)
            : typeof value === 'bigint'
              ? momentText(value)
              : value
  const trimmed = (digits: string) => (digits.includes('.') ? digits.replace(/\.?0+$/, '') : digits)

  const agree = async (formula: string, values: Record<string, Value>, limit: Decimal | null) => {
    const typed = checkFormula(formula, scope)
    const data = {
      levels: [
        {
          count: 1,
          starts: Int32Array.of(0, 1),
          columns: Object.fromEntries(Object.entries(types).map(([path, type]) => [path, columnOf(type, [values[path]!])])),
        },
      ],
    }
    const parameters = { limit }
    const ours = asText(compileFormula(typed, { levels, data, parameters, today }, new Lineage(levels, data))({ level: 0, from: 0, to: 1 }))
    const cells = Object.entries(types).map(
      ([path, type]) => sql`${asText(values[path]!)}::${sql.raw(databaseTypes[type])} as ${sql.identifier(path)}`,
    )
    const expression = formulaSql(typed, { column: path => sql`r.${sql.identifier(path)}`, parameters, today })
    const result =
      typed.type === 'number'
        ? sql`trim_scale(${expression})::text`
        : typed.type === 'boolean'
          ? sql`case when ${expression} then 'true' when not ${expression} then 'false' end`
          : sql`(${expression})::text`
    const query = dialect.sqlToQuery(sql`select ${result} as value from (select ${sql.join(cells, sql`, `)}) as r`)
    const { rows } = await db.query<{ value: string | null }>(query.sql, query.params)
    expect(ours, formula).toBe(rows[0]!.value)
  }
  const parameter = fc.option(number)
  it.each([
    ['numbers', numeric],
    ['texts', textual],
    ['dates', dated],
    ['dates with times', timed],
    ['tests', test],
  ] as const)('for %s', async (_, formula) => {
    await fc.assert(fc.asyncProperty(formula, row, parameter, agree), { numRuns: 400 })
  })
  it('in a condition that must hold, null counts as false', async () => {
    await fc.assert(
      fc.asyncProperty(test, row, async (formula, values) => {
        const typed = checkFormula(formula, scope)
        const data = {
          levels: [
            {
              count: 1,
              starts: Int32Array.of(0, 1),
              columns: Object.fromEntries(Object.entries(types).map(([path, type]) => [path, columnOf(type, [values[path]!])])),
            },
          ],
        }
        const ours = compileFormula(typed, { levels, data, parameters: { limit: null }, today })({ level: 0, from: 0, to: 1 })
        const cells = Object.entries(types).map(
          ([path, type]) => sql`${asText(values[path]!)}::${sql.raw(databaseTypes[type])} as ${sql.identifier(path)}`,
        )
        const query = dialect.sqlToQuery(
          sql`select count(*)::int as count from (select ${sql.join(cells, sql`, `)}) as r where
            ${formulaSql(typed, { column: path => sql`r.${sql.identifier(path)}`, parameters: { limit: null }, today }, true)}`,
        )
        const { rows } = await db.query<{ count: number }>(query.sql, query.params)
        expect(rows[0]!.count, formula).toBe(ours === true ? 1 : 0)
      }),
      { numRuns: 300 },
    )
  })
})

describe('faults are one sentence at a place', () => {
  it.each([
    ['amount + 1', 'There is no field “amount” here.', 0, 6],
    ['a + ', 'The formula stops too early; something must follow its end.', 4, 4],
    ['round(a', 'A closing parenthesis is missing at the end.', 7, 7],
    ['a + "x"', 'A number is needed here, but this is a text.', 4, 7],
    ['uper(s)', 'There is no function “uper”; the nearest is “upper”.', 0, 4],
    ['a ? b', '“?” was not expected at position 3.', 2, 3],
    ['s = 3', 'This is a number and cannot be compared with a text.', 4, 5],
    ['param.limt', 'There is no parameter “limt”; the nearest is “limit”.', 0, 10],
    ['page.number', '“page.number” is only known on a page.', 0, 11],
    ['', 'The formula is empty; write a field, a value or a function.', 0, 0],
    ['"open', 'A text is not closed; put a " after it.', 0, 5],
    ['if(y, 1, "x")', 'The results of if(…) are of different kinds; make them all numbers, all texts or all dates.', 0, 2],
  ])('%s', (formula, message, from, to) => {
    let fault: unknown
    try {
      checkFormula(formula, scope)
    } catch (error) {
      fault = error
    }
    expect(fault).toBeInstanceOf(FormulaError)
    expect({ message: (fault as FormulaError).message, from: (fault as FormulaError).from, to: (fault as FormulaError).to }).toEqual({
      message,
      from,
      to,
    })
  })
  it('never fails in any other way, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), formula => {
        try {
          checkFormula(formula, scope)
        } catch (error) {
          expect(error).toBeInstanceOf(FormulaError)
        }
      }),
      { numRuns: 2000 },
    )
  })
})

it('binds as the trade writes it', () => {
  expect(parseFormula('1 + 2 * 3 - 4')).toMatchObject({ is: 'binary', operator: '-', left: { operator: '+', right: { operator: '*' } } })
  expect(parseFormula('not a = 1 and b = 2 or y')).toMatchObject({
    is: 'binary',
    operator: 'or',
    left: { operator: 'and', left: { is: 'not' } },
  })
  expect(parseFormula('a between 1 and 2 and y')).toMatchObject({ operator: 'and', left: { is: 'between' } })
})

it('the generated parser is that of the grammar', () => {
  expect(readFileSync(new URL('../../../core/formula/parser.js', import.meta.url), 'utf8')).toBe(generate())
})
