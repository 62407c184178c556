import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { salesInvoice } from '../../demo/report'
import * as edits from './edits'
import { DefinitionError, parseDefinition, readDefinition } from './schema'
import type { ReportDefinition } from './types'

describe('a definition that comes in', () => {
  it('is taken as it is when it is right, and survives being written and read', () => {
    expect(readDefinition(salesInvoice())).toEqual(salesInvoice())
    expect(parseDefinition(JSON.stringify(salesInvoice()))).toEqual(salesInvoice())
  })
  const broken = (change: (report: Record<string, never> & ReportDefinition) => unknown) => {
    const copy = structuredClone(salesInvoice()) as Record<string, never> & ReportDefinition
    change(copy)
    return copy
  }
  it.each<[string, unknown, string]>([
    ['a newer format', broken(report => report.format = 7 as never), 'This definition has format 7, which is newer than this program reads (2); bring Estante up to date to open it.'],
    ['no object', [], 'This is not a report definition; it must be a JSON object with a format.'],
    ['a missing part', broken(report => delete (report as Partial<ReportDefinition>).layouts), 'The definition has a fault: layouts is a required field.'],
    ['an unknown block', broken(report => (report.layouts[0]!.blocks[0] as { kind: string }).kind = 'spinner'), 'kind must be one of'],
    ['a colour that is none', broken(report => (report.layouts[0]!.top!.items[1] as { style: { colour: string } }).style.colour = 'url(x)'), 'must be a colour like #0f4c5c'],
    ['two blocks of one id', broken(report => report.layouts[0]!.foot!.id = 'lines'), 'Two blocks of the definition have the id “lines”; each needs its own.'],
    ['a member nobody knows', broken(report => (report as unknown as { extra: number }).extra = 1), 'extra'],
  ])('is refused with a sentence: %s', (_, value, sentence) => {
    expect(() => readDefinition(value)).toThrow(DefinitionError)
    expect(() => readDefinition(value)).toThrow(sentence)
  })
  it('says where a file stops being JSON', () => {
    expect(() => parseDefinition('{"format": 1, oops')).toThrow(/^The file is not readable JSON \(from character \d+ on\); nothing was imported\.$/)
  })
})

describe('edits', () => {
  const table = 'lines'
  const column = fc.constantFrom('item', 'description', 'amount', 'none')
  const item = fc.constantFrom('date', 'customerName', 'none')
  const edit = fc.oneof(
    fc.tuple(column, fc.string({ maxLength: 8 })).map(([cell, text]) => (report: ReportDefinition) => edits.setText(report, { block: table, cell, part: 'line' }, text)),
    fc.tuple(column, fc.integer({ min: 0, max: 300 })).map(([cell, width]) => (report: ReportDefinition) => edits.setColumnWidth(report, table, cell, width)),
    column.map(cell => (report: ReportDefinition) => edits.removeColumn(report, table, cell)),
    fc.integer({ min: 0, max: 9 }).map(index => (report: ReportDefinition) => edits.insertColumn(report, table, index, { title: 'T', text: '{{ amount }}', width: 50 })),
    column.map(cell => (report: ReportDefinition) => edits.moveColumn(report, table, cell, 1)),
    fc.tuple(item, fc.integer(), fc.integer()).map(([cell, x, y]) => (report: ReportDefinition) => edits.moveItem(report, 'heading', cell, x % 500, y % 500)),
    item.map(cell => (report: ReportDefinition) => edits.removeItem(report, 'heading', cell)),
    fc.constant((report: ReportDefinition) => edits.addTextItem(report, 'heading', 5, 5, 'new')),
    fc.constantFrom('taxes', 'note', 'pageFoot').map(block => (report: ReportDefinition) => edits.removeBlock(report, block)),
    fc.constant((report: ReportDefinition) => edits.setPage(report, { orientation: 'landscape' })),
    fc.boolean().map(on => (report: ReportDefinition) => edits.tickField(report, 'lines', 'item', 'name', on)),
    fc.constantFrom('total > 5', '').map(clause => (report: ReportDefinition) => edits.setFilter(report, 'invoice', 1, clause)),
    fc.constantFrom('0.0', '').map(format => (report: ReportDefinition) => edits.setField(report, 'lines.amount', { format })),
    fc.constant((report: ReportDefinition) => edits.addDetail(report, 'invoice', { name: 'applications', caption: 'Applications', table: 'applications', on: [{ from: 'id', to: 'invoice_id' }], fields: [] })),
    fc.constant((report: ReportDefinition) => edits.removeDetail(report, 'applications')),
  )
  it('leave the definition they start from as it was, and always give one that can be stored', () => {
    fc.assert(fc.property(fc.array(edit, { maxLength: 25 }), (steps) => {
      const history = [salesInvoice()]
      const written = [JSON.stringify(history[0])]
      for (const step of steps) {
        history.push(step(history.at(-1)!))
        written.push(JSON.stringify(history.at(-1)))
      }
      // undoing is going back in the history: every earlier value is still exactly what it was
      expect(history.map(each => JSON.stringify(each))).toEqual(written)
      expect(() => readDefinition(JSON.parse(written.at(-1)!))).not.toThrow()
    }))
  })
  it('an edit that finds nothing gives the same definition back', () => {
    const report = salesInvoice()
    expect(edits.setText(report, { block: 'nowhere', cell: 'x', part: 'line' }, 'x')).toBe(report)
    expect(edits.removeBlock(report, 'nowhere')).toBe(report)
  })
  it('share what they do not touch', () => {
    const report = salesInvoice()
    const next = edits.setColumnWidth(report, 'lines', 'amount', 99)
    expect(next.dataSets).toBe(report.dataSets)
    expect(next.layouts[0]!.top).toBe(report.layouts[0]!.top)
    expect(edits.findBlock(next, 'taxes')).toBe(edits.findBlock(report, 'taxes'))
  })
  it('a table keeps its last column', () => {
    let report = salesInvoice()
    for (const cell of ['item', 'description', 'quantity', 'unit', 'price', 'amount']) report = edits.removeColumn(report, 'lines', cell)
    expect((edits.findBlock(report, 'lines') as { columns: unknown[] }).columns.length).toBe(1)
  })
})
