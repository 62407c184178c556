import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { markedLines, type Run, runStyle, wrapRuns } from './rich'
import { resolveStyle } from './style'
import { textWidth } from './fonts'
import { checkText } from './text'
import { themes } from './themes'

const style = resolveStyle(themes[0]!)
const marks = (text: string) =>
  markedLines(checkText(text, { levels: [], level: -1, parameters: { who: 'text' } }, 'en')).map(line =>
    line.map(({ part, marks: own }) => ['literal' in part ? part.literal : '{value}', own] as const),
  )

describe('marks in a text', () => {
  it.each<[string, unknown]>([
    ['plain', [[['plain', {}]]]],
    [
      'a **b** c',
      [
        [
          ['a ', {}],
          ['b', { bold: true }],
          [' c', {}],
        ],
      ],
    ],
    [
      '*i* and **b *bi* b**',
      [
        [
          ['i', { italic: true }],
          [' and ', {}],
          ['b ', { bold: true }],
          ['bi', { bold: true, italic: true }],
          [' b', { bold: true }],
        ],
      ],
    ],
    ['**{{ param.who }}**', [[['{value}', { bold: true }]]]],
    ['2 * 3 * 4', [[['2 * 3 * 4', {}]]]],
    ['\\*no\\*', [[['*no*', {}]]]],
    [
      'see [our site](https://caisvelho.example/a) now',
      [
        [
          ['see ', {}],
          ['our site', { link: 'https://caisvelho.example/a', colour: '#0f4c5c' }],
          [' now', {}],
        ],
      ],
    ],
    ['[large]{size=14 colour=#a13c31}', [[['large', { size: 14, colour: '#a13c31' }]]]],
    // nothing but web and mail addresses
    [
      '[x](javascript:alert(1))',
      [
        [
          ['x', {}],
          [')', {}],
        ],
      ],
    ],
    ['open ** end', [[['open ** end', {}]]]],
  ])('%s', (text, expected) => {
    expect(marks(text)).toEqual(expected)
  })
  it('wrap within their width, whatever the sizes, and lose no character', () => {
    const run = fc.record({
      text: fc
        .array(fc.constantFrom('rope', ' ', 'Ψαράδες', 'a-b', 'x'.repeat(30)), { minLength: 1, maxLength: 12 })
        .map(words => words.join(' ')),
      marks: fc.constantFrom<Run['marks']>({}, { bold: true }, { size: 14 }, { italic: true, size: 6 }),
    })
    fc.assert(
      fc.property(fc.array(run, { minLength: 1, maxLength: 5 }), fc.integer({ min: 60, max: 300 }), (runs, width) => {
        const lines = wrapRuns(runs, style, width)
        expect(
          lines
            .flat()
            .map(each => each.run.text)
            .join('')
            .replace(/\s+/g, ''),
        ).toBe(
          runs
            .map(each => each.text)
            .join('')
            .replace(/\s+/g, ''),
        )
        for (const line of lines) {
          const wide = line.reduce(
            (sum, each) => sum + textWidth(each.run.text, runStyle(style, each.run.marks).font, runStyle(style, each.run.marks).size),
            0,
          )
          if (line.map(each => each.run.text).join('').length > 1) expect(wide).toBeLessThanOrEqual(width + 0.001)
          line.forEach((each, index) =>
            expect(each.x).toBeCloseTo(
              line.slice(0, index).reduce((sum, before) => sum + before.width, 0),
              6,
            ),
          )
        }
      }),
    )
  })
})
