import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { FieldInfo } from '../formula/typed'
import { columnWidths } from './columnWidths'
import { PictureError, readPath, readSvg } from './svgShapes'
import { singleValue, textParts } from '../value/textParts'
import { defaultPattern } from './text'

describe('text with values in it', () => {
  it('is cut into its parts and nothing is lost', () => {
    const literal = fc.string({ maxLength: 12 }).filter(text => !/[{}]/.test(text))
    const value = fc.record({
      formula: fc.constantFrom('amount', 'a + b', 'if(x, "}}", "|")', '`odd | name`'),
      pattern: fc.option(fc.constantFrom('#,##0.00', 'd MMM y')),
    })
    fc.assert(
      fc.property(fc.array(fc.oneof(literal, value), { maxLength: 6 }), pieces => {
        const source = pieces
          .map(piece => (typeof piece === 'string' ? piece : `{{ ${piece.formula}${piece.pattern ? ` | ${piece.pattern}` : ''} }}`))
          .join('')
        const parts = textParts(source)
        expect(parts.map(part => ('literal' in part ? part.literal : source.slice(part.from, part.to))).join('')).toBe(source)
        const values = pieces.filter(piece => typeof piece !== 'string')
        expect(parts.flatMap(part => ('formula' in part ? [part.formula] : []))).toEqual(values.map(each => each.formula))
        for (const part of parts) if ('formula' in part) expect(source.slice(part.formulaFrom).startsWith(part.formula)).toBe(true)
      }),
    )
  })
  it('a text that is one value is known as such', () => {
    expect(singleValue(' {{ amount | 0.0 }} ')).toMatchObject({ formula: 'amount', pattern: '0.0' })
    expect(singleValue('{{ a }} {{ b }}')).toBeUndefined()
    expect(singleValue('plain')).toBeUndefined()
  })
  it('keys and numbers that are names print without groups, money with its digits', () => {
    const field = (role: FieldInfo['role'], scale: number) => ({ role, scale }) as FieldInfo
    expect(defaultPattern('number', field('key', 0))).toBe('0')
    expect(defaultPattern('number', field('key', 6))).toBe('0.######')
    expect(defaultPattern('number', field('measure', 2))).toBe('#,##0.00')
    expect(defaultPattern('number', field('measure', 0))).toBe('#,##0')
    expect(defaultPattern('number', field('measure', 4))).toBe('#,##0.00##')
    expect(defaultPattern('number', { role: 'measure', type: 'number' } as FieldInfo)).toBe('#,##0.00')
    expect(defaultPattern('text')).toBeUndefined()
  })
})

describe('column widths', () => {
  const column = (width: number) => ({ id: 'x', title: '', text: '', end: '', carry: false, width })
  it('always fill the table, and keep fixed widths where there is room', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.constant(0), fc.integer({ min: 16, max: 300 })), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 320, max: 800 }),
        (widths, table) => {
          const found = columnWidths(widths.map(column), table)
          expect(found.reduce((sum, width) => sum + width, 0)).toBeCloseTo(table, 6)
          for (const width of found) expect(width).toBeGreaterThan(0)
          const fixed = widths.reduce((sum, width) => sum + width, 0)
          const stretching = widths.filter(width => width === 0).length
          if (stretching && fixed + stretching * 24 <= table) widths.forEach((width, index) => width && expect(found[index]).toBe(width))
        },
      ),
    )
  })
})

