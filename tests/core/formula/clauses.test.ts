import { sql } from 'drizzle-orm'
import { emptyDatabase } from '../../onServer'
import { PgDialect } from 'drizzle-orm/pg-core'
import type { PGlite } from '@electric-sql/pglite'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type ParameterKind, parameterTypes } from '../../../core/definition/parameters'
import { checkFormula } from '../../../core/formula/check'
import { compileFormula } from '../../../core/formula/evaluate'
import { formulaSql } from '../../../core/formula/sql'
import { plainText } from '../../../core/value/plain'
import { compareText } from '../../../core/value/text'
import { addMonths, dayText, monthEnd, parseDay } from '../../../core/value/date'
import { compareDecimals, decimal, type Decimal, decimalText } from '../../../core/value/decimal'
import {
  type ClauseTest,
  type ClauseValue,
  type FilterPart,
  filterText,
  filterWords,
  readFilter,
  testsFor,
} from '../../../core/formula/clauses'
import { tableLevel } from '../../../core/model/levels'
import { columnOf } from '../../../core/value/columns'
import type { Value, ValueType } from '../../../core/value/value'

const types: Record<string, ValueType> = { n: 'number', s: 'text', d: 'date', m: 'moment', y: 'boolean' }
const databaseTypes: Record<ValueType, string> = { number: 'numeric', text: 'text', date: 'date', moment: 'timestamp', boolean: 'boolean' }
const level = tableLevel(
  {
    schema: '',
    name: 'rows',
    primaryKey: [],
    rowEstimate: 0,
    columns: Object.entries(types).map(([name, type]) => ({ name, type, databaseType: databaseTypes[type], required: false })),
  },
  'row',
)
const kinds: Record<string, ParameterKind> = { month: 'month', range: 'dates', some: 'choices', day: 'date' }
const parameterList = Object.entries(kinds).map(([name, kind]) => ({ name, kind, label: name, required: false }))
const month = parseDay('2026-02-01')!
const parameters = {
  month: month,
  'range.from': month - 10,
  'range.to': month + 3,
  'range.label': '',
  some: ['Ana', "o'Hara"],
  'some.label': '',
  day: month + 5,
}
const today = parseDay('2026-03-31')!

let db: PGlite
beforeAll(async () => {
  db = await emptyDatabase()
})
afterAll(() => db.close())

const texts = fc.constantFrom('', 'Ana', 'ana', 'Âncora', 'zebra', "o'Hara", '"', 'a\\b', 'Ψαράδες', 'x\ny')
const valueOf: Record<ValueType, fc.Arbitrary<Value>> = {
  number: fc.tuple(fc.integer({ min: -500, max: 500 }), fc.constantFrom(0, 2)).map(([units, scale]) => decimal(units, scale)),
  text: texts,
  date: fc.integer({ min: month - 60, max: month + 70 }),
  moment: fc
    .tuple(fc.integer({ min: month - 60, max: month + 70 }), fc.constantFrom(0n, 1n, 86_399_999_999n, 34_200_000_000n))
    .map(([days, rest]) => BigInt(days) * 86_400_000_000n + rest),
  boolean: fc.boolean(),
}
const constant = (type: ValueType) => valueOf[type].map((value): ClauseValue => ({ is: 'constant', type, value: value as string }))
const clause: fc.Arbitrary<FilterPart> = fc.constantFrom(...Object.keys(types)).chain(field =>
  fc.constantFrom(...testsFor(types[field]!)).chain((test): fc.Arbitrary<FilterPart> => {
    // a date with a time is compared by its day
    const type = types[field] === 'moment' ? 'date' : types[field]!
    const of = (values: fc.Arbitrary<ClauseValue[]>) => values.map((list): FilterPart => ({ is: 'clause', field, test, values: list }))
    switch (test) {
      case 'empty':
      case 'notEmpty':
        return of(fc.constant([]))
      case 'oneOf':
      case 'notOneOf':
        return of(
          type === 'text'
            ? fc.oneof(
                fc.array(constant(type), { minLength: 1, maxLength: 3 }),
                fc.constant<ClauseValue[]>([{ is: 'parameter', name: 'some' }]),
              )
            : fc.array(constant(type), { minLength: 1, maxLength: 3 }),
        )
      case 'between':
        return of(fc.tuple(constant(type), constant(type)))
      case 'within':
        return of(fc.constantFrom<ClauseValue[]>([{ is: 'parameter', name: 'month' }], [{ is: 'parameter', name: 'range' }]))
      case 'lastDays':
      case 'lastMonths':
        return of(
          fc.integer({ min: 1, max: 70 }).map((count): ClauseValue[] => [{ is: 'constant', type: 'number', value: decimal(count, 0) }]),
        )
      default:
        return of(
          fc.oneof(
            fc.tuple(constant(type)),
            fc.constant<ClauseValue[]>([type === 'date' ? { is: 'parameter', name: 'day' } : { is: 'formula', text: field }]),
          ),
        )
    }
  }),
)
const { part } = fc.letrec<{ part: FilterPart; group: FilterPart }>(tie => ({
  part: fc.oneof({ depthSize: 'small' }, clause, tie('group')),
  group: fc
    .tuple(fc.constantFrom<'and' | 'or'>('and', 'or'), fc.boolean(), fc.array(tie('part'), { minLength: 1, maxLength: 3 }))
    .map(([joined, not, parts]): FilterPart => ({ is: 'group', joined, not, parts })),
}))

