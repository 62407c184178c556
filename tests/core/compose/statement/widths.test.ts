import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { StatementColumn } from '../../../../core/definition/blocks/statement'
import { decimal } from '../../../../core/value/decimal'
import { numberFormat } from '../../../../core/value/numberFormat'
import { textWidth } from '../../../../core/compose/fonts'
import { type DraftRow, fitColumns, wideRemedies } from '../../../../core/compose/statement/widths'
import { statementNamed } from '../../../../core/definition/edits/statement'
import { statement } from '../../../../demo/reports/statements'
import { themes } from '../../../../core/compose/themes'

const theme = themes[0]!
const pattern = '#,##0.00'
const print = numberFormat(pattern, 'en')
const columns = (count: number) =>
  Array.from({ length: count }, (_, index) => ({
    id: `c${index}`,
    column: { id: `c${index}`, kind: 'activity', width: 0 } as StatementColumn,
  }))
const row = (caption: string, values: number[]): DraftRow => ({
  id: caption,
  kind: 'line',
  caption,
  indent: 0,
  figures: values.map(value => ({ value: decimal(value, 2), pattern })),
})

it('gives each column what its figures need, and writes all smaller by one factor where they do not fit', () => {
  fc.assert(
    fc.property(
      fc
        .array(fc.array(fc.integer({ min: 0, max: 10_000_000_000 }), { minLength: 3, maxLength: 20 }), { minLength: 1, maxLength: 5 })
        .filter(rows => rows.every(each => each.length === rows[0]!.length)),
      fc.integer({ min: 300, max: 900 }),
      (rows, width) => {
        const own = columns(rows[0]!.length)
        const { definitions, factor } = fitColumns(
          rows.map((values, index) => row(`Line ${index}`, values)),
          own,
          own.map(() => 'Oct 2026'),
          theme,
          width,
          value => print(value),
        )
        const total = definitions.slice(1).reduce((sum, each) => sum + each.width, 0)
        const needed = (index: number) =>
          Math.max(...rows.map(values => textWidth(print(decimal(values[index]!, 2)), 'sans', theme.body.size!))) * factor +
          2 * theme.padding.x
        definitions.slice(1).forEach((each, index) => expect(each.width).toBeGreaterThanOrEqual(needed(index)))
        expect(factor).toBeGreaterThanOrEqual(0.6)
        expect(factor).toBeLessThanOrEqual(1)
        // as long as it is not at its smallest, captions have their room too (each column is rounded up to a whole point)
        if (factor > 0.6)
          expect(width - total + own.length).toBeGreaterThanOrEqual(Math.min(170, textWidth('Line 0', 'sans', theme.body.size!)) * factor)
      },
    ),
  )
})
it('keeps widths that were set, and sizes as they are where all fits', () => {
  const [wide, narrow] = columns(2)
  const { definitions, factor } = fitColumns(
    [row('Sales', [123456, 1])],
    [{ ...wide!, column: { ...wide!.column, width: 120 } }, narrow!],
    ['A', 'B'],
    theme,
    500,
    value => print(value),
  )
  expect([factor, definitions[0]!.width, definitions[1]!.width]).toEqual([1, 0, 120])
})
it('proposes to turn the page, then a larger one, and fewer digits', () => {
  const block = statementNamed(statement('income'), 'statement')!
  expect(wideRemedies(block, { orientation: 'portrait', size: 'A4' }).map(each => each.label)).toEqual(['Turn the page', 'In thousands'])
  expect(
    wideRemedies({ ...block, scale: 'thousands', decimals: 0 }, { orientation: 'landscape', size: 'A4' }).map(each => each.label),
  ).toEqual(['A3 page'])
})