describe('pictures', () => {
  it('keep only filled outlines: nothing that could run, load or link survives', () => {
    const picture = readSvg(
      '<svg viewBox="10 20 100 50" onload="alert(1)"><script>alert(2)</script><style>@import url(http://x)</style><image ' +
        'href="http://x/y.png"/><a href="javascript:1"><rect width="5" height="5"/></a><g fill="#0f4c5c"><rect x="10" y="20" width="30" ' +
        'height="10"/><circle cx="50" cy="40" r="5" fill="#e07a3f"/></g><text>hello</text></svg>',
    )
    expect([picture.width, picture.height]).toEqual([100, 50])
    expect(picture.shapes.map(shape => shape.fill)).toEqual(['#0f4c5c', '#e07a3f'])
    expect(picture.shapes[0]!.path).toEqual([['M', 0, 0], ['L', 30, 0], ['L', 30, 10], ['L', 0, 10], ['Z']])
    expect(JSON.stringify(picture)).not.toMatch(/http|alert|script/)
  })
  it('relative and absolute paths mean the same', () => {
    expect(readPath('m10 10h5v5l-5 0z')).toEqual(readPath('M10,10 H15 V15 L10 15 Z'))
    expect(readPath('M0 0q5 10 10 0t10 0')).toEqual(readPath('M0 0Q5 10 10 0T20 0'))
    expect(readPath('M0 0c1 2 3 4 5 6s7 8 9 10')).toEqual(readPath('M0 0C1 2 3 4 5 6S12 14 14 16'))
    expect(readPath('M1 1 2 2 3 3')).toEqual([
      ['M', 1, 1],
      ['L', 2, 2],
      ['L', 3, 3],
    ])
  })
  it('a curve of two keeps to its ends and to its middle', () => {
    const [, curve] = readPath('M0 0Q50 100 100 0') as [unknown, ['C', number, number, number, number, number, number]]
    const [, ax, ay, bx, by, x, y] = curve
    const middle = (p0: number, a: number, b: number, p1: number) => (p0 + 3 * a + 3 * b + p1) / 8
    expect([x, y]).toEqual([100, 0])
    expect(middle(0, ax, bx, 100)).toBeCloseTo(50)
    expect(middle(0, ay, by, 0)).toBeCloseTo(50)
  })
  it('an arc keeps to its circle, goes the way round that it says, and ends where it says', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.integer({ min: 0, max: 359 }),
        fc.integer({ min: 1, max: 359 }),
        (radius, from, turn) => {
          const at = (degrees: number) => [radius * Math.cos((degrees * Math.PI) / 180), radius * Math.sin((degrees * Math.PI) / 180)]
          const [[x0, y0], [x1, y1]] = [at(from), at(from + turn)] as [[number, number], [number, number]]
          const [start, ...curves] = readPath(`M${x0} ${y0}A${radius} ${radius} 0 ${turn > 180 ? 1 : 0} 1 ${x1} ${y1}`)
          expect(start).toEqual(['M', x0, y0])
          let [x, y] = [x0, y0]
          let turned = 0
          for (const step of curves) {
            const [kind, ax, ay, bx, by, ex, ey] = step as ['C', number, number, number, number, number, number]
            expect(kind).toBe('C')
            for (const t of [0.25, 0.5, 0.75, 1]) {
              const along = (p0: number, a: number, b: number, p1: number) =>
                (1 - t) ** 3 * p0 + 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t ** 2 * b + t ** 3 * p1
              expect(Math.hypot(along(x, ax, bx, ex), along(y, ay, by, ey)) / radius).toBeCloseTo(1, 3)
            }
            turned += ((Math.atan2(x * ey - y * ex, x * ex + y * ey) * 180) / Math.PI + 360) % 360
            ;[x, y] = [ex, ey]
          }
          expect([x, y].map(value => value / radius)).toEqual([expect.closeTo(x1 / radius, 6), expect.closeTo(y1 / radius, 6)])
          expect(turned).toBeCloseTo(turn, 3)
        },
      ),
    )
  })
  it.each([
    ['plain text', 'The picture is not an SVG file.'],
    ['<svg><rect width="1" height="1"/></svg>', 'The picture has no size; give its svg element a viewBox.'],
    [
      '<svg viewBox="0 0 1 1"><rect width="1" height="1" fill="url(#a)"/></svg>',
      'The colour “url(#a)” in the picture cannot be used; write it like #0f4c5c.',
    ],
    [
      '<svg viewBox="0 0 1 1"><path d="M0 0L1"/></svg>',
      'The path “M0 0L1” of the picture cannot be read; save the picture anew as plain SVG.',
    ],
    [
      '<svg viewBox="0 0 1 1"><path d="M0 0A1 1 0 2 1 2 2"/></svg>',
      'The path “M0 0A1 1 0 2 1 2 2” of the picture cannot be read; save the picture anew as plain SVG.',
    ],
  ])('refuses %s with a sentence', (source, sentence) => {
    expect(() => readSvg(source)).toThrow(new PictureError(sentence))
  })
})
