import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { withoutPictures, withPictures } from './pictures'
import { ordered, type TextError, type TextFiles, textOf, valueOf } from './text'

const text = (value: unknown) => new TextDecoder('utf-8', { ignoreBOM: true }).decode(textOf(value))
/** Texts with all that a format of text finds awkward. */
const awkward = fc.oneof(
  fc.string({ unit: 'grapheme' }),
  fc.string({
    unit: fc.constantFrom(
      '\n',
      '\r',
      '\t',
      ' ',
      '#',
      ':',
      '-',
      '"',
      "'",
      '|',
      '>',
      '&',
      '*',
      '!',
      '%',
      '@',
      '`',
      '{',
      '[',
      ',',
      '~',
      'a',
      '\u0085',
      '\u2028',
      '\ufeff',
      '\u0007',
      'é',
    ),
  }),
  fc.constantFrom(
    'yes',
    'no',
    'null',
    '~',
    'true',
    '1',
    '1.0',
    '0x1F',
    '1e3',
    '2026-10-31',
    '12:30',
    '.5',
    '=',
    '<<',
    '? a',
    '- b',
    ' x ',
    'a: b',
    'file:x',
    'file:=x',
  ),
)
const values = fc.letrec(tie => ({
  value: fc.oneof(
    { maxDepth: 4 },
    awkward,
    fc.integer(),
    fc.double({ noNaN: true, noDefaultInfinity: true }).map(each => each + 0),
    fc.boolean(),
    fc.constant(null),
    fc.array(tie('value'), { maxLength: 5 }),
    fc.dictionary(
      awkward.filter(each => each !== '__proto__'),
      tie('value'),
      { maxKeys: 5, noNullPrototype: true },
    ),
  ),
})).value

describe('a value as text', () => {
  it('comes back as it was, whatever is in it', () => {
    fc.assert(
      fc.property(values, value => {
        expect(valueOf(textOf(value), 'a.yaml')).toEqual(value)
      }),
      { numRuns: 400 },
    )
  })
  it('is the same text whatever order its names came in', () => {
    const turned = (value: unknown): unknown =>
      Array.isArray(value)
        ? value.map(turned)
        : typeof value === 'object' && value !== null
          ? Object.fromEntries(
              Object.entries(value)
                .reverse()
                .map(([name, each]) => [name, turned(each)]),
            )
          : value
    fc.assert(
      fc.property(values, value => {
        expect(text(turned(value))).toBe(text(value))
      }),
      { numRuns: 200 },
    )
    expect(JSON.stringify(ordered({ b: 1, name: 2, a: 3, format: 4 }))).toBe('{"format":4,"name":2,"a":3,"b":1}')
  })
  it('has one thing a line, and texts of several lines as blocks', () => {
    expect(text({ name: 'Sales', filters: ['a = 1', 'b = 2'], sql: 'select a\nfrom b\nwhere c\n' })).toBe(
      'name: Sales\nfilters:\n  - a = 1\n  - b = 2\nsql: |\n  select a\n  from b\n  where c\n',
    )
  })
  it('that somebody has broken says where', () => {
    const fault = (written: string) => {
      try {
        valueOf(new TextEncoder().encode(written), 'reports/a.yaml')
      } catch (error) {
        return (error as TextError).message
      }
      return ''
    }
    expect(fault('name: a\nname: b\n')).toMatch(/^reports\/a\.yaml, line 2: /)
    expect(fault('name: [a\nb: c\n')).toMatch(/^reports\/a\.yaml, line \d: /)
    expect(fault('a: &x 1\nb: *x\n')).toBe('reports/a.yaml repeats parts by reference, which definitions do not; write them out.')
    try {
      valueOf(Uint8Array.of(0xff, 0xfe, 0x41), 'a.yaml')
      expect.unreachable()
    } catch (error) {
      expect((error as Error).message).toBe('a.yaml is no text in UTF-8; save it as such.')
    }
  })
})

describe('pictures in a definition', () => {
  const svg = `<svg viewBox="0 0 10 10"><path d="${'M0 0L9 9'.repeat(20)}" fill="#0f4c5c"/></svg>`
  const png = `data:image/png;base64,${btoa(String.fromCharCode(...Array.from({ length: 120 }, (_, at) => (at * 37) % 256)))}`
  it('lie beside it as what they are, each once, and come back', () => {
    const files: TextFiles = new Map()
    const value = { items: [{ svg }, { svg: png }, { again: svg }, { short: '<svg/>', other: 'file:here', odd: 'file:=there' }] }
    const without = withoutPictures(value, 'p/', files)
    expect([...files.keys()].map(path => path.replace(/[0-9a-f]{16}/, '…'))).toEqual(['p/….svg', 'p/….png'])
    expect(new TextDecoder().decode([...files.values()][0])).toBe(svg)
    expect(JSON.stringify(without)).not.toContain('<path')
    expect(withPictures(without, 'p/', files, 'a.yaml')).toEqual(value)
  })
  it('come back whatever the texts around them say', () => {
    fc.assert(
      fc.property(values, fc.boolean(), (value, more) => {
        const files: TextFiles = new Map()
        const whole = more ? { value, svg } : value
        expect(withPictures(withoutPictures(whole, '', files), '', files, 'a.yaml')).toEqual(whole)
      }),
      { numRuns: 200 },
    )
  })
  it('that are not there are missed by name', () => {
    expect(() => withPictures({ svg: 'file:x.svg' }, 'p/', new Map(), 'a.yaml')).toThrow(
      'a.yaml names the picture x.svg, which is not in p/; put it there.',
    )
  })
})