type Row = Record<string, Value>
const fold = (text: string) =>
  text
    .normalize('NFD')
    .replace(/\p{Diacritic}/gu, '')
    .toLowerCase()

/** What the clauses mean, said a second time and naively. */
function holds(filter: FilterPart, row: Row): boolean {
  if (filter.is === 'group') {
    const all = filter.parts.map(each => holds(each, row))
    return (filter.joined === 'and' ? all.every(Boolean) : all.some(Boolean)) !== filter.not
  }
  if (filter.is !== 'clause') throw new Error('not here')
  const own = row[filter.field]!
  const dayly = (each: Value): Value => (typeof each === 'bigint' ? Math.floor(Number(each / 1000n) / 86_400_000) : each)
  const value = dayly(own)
  const type = types[filter.field] === 'moment' ? 'date' : types[filter.field]!
  const others = filter.values.flatMap((each): Value[] =>
    each.is === 'constant'
      ? [each.value]
      : each.is === 'formula'
        ? [dayly(row[each.text]!)]
        : each.name === 'some'
          ? parameters.some
          : each.name === 'day'
            ? [parameters.day]
            : [],
  )
  const same = (a: Value, b: Value) =>
    a === null || b === null ? a === b : type === 'number' ? compareDecimals(a as Decimal, b as Decimal) === 0 : a === b
  const compare = (b: Value): number =>
    value === null || b === null
      ? NaN
      : type === 'number'
        ? compareDecimals(value as Decimal, b as Decimal)
        : type === 'text'
          ? compareText(value as string, b as string)
          : (value as number) - (b as number)
  const inside = (from: number, to: number) => value !== null && (value as number) >= from && (value as number) <= to
  const tests: Record<ClauseTest, () => boolean> = {
    equal: () => same(value, others[0]!),
    notEqual: () => !same(value, others[0]!),
    oneOf: () => others.some(each => same(value, each)),
    notOneOf: () => !others.some(each => same(value, each)),
    between: () => compare(others[0]!) >= 0 && compare(others[1]!) <= 0,
    atLeast: () => compare(others[0]!) >= 0,
    atMost: () => compare(others[0]!) <= 0,
    more: () => compare(others[0]!) > 0,
    less: () => compare(others[0]!) < 0,
    contains: () => value !== null && others[0] !== null && fold(value as string).includes(fold(others[0] as string)),
    startsWith: () => value !== null && others[0] !== null && fold(value as string).startsWith(fold(others[0] as string)),
    empty: () => value === null,
    notEmpty: () => value !== null,
    within: () =>
      filter.values[0]!.is === 'parameter' && filter.values[0]!.name === 'month'
        ? inside(month, monthEnd(month))
        : inside(month - 10, month + 3),
    lastDays: () => inside(today - Number(decimalText(others[0] as Decimal)) + 1, today),
    lastMonths: () => inside(addMonths(today, -Number(decimalText(others[0] as Decimal))) + 1, today),
  }
  return tests[filter.test]()
}

