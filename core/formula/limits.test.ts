import Decimal from 'decimal.js'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { numberFormat, PatternError } from '../value/numberFormat'
import { round, decimal, decimalText } from '../value/decimal'
import { singleValue, textParts } from '../value/textParts'
import { checkFormula } from './check'
import { FormulaError } from './syntax'

const Exact = Decimal.clone({ precision: 60 })
const check = (text: string) => checkFormula(text, { levels: [], level: -1, parameters: { month: 'date' } })

it.each([
  ['too deep', `${'not '.repeat(1200)}true`, 'lies more than 300 deep'],
  ['too long', `1 + ${'1'.repeat(30_000)}`, 'has more than 20,000 letters'],
  ['a parameter that every object has', 'param.toString', 'There is no parameter “toString”'],
  ['another', 'param.__proto__', 'There is no parameter “__proto__”'],
  ['a function that every object has', 'hasOwnProperty(1)', 'There is no function “hasOwnProperty”'],
])('%s is refused with a sentence', (_, text, sentence) => {
  expect(() => check(text)).toThrow(FormulaError)
  expect(() => check(text)).toThrow(sentence)
})

it('a text is cut into its parts in one go, however its quotes stand, and its parts are all of it', () => {
  const piece = fc.constantFrom('{{', '}}', '"', '\\', '`', '|', 'a', ' ', '"a"', '\n', '{', '}')
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 60 }), pieces => {
      const text = pieces.join('')
      const told = textParts(text).map(part => ('literal' in part ? part.literal : text.slice(part.from, part.to)))
      expect(told.join('')).toBe(text)
    }),
    { numRuns: 500 },
  )
  // what went back and forth for ever
  for (const text of [
    `{{${'"a"'.repeat(4000)}`,
    '{{"'.repeat(6000),
    `{{ ${' '.repeat(20_000)} x`,
    '{{`'.repeat(6000),
    '{{ a | '.repeat(4000),
  ])
    expect(textParts(text).length).toBeGreaterThan(0)
  expect(singleValue('{{ if(a = "}}", 1, 2) | 0.0 }}')).toMatchObject({ formula: 'if(a = "}}", 1, 2)', pattern: '0.0' })
})

it('a pattern is read in one go, and its negative part has the minus of the language', () => {
  for (const pattern of ["'".repeat(51), ';'.repeat(5000), "''".repeat(4000), `${'#'.repeat(5000)}`])
    expect(() => numberFormat(pattern, 'en')).toThrow(PatternError)
  expect(numberFormat('0.0 %;-0.0 %', 'en')(decimal(-7, 3))).toBe('−0.7 %')
  expect(numberFormat("'#'0;'('0')'", 'en')(decimal(-7))).toBe('(7)')
})

it('rounding to any place comes to an end, and to what it is', () => {
  fc.assert(
    fc.property(
      fc.bigInt({ min: -(10n ** 20n), max: 10n ** 20n }),
      fc.integer({ min: 0, max: 8 }),
      fc.integer({ min: -40, max: 12 }),
      (units, scale, places) => {
        const found = new Exact(decimalText(round(decimal(units, scale), places)))
        const exact = new Exact(decimalText(decimal(units, scale)))
        const step = new Exact(10).pow(-places)
        expect(found.div(step).isInteger() || places > scale).toBe(true)
        expect(found.sub(exact).abs().mul(2).lte(step)).toBe(true)
      },
    ),
  )
  expect(decimalText(round(decimal(15, 1), -15_000_000))).toBe('0')
  expect(decimalText(round(decimal(6), -1))).toBe('10')
})
