import { stringify } from 'csv-stringify/sync'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DelimitedFault, DelimitedReader, likelySeparator } from './delimited'

/** The rows of a text that comes in the given pieces. */
function read(pieces: readonly string[], separator = ','): { rows: string[][]; lines: number[] } {
  const rows: string[][] = []
  const lines: number[] = []
  const reader = new DelimitedReader(separator, (cells, line) => {
    rows.push(cells)
    lines.push(line)
  })
  pieces.forEach(piece => reader.push(piece))
  reader.end()
  return { rows, lines }
}
/** A text cut at given places. */
const cut = (text: string, places: readonly number[]) => {
  const at = [0, ...[...places].map(each => each % (text.length + 1)).sort((a, b) => a - b), text.length]
  return at.slice(1).map((end, index) => text.slice(at[index]!, end))
}
const cell = fc
  .array(fc.constantFrom('a', 'é', '€', '"', ',', ';', '\t', '\n', '\r\n', ' ', '1', '.', '😀'), { maxLength: 6 })
  .map(each => each.join(''))

describe('separated values', () => {
  it('written by a library are read as they were, wherever the pieces end', () => {
    fc.assert(
      fc.property(
        fc
          .integer({ min: 1, max: 5 })
          .chain(width => fc.array(fc.array(cell, { minLength: width, maxLength: width }), { minLength: 1, maxLength: 6 })),
        fc.constantFrom(',', ';', '\t', '|'),
        fc.constantFrom('\n', '\r\n'),
        fc.array(fc.nat(), { maxLength: 8 }),
        fc.boolean(),
        (table, separator, end, places, quoted) => {
          // a row of one empty cell is an empty line, which is no row: the library quotes it
          const text = stringify(table, { delimiter: separator, record_delimiter: end, quoted, quoted_empty: true, quoted_match: /[\r\n]/ })
          expect(read(cut(text, places), separator).rows).toEqual(table)
        },
      ),
      { numRuns: 2000 },
    )
  })
  it('keep quotes inside a cell, rows of other lengths, any line ends, and the line on which each row begins', () => {
    expect(read(['a,b"c"d,"e ""f"" g"\r"h\ni",j\n\nk\r\n"l"m,n'])).toEqual({
      rows: [['a', 'b"c"d', 'e "f" g'], ['h\ni', 'j'], [''], ['k'], ['lm', 'n']],
      lines: [1, 2, 4, 5, 6],
    })
  })
  it('a quote that is never closed is told with its line', () => {
    expect(() => read(['a,b\nc,"d\ne,f\n'])).toThrow(
      new DelimitedFault('A quote that opens on line 2 is never closed; close it there, or double it where it belongs to the text.'),
    )
  })
  it('more cells than any table has are told with their line', () => {
    expect(() => read([`a,b\n${','.repeat(6000)}\n`])).toThrow(/^Line 2 has more than 5,000 cells/)
  })
  it.each([
    ['name;amount\nA;1,5\nB;2,5\n', ';'],
    ['name,amount\n"A; or B",1\nC,2\n', ','],
    ['name\tamount, net\nA\t1\n', '\t'],
    ['a|b|c\n1|2|3\n', '|'],
    ['only one column\nwith, commas\nhere and there\n', ','],
  ])('the separator of %j is found', (text, separator) => {
    expect(likelySeparator(text)).toBe(separator)
  })
})
