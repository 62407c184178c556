import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayText, parseDay } from '../value/date'
import type { ColumnForm } from './cells'
import { converted } from './convert'
import { isRow, namesFor, type ProposedTable, Understanding } from './understand'

function understand(rows: readonly (readonly string[])[], said: { titles?: boolean } = {}): ProposedTable {
  const understanding = new Understanding(said)
  rows.forEach((cells, at) => understanding.row([...cells], at + 1))
  return understanding.result()
}
const formsOf = (table: ProposedTable) =>
  table.columns.map(each =>
    each.form.type === 'number' ? `number ${each.form.decimal}` : each.form.type === 'date' ? `date ${each.form.order}` : each.form.type,
  )

describe('what a table holds', () => {
  it('titles, types, decimals and empty words', () => {
    const table = understand([
      ['Invoice No', 'Dated', 'Amount', 'Paid', 'Post code', 'Remark'],
      ['A-1', '2026-01-31', '1,234.50', 'yes', '01234', 'n/a'],
      ['A-2', '2026-02-28', 'n/a', 'no', '20095', ''],
      ['A-3', '', '-7.125', '', '', 'paid'],
    ])
    expect(formsOf(table)).toEqual(['text', 'date ymd', 'number .', 'boolean', 'text', 'text'])
    expect(table.columns.map(each => each.name)).toEqual(['invoice_no', 'dated', 'amount', 'paid', 'post_code', 'remark'])
    expect(table.columns[2]).toMatchObject({ scale: 3, digits: 4, empty: 1 })
    expect(table.columns[4]!.notes).toEqual(['Its numbers lead with zeros, so it stays a text.'])
    expect(table.columns[5]!.empty).toBe(1)
    expect(table).toMatchObject({ rows: 3, after: 1, notes: [] })
  })
  it('lines above the titles, titles among the rows, and rows of other lengths are told', () => {
    const table = understand([
      ['Stock list'],
      ['printed 3 March', ''],
      ['Code', 'Count'],
      ['A', '1'],
      ['B', '2'],
      ['Code', 'Count'],
      ['C', '3', 'x'],
    ])
    expect(table.notes).toEqual([
      '2 lines above the table are left out.',
      'The titles stand 1 time more among the rows; those rows are left out.',
      '1 row has not 2 cells (line 7 has 3).',
    ])
    expect(table.rows).toBe(3)
    expect([1, 3, 4, 6].map(line => isRow(table, line === 6 ? ['Code', 'Count'] : ['A', '1'], line))).toEqual([false, false, true, false])
  })
  it('a table without titles has numbered columns', () => {
    const table = understand([
      ['A', '1'],
      ['B', '2'],
    ])
    expect(table).toMatchObject({ rows: 2, after: 0 })
    expect(table.columns.map(each => each.name)).toEqual(['column_1', 'column_2'])
  })
  it('what can be read two ways follows the columns that can be read one way', () => {
    const european = understand([
      ['a', 'b', 'c', 'd'],
      ['1.234', '1,5', '03/04/2026', '31/12/2025'],
    ])
    expect(formsOf(european)).toEqual(['number ,', 'number ,', 'date dmy', 'date dmy'])
    const american = understand([
      ['a', 'b', 'c', 'd'],
      ['1,234', '1.5', '03/04/2026', '12/31/2025'],
    ])
    expect(formsOf(american)).toEqual(['number .', 'number .', 'date mdy', 'date mdy'])
    const open = understand([
      ['a', 'b'],
      ['1.234', '03/04/2026'],
    ])
    expect(open.columns.map(each => each.notes.length)).toEqual([1, 1])
  })
  it('one cell that does not fit keeps a column a text, and is told with its line', () => {
    const table = understand([['n'], ...Array.from({ length: 30 }, (_, at) => [at === 17 ? 'about 5' : String(at)])])
    expect(formsOf(table)).toEqual(['text'])
    expect(table.columns[0]!.notes).toEqual(['One of its cells is no number (line 19: “about 5”), so it stays a text.'])
  })
  it('whatever values a column has, what is understood gives them back', () => {
    const value = {
      number: fc.tuple(fc.bigInt({ min: -(10n ** 30n), max: 10n ** 30n }), fc.nat(6)).map(([units, scale]) => {
        const digits = (units < 0n ? -units : units).toString().padStart(scale + 1, '0')
        const text = scale ? `${digits.slice(0, -scale)}.${digits.slice(-scale)}` : digits
        return units < 0n ? `-${text}` : text
      }),
      date: fc.integer({ min: -50_000, max: 90_000 }).map(day => dayText(day)),
      boolean: fc.constantFrom('t', 'f'),
    }
    const written: Record<string, (text: string) => string> = {
      'number .': text => text,
      'number ,': text => text.replace('.', ','),
      'date ymd': text => text,
      'date dmy': text => text.split('-').reverse().join('.'),
      boolean: text => (text === 't' ? 'yes' : 'no'),
    }
    fc.assert(
      fc.property(
        fc
          .constantFrom('number .', 'number ,', 'date ymd', 'date dmy', 'boolean')
          .chain(form =>
            fc.tuple(fc.constant(form), fc.array(fc.option(value[form.split(' ')[0] as 'number']), { minLength: 1, maxLength: 80 })),
          ),
        ([form, values]) => {
          const table = understand([['A title'], ...values.map(each => [each === null ? 'N/A' : written[form]!(each)])], { titles: true })
          const own = table.columns[0]!.form
          const given = values.map(each => converted(each === null ? 'N/A' : written[form]!(each), own))
          // a column with nothing in it is a text; dates of which none has a day beyond 12 may be read either way
          if (values.every(each => each === null)) return
          if (own.type === 'date' && own.order === 'mdy') return
          expect(given).toEqual(values.map(each => (each === null ? null : own.type === 'date' ? dayText(parseDay(each)!) : each)))
          const column = table.columns[0]!
          if (own.type === 'number') {
            const decimals = values.map(each => (each?.includes('.') ? each.split('.')[1]!.length : 0))
            expect(column.scale).toBe(Math.max(...decimals))
          }
        },
      ),
      { numRuns: 500 },
    )
  })
  it('names are words of the database, each another', () => {
    expect(namesFor(['Kunden-Nr.', 'Name', 'name', 'Größe (m²)', '', '2024', 'CustomerID', '___'])).toEqual([
      'kunden_nr',
      'name',
      'name_2',
      'grosse_m',
      'column_5',
      '_2024',
      'customer_id',
      'column_8',
    ])
  })
})

it('a cell that does not fit its form is none', () => {
  const number: ColumnForm = { type: 'number', decimal: '.' }
  expect([
    converted('007', number),
    converted('1,5', number),
    converted('', number),
    converted('', { type: 'text' }),
    converted('-', { type: 'text' }),
  ]).toEqual([undefined, undefined, null, null, '-'])
})