describe('a filter put together by clicks', () => {
  it('means the same as its formula text, its SQL, and what its words say', async () => {
    const row = fc.record(
      Object.fromEntries(Object.entries(types).map(([name, type]) => [name, fc.option(valueOf[type])])),
    ) as fc.Arbitrary<Row>
    const scope = { levels: [level], level: 0, parameters: parameterTypes(parameterList), filter: true }
    await fc.assert(
      fc.asyncProperty(part, fc.array(row, { minLength: 1, maxLength: 12 }), async (filter, rows) => {
        const expected = rows.map(each => holds(filter, each))
        const text = filterText(filter, kinds)
        const typed = checkFormula(text, scope)
        const columns = Object.fromEntries(
          Object.entries(types).map(([name, type]) => [
            name,
            columnOf(
              type,
              rows.map(each => each[name]!),
            ),
          ]),
        )
        const evaluate = compileFormula(typed, {
          levels: [level],
          data: { levels: [{ count: rows.length, columns, starts: Int32Array.from([0, rows.length]) }] },
          parameters,
          today,
        })
        expect(
          rows.map((_, index) => evaluate({ level: 0, from: index, to: index + 1 })),
          text,
        ).toEqual(expected)
        const again = readFilter(text)
        expect(filterText(again, kinds), 'read back and written again').toBe(filterText(readFilter(filterText(again, kinds)), kinds))
        expect(
          rows.map(each => holds(again, each)),
          'read back',
        ).toEqual(expected)
        const bound = (value: Value) => (value === null ? null : typeof value === 'object' ? decimalText(value) : plainText(value, dayText))
        const values = sql.join(
          rows.map(
            (each, index) =>
              sql`(${index}::int, ${bound(each.n!)}::numeric, ${bound(each.s!)}::text, ${bound(each.d!)}::date,
                ${bound(each.m!)}::timestamp, ${bound(each.y!)}::boolean)`,
          ),
          sql`, `,
        )
        const test = formulaSql(typed, { column: path => sql`r.${sql.identifier(path)}`, parameters, today }, true)
        const { sql: statement, params } = new PgDialect().sqlToQuery(
          sql`select r.i from (values ${values}) as r(i, n, s, d, m, y) where ${test} order by 1`,
        )
        const found = (await db.query<{ i: number }>(statement, params)).rows.map(each => each.i)
        expect(found, statement).toEqual(expected.flatMap((each, index) => (each ? [index] : [])))
      }),
      { numRuns: 150 },
    )
  })

  it.each([
    ['invoice_date between param.month and monthEnd(param.month)', 'Invoice_date is in month'],
    ['invoice_date between periodStart(param.period) and periodEnd(param.period)', 'Invoice_date is in period'],
    ['due between addDays(today(), -29) and today()', 'Due is in the last 30 days'],
    [
      'total > 100 and (kind = "invoice" or not contains(note, "x"))',
      'Total is more than 100 and (Kind is “invoice” or not Note contains “x”)',
    ],
    ['has(lines, kind = "service" and amount > 100)', 'has a record of Lines where (Kind is “service” and Amount is more than 100)'],
    ['not has(lines)', 'has no record of Lines'],
    ['customer.code in ("C-1", "C-2")', 'Customer.code is one of “C-1”, “C-2”'],
    ['due_date = empty', 'Due_date is empty'],
    ['total * 2 > 5', 'total * 2 > 5'],
  ])('%s reads %s', (text, words) => {
    const capital = (name: string) => name[0]!.toUpperCase() + name.slice(1)
    const read = readFilter(text)
    expect(
      filterWords(read, capital, value =>
        value.is === 'parameter'
          ? value.name
          : value.is === 'formula'
            ? value.text
            : value.type === 'text'
              ? `“${String(value.value)}”`
              : decimalText(value.value as Decimal),
      ),
    ).toBe(words)
    expect(readFilter(filterText(read, { month: 'month', period: 'period' }))).toEqual(read)
  })
})
