import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { copyRow, converted } from './convert'
import type { Cell } from './cells'
import { DelimitedReader } from './delimited'
import { PlainRows } from './plainRows'
import { isRow, Understanding } from './understand'

const titles = ['Name', 'Whole', 'Amount', 'Day', 'At', 'Paid', 'Note']
/** Rows as most are: after so many, nothing else is looked for in a column. */
const usual = Array.from(
  { length: 1300 },
  (_, at) =>
    `O-${at},${at},${at % 90}.25,2026-03-${String((at % 28) + 1).padStart(2, '0')},2026-03-01 10:${String(at % 60).padStart(2, '0')}:00,` +
    `${at % 2 ? 'yes' : 'no'},"rope, ${at} mm"`,
)
/** A cell as a file may write it, in quotes where it must be or may be. */
const quoted = (cell: string, always: boolean) => (always || /[",\n\r]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)
const odd = fc.constantFrom(
  ...[
    '',
    ' ',
    '-',
    'n/a',
    'N',
    '–',
    'null',
    '007',
    '0',
    '0.5',
    '-0.0',
    '1.',
    '.5',
    '-',
    '--1',
    '1,5',
    '1.234',
    '12345678901234567890',
    '1e5',
    '+3',
  ],
  ...[
    '2026-02-29',
    '2024-02-29',
    '2026-13-01',
    '2026-1-1',
    '31.12.2026',
    '2026-03-01 24:00:00',
    '2026-03-01 09:30:59',
    '2026-03-01T10:00:00',
  ],
  ...[
    'yes',
    'No',
    'TRUE',
    'f',
    'maybe',
    'Total',
    'total 2026',
    'grand total',
    'Sum',
    'stone',
    'Name',
    'Namen',
    'É',
    '\u00a0',
    'a\tb',
    'back\\slash',
  ],
  ...[
    'say "so"',
    '"',
    '""',
    'two\nlines',
    'cr\rlf',
    'ü'.repeat(30),
    '😀',
    'a\u0000b',
    'tab\t',
    '#n/a',
    '(blank)',
    '\\n',
    '\\N',
    'x'.repeat(200),
  ],
)
const row = fc.tuple(
  fc.array(fc.oneof({ weight: 14, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary: odd }), { minLength: 7, maxLength: 7 }),
  fc.boolean(),
  fc.constantFrom(7, 7, 7, 7, 7, 6, 8),
  fc.constantFrom('\n', '\n', '\r\n'),
  fc.nat(1299),
)
const file = (rows: readonly [(string | undefined)[], boolean, number, string, number][]) =>
  rows.map(([cells, always, length, end, at]) => {
    const usually = new Array<string>()
    new DelimitedReader(',', own => usually.push(...own)).push(`${usual[at]!}\n`)
    const own = Array.from({ length }, (_, place) => quoted(cells[place] ?? usually[place] ?? 'more', always))
    return own.join(',') + end
  })

/** Rows read one by one, or by their bytes where that can be: what goes to the database, and what was understood. */
function read(lines: readonly string[], byBytes: boolean) {
  const understanding = new Understanding()
  const out: string[] = []
  let said: ReturnType<Understanding['result']> | undefined
  const reader = new DelimitedReader(',', (cells: Cell[], line) => {
    understanding.row(cells, line)
    if (said && isRow(said, cells, line))
      out.push(copyRow([String(line), ...said.columns.map(({ form }, at) => converted(cells[at] ?? '', form) ?? null)]))
  })
  reader.push(`${titles.join(',')}\n${usual.join('\n')}\n`)
  const first = (said = understanding.result())
  const plain = new PlainRows({
    tallies: understanding.counts!,
    columns: first.columns.map(each => ({ ...each, digits: 15 })),
    titles: first.titles,
    separator: ',',
    counted: count => understanding.counted(count),
    rows: bytes => out.push(...new TextDecoder().decode(bytes).split(/(?<=\n)/)),
  })
  let taken = 0
  for (const written of lines.join('').split(/(?<=\n)/)) {
    const bytes = new TextEncoder().encode(written)
    const end = bytes.length - (written.endsWith('\r\n') ? 2 : 1)
    if (byBytes && written.endsWith('\n') && reader.between && plain.take(bytes, 0, end, reader.next)) {
      reader.pass()
      taken++
      // so that what is counted comes in the order of the rows
      plain.flush()
    } else reader.push(written)
  }
  reader.end()
  return { out, result: understanding.result(), types: first.columns.map(each => each.form.type), taken }
}

describe('rows that are taken by their bytes', () => {
  it('are, row by row and as they are understood, what reading them one by one gives', () => {
    let taken = 0
    fc.assert(
      fc.property(fc.array(row, { maxLength: 30 }), rows => {
        const lines = file(rows)
        let own: ReturnType<typeof read>
        try {
          own = read(lines, false)
        } catch (error) {
          expect(() => read(lines, true)).toThrow((error as Error).message)
          return
        }
        expect(own.types).toEqual(['text', 'number', 'number', 'date', 'moment', 'boolean', 'text'])
        const other = read(lines, true)
        taken += other.taken
        expect(other.out).toEqual(own.out)
        expect(other.result).toEqual(own.result)
      }),
      { numRuns: 300 },
    )
    expect(taken).toBeGreaterThan(300)
  })

  it('are all of those that are written as most are', () => {
    expect(
      read(
        usual.map(each => `${each}\n`),
        true,
      ).taken,
    ).toBe(usual.length)
  })
})
