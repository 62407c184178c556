import { beforeAll, describe, expect, it } from 'vitest'
import { salesInvoice } from '../../../demo/reports/invoice'
import { demoDatabase } from '../../support'
import type { Catalog } from '../../../core/books/catalog'
import { changeBlock, setShowWhen, setText } from '../../../core/definition/edits/edits'
import { setField } from '../../../core/definition/edits/levels'
import type { ReportDefinition } from '../../../core/definition/report'
import { assembleReport, usedFields } from '../../../core/compose/assemble'
import { pageSize } from '../../../core/compose/paperSize'

let catalog: Catalog
beforeAll(async () => {
  ;({ catalog } = await demoDatabase())
})
const prepared = (definition: ReportDefinition) => assembleReport(definition, catalog).layout
const foot = (text: string) => setText(salesInvoice(), { block: 'pageFoot', cell: 'footBranch', part: 'item' }, text)

describe('a layout made ready', () => {
  it('of the demo has no problems, and each document stands by itself', () => {
    expect(prepared(salesInvoice())).toMatchObject({ problems: [], needsAll: false, needsPageCount: false, independent: true })
  })
  it('reads the fields that its texts and rules use, and no other', () => {
    const report = assembleReport(salesInvoice(), catalog)
    const [invoice, lines, taxes] = usedFields(report, false)
    expect([...lines!].sort()).toEqual([
      'amount',
      'description',
      'item.category.name',
      'item.code',
      'item.net_weight',
      'kind',
      'quantity',
      'unit.code',
      'unit_price',
    ])
    expect([...taxes!].sort()).toEqual(['amount', 'base', 'rate', 'tax.name'])
    expect(invoice!.has('note')).toBe(true)
    expect(invoice!.has('tax_total')).toBe(false)
    expect(usedFields(report, true)[0]!.has('tax_total')).toBe(true)
  })
  it.each([
    ['{{ sum(total, over: report) }}', { needsAll: true, independent: false }],
    ['{{ page.overallCount }}', { needsPageCount: true, independent: false }],
    ['{{ page.overall }}', { needsPageCount: false, independent: false }],
    ['{{ page.count }}', { needsPageCount: false, independent: true }],
  ])('%s asks for what it needs', (text, expected) => {
    expect(prepared(foot(text))).toMatchObject(expected)
  })
  it('a block outside the root’s repeat needs all records', () => {
    const definition = salesInvoice()
    definition.layouts[0]!.blocks.push({
      kind: 'panel',
      id: 'last',
      height: 10,
      after: 0,
      items: [{ kind: 'text', id: 't', x: 0, y: 0, width: 200, text: '{{ sum(total) }}' }],
    })
    expect(prepared(definition)).toMatchObject({ problems: [], needsAll: true, independent: false })
  })
  it.each<[string, () => ReportDefinition, object]>([
    [
      'an unknown field',
      () => setText(salesInvoice(), { block: 'heading', cell: 'date', part: 'item' }, 'Date {{ invoice_dat }}'),
      {
        block: 'heading',
        cell: 'date',
        place: 'text',
        sentence: 'There is no field “invoice_dat” here; the nearest is “invoice_date”.',
        from: 8,
        to: 19,
      },
    ],
    [
      'an unreadable pattern',
      () => setText(salesInvoice(), { block: 'totals', cell: 'freight', part: 'item' }, '{{ freight | 0.0.0 }}'),
      {
        block: 'totals',
        cell: 'freight',
        place: 'text',
        sentence: '“0.0.0” is not a number pattern; write it like #,##0.00 or #,##0.00;(#,##0.00).',
        from: 0,
        to: 21,
      },
    ],
    [
      'an unreadable pattern of a field',
      () => setField(salesInvoice(), 'lines.amount', { format: 'abc' }),
      { block: 'lines', cell: 'amount', place: 'text' },
    ],
    [
      'a rule that is no test',
      () => setShowWhen(salesInvoice(), 'note', 'freight'),
      { block: 'note', place: 'showWhen', sentence: 'A rule must be a test, such as discount > 0.' },
    ],
    [
      'a level that is gone',
      () => changeBlock(salesInvoice(), 'taxes', block => ({ ...block, level: 'levies' }) as never),
      {
        block: 'taxes',
        place: 'level',
        sentence: 'The level “levies” of this block is not in the data set; choose another level or delete the block.',
      },
    ],
    [
      'a line’s field on the invoice',
      () => setText(salesInvoice(), { block: 'heading', cell: 'due', part: 'item' }, '{{ lines.amount }}'),
      {
        block: 'heading',
        cell: 'due',
        sentence: '“lines.amount” has many values for one invoice; put it in sum(…), count(…), first(…) or another total.',
      },
    ],
  ])('%s is told at its place', (_, definition, problem) => {
    expect(prepared(definition()).problems).toContainEqual(expect.objectContaining(problem))
  })
})

it('pages have the size of their paper, lying or standing', () => {
  const margins = { top: 0, right: 0, bottom: 0, left: 0 }
  // ISO 216: 210 × 297 mm; ANSI: 8½ × 11 inches
  const { width, height } = pageSize({ size: 'A4', orientation: 'portrait', margins })
  expect([(width / 72) * 25.4, (height / 72) * 25.4].map(Math.round)).toEqual([210, 297])
  expect(pageSize({ size: 'Letter', orientation: 'landscape', margins })).toEqual({ width: 11 * 72, height: 8.5 * 72 })
})
