import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareText } from './text'

const collator = new Intl.Collator('en-u-co-standard')
/** The rule as it is written: the collation, then code points. */
function asWritten(a: string, b: string): number {
  const order = collator.compare(a, b)
  if (order) return order
  const [x, y] = [Array.from(a), Array.from(b)]
  const at = x.findIndex((char, index) => char !== y[index])
  if (at < 0) return x.length - y.length
  return y[at] === undefined ? 1 : x[at]!.codePointAt(0)! - y[at].codePointAt(0)!
}
const ascii = Array.from({ length: 128 }, (_, code) => String.fromCharCode(code))
const awkward = ['\u0301', '\u0327', '\u00b7', '\u00ad', 'é', 'Ø', 'ß', 'l\u00b7', 'ñ', '½', '\u2212', '😀', 'ǆ']

describe('order of text', () => {
  it('of any two or three plain characters is that of the collation', () => {
    const wrong: string[] = []
    const check = (a: string, b: string) => {
      if (Math.sign(compareText(a, b)) !== Math.sign(asWritten(a, b))) wrong.push(`${JSON.stringify(a)} ${JSON.stringify(b)}`)
    }
    for (const a of ascii)
      for (const b of ascii) {
        check(a, b)
        check(`a${a}`, `A${b}`)
        check(`${a}x`, b)
        check(`${a}${b}`, `${b}${a}`)
        check(`${a}B`, `${b}b`)
      }
    expect(wrong).toEqual([])
  })
  it('of any texts too, whatever follows a plain letter', () => {
    const char = fc.oneof({ weight: 5, arbitrary: fc.constantFrom(...ascii) }, { weight: 1, arbitrary: fc.constantFrom(...awkward) })
    const text = fc.array(char, { maxLength: 6 }).map(chars => chars.join(''))
    fc.assert(
      fc.property(text, text, fc.nat(3), (a, b, shared) => {
        const [x, y] = [a.slice(0, shared) + a, a.slice(0, shared) + b]
        expect(Math.sign(compareText(x, y))).toBe(Math.sign(asWritten(x, y)))
        expect(Math.sign(compareText(x, y))).toBe(-Math.sign(compareText(y, x)) || 0)
      }),
      { numRuns: 20_000 },
    )
  })
})
