import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { salesInvoice } from '../../../demo/reports/invoice'
import * as edits from '../../../core/definition/edits/edits'
import { DefinitionError, parseDefinition, readDefinition } from '../../../core/definition/schema'
import type { ReportDefinition } from '../../../core/definition/report'

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
    [
      'a newer format',
      broken(report => (report.format = 7 as never)),
      'This definition has format 7, which is newer than this program reads (2); bring Estante up to date to open it.',
    ],
    ['no object', [], 'This is not a report definition; it must be a JSON object with a format.'],
    [
      'a missing part',
      broken(report => delete (report as Partial<ReportDefinition>).layouts),
      'The definition has a fault: layouts is a required field.',
    ],
    ['an unknown block', broken(report => ((report.layouts[0]!.blocks[0] as { kind: string }).kind = 'spinner')), 'kind must be one of'],
    [
      'a colour that is none',
      broken(report => ((report.layouts[0]!.top!.items[1] as { style: { colour: string } }).style.colour = 'url(x)')),
      'must be a colour like #0f4c5c',
    ],
    [
      'two blocks of one id',
      broken(report => (report.layouts[0]!.foot!.id = 'lines')),
      'Two blocks of the definition have the id “lines”; each needs its own.',
    ],
    ['a member nobody knows', broken(report => ((report as unknown as { extra: number }).extra = 1)), 'extra'],
  ])('is refused with a sentence: %s', (_, value, sentence) => {
    expect(() => readDefinition(value)).toThrow(DefinitionError)
    expect(() => readDefinition(value)).toThrow(sentence)
  })
  it('says where a file stops being JSON', () => {
    expect(() => parseDefinition('{"format": 1, oops')).toThrow(
      /^The file is not readable JSON \(from character \d+ on\); nothing was imported\.$/,
    )
  })
})

it('a definition of the first format becomes one of the newest, with the rows that its columns spoke of', () => {
  const old = {
    format: 1,
    language: 'en',
    parameters: [],
    dataSets: salesInvoice().dataSets,
    layouts: [
      {
        name: 'Standard',
        page: { size: 'A4', orientation: 'portrait', margins: { top: 1, right: 1, bottom: 1, left: 1 } },
        blocks: [
          {
            kind: 'repeat',
            id: 'r',
            level: 'invoice',
            newPage: true,
            restartNumbers: true,
            after: 0,
            blocks: [
              {
                kind: 'table',
                id: 't',
                level: 'lines',
                left: 0,
                width: 0,
                repeatTitles: true,
                end: true,
                after: 3,
                carried: { forward: 'On', brought: 'From' },
                columns: [
                  { id: 'a', title: 'A', text: '{{ description }}', end: 'Sum', carry: false, width: 0 },
                  {
                    id: 'b',
                    title: 'B',
                    text: '{{ amount | 0.00 }}',
                    end: '{{ sum(amount) }}',
                    carry: true,
                    width: 60,
                    style: { align: 'right' },
                  },
                ],
              },
            ],
          },
        ],
      },
    ],
  }
  const report = readDefinition(old)
  const table = edits.findBlock(report, 't') as unknown as {
    columns: unknown
    rows: { kind: string; cells: Record<string, { text: string }> }[]
  }
  expect(report.format).toBe(2)
  expect(table.columns).toEqual([
    { id: 'a', width: 0 },
    { id: 'b', width: 60, style: { align: 'right' } },
  ])
  expect(table.rows.map(row => [row.kind, row.cells.a?.text, row.cells.b?.text])).toEqual([
    ['titles', 'A', 'B'],
    ['line', '{{ description }}', '{{ amount | 0.00 }}'],
    ['end', 'Sum', '{{ sum(amount) }}'],
    ['forward', 'On', '{{ carried(amount) | 0.00 }}'],
    ['brought', 'From', '{{ carried(amount) | 0.00 }}'],
  ])
  // once brought up to date it stays as it is
  expect(readDefinition(JSON.parse(JSON.stringify(report)))).toEqual(report)
})

describe('edits', () => {
  const table = 'lines'
  const column = fc.constantFrom('item', 'description', 'amount', 'none')
  const item = fc.constantFrom('date', 'customerName', 'none')
  const edit = fc.oneof(
    fc.tuple(column, fc.string({ maxLength: 8 })).map(
      ([cell, text]) =>
        (report: ReportDefinition) =>
          edits.setText(report, { block: table, cell, part: 'line' }, text),
    ),
    fc.tuple(column, fc.integer({ min: 0, max: 300 })).map(
      ([cell, width]) =>
        (report: ReportDefinition) =>
          edits.setColumnWidth(report, table, cell, width),
    ),
    column.map(cell => (report: ReportDefinition) => edits.removeColumn(report, table, cell)),
    fc
      .integer({ min: 0, max: 9 })
      .map(
        index => (report: ReportDefinition) => edits.insertColumn(report, table, index, { title: 'T', text: '{{ amount }}', width: 50 }),
      ),
    column.map(cell => (report: ReportDefinition) => edits.moveColumn(report, table, cell, 1)),
    fc.tuple(item, fc.integer(), fc.integer()).map(
      ([cell, x, y]) =>
        (report: ReportDefinition) =>
          edits.moveItem(report, 'heading', cell, x % 500, y % 500),
    ),
    item.map(cell => (report: ReportDefinition) => edits.removeItem(report, 'heading', cell)),
    fc.constant((report: ReportDefinition) => edits.addTextItem(report, 'heading', 5, 5, 'new')),
    fc.constantFrom('taxes', 'note', 'pageFoot').map(block => (report: ReportDefinition) => edits.removeBlock(report, block)),
    fc.constant((report: ReportDefinition) => edits.setPage(report, { orientation: 'landscape' })),
    fc.boolean().map(on => (report: ReportDefinition) => edits.tickField(report, 'lines', 'item', 'name', on)),
    fc.constantFrom('total > 5', '').map(clause => (report: ReportDefinition) => edits.setFilter(report, 'invoice', 1, clause)),
    fc.constantFrom('0.0', '').map(format => (report: ReportDefinition) => edits.setField(report, 'lines.amount', { format })),
    fc.constant((report: ReportDefinition) =>
      edits.addDetail(report, 'invoice', {
        name: 'applications',
        caption: 'Applications',
        table: 'applications',
        on: [{ from: 'id', to: 'invoice_id' }],
        fields: [],
      }),
    ),
    fc.constant((report: ReportDefinition) => edits.removeDetail(report, 'applications')),
    // the sheet's edits: rows, groups, totals, looks, blocks, layouts
    fc
      .constantFrom('kind', 'item.category.name')
      .map(
        by => (report: ReportDefinition) =>
          edits.addGroup(report, table, { by, order: { by: 'name', descending: false } }, { amount: '{{ sum(amount) }}' }),
      ),
    fc.tuple(fc.constantFrom('kind', 'category', 'kind2'), fc.boolean()).map(
      ([id, on]) =>
        (report: ReportDefinition) =>
          edits.setGroup(report, table, id, { newPage: on, top: on ? { count: 3, total: 'sum(amount)', others: 'Others' } : undefined }),
    ),
    fc.constantFrom('kind', 'category').map(id => (report: ReportDefinition) => edits.removeGroup(report, table, id)),
    fc.constantFrom('kind', 'category').map(id => (report: ReportDefinition) => edits.moveGroup(report, table, id, 0)),
    fc.tuple(column, fc.constantFrom('', '{{ count(amount) }}')).map(
      ([cell, text]) =>
        (report: ReportDefinition) =>
          edits.setTotal(report, table, cell, { kind: 'end' }, text),
    ),
    fc.constant((report: ReportDefinition) => edits.addRow(report, table, { kind: 'extra', cells: { description: { text: 'more' } } })),
    fc.constantFrom('extra', 'details', 'end', 'titles').map(row => (report: ReportDefinition) => edits.removeRow(report, table, row)),
    fc.constant((report: ReportDefinition) =>
      edits.putLook(report, table, { when: 'amount < 0', columns: [], style: { bold: true }, meaning: 'less' }),
    ),
    fc.constant((report: ReportDefinition) => edits.removeLook(report, table, 'look1')),
    fc.tuple(column, fc.boolean()).map(
      ([cell, on]) =>
        (report: ReportDefinition) =>
          edits.setColumnCarry(report, table, cell, on),
    ),
    fc
      .constantFrom('heading', 'taxes', 'lines', 'invoices')
      .map(block => (report: ReportDefinition) => edits.duplicateBlock(report, block)),
    fc.tuple(fc.constantFrom('heading', 'taxes', 'invoices'), fc.constantFrom('lines', 'totals', 'heading')).map(
      ([block, beside]) =>
        (report: ReportDefinition) =>
          edits.moveBlock(report, block, beside, 'after'),
    ),
    fc.constantFrom('taxes', 'note').map(block => (report: ReportDefinition) => edits.wrapInRepeat(report, block, 'invoice')),
    fc.constantFrom('each_invoice', 'invoices').map(block => (report: ReportDefinition) => edits.unwrapRepeat(report, block)),
    fc.constant((report: ReportDefinition) => edits.copyLayout(report, 'Standard', 'Standard copy')),
    fc.constantFrom('Standard', 'Standard copy').map(name => (report: ReportDefinition) => edits.removeLayout(report, name)),
    fc.constantFrom('ruled', undefined).map(theme => (report: ReportDefinition) => edits.setLayout(report, 'Standard', { theme })),
    fc.constant((report: ReportDefinition) => edits.alignItems(report, 'heading', ['date', 'due', 'terms'], 'spreadDown')),
  )
  it('leave the definition they start from as it was, and always give one that can be stored', () => {
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 25 }), steps => {
        const history = [salesInvoice()]
        const written = [JSON.stringify(history[0])]
        for (const step of steps) {
          history.push(step(history.at(-1)!))
          written.push(JSON.stringify(history.at(-1)))
        }
        // undoing is going back in the history: every earlier value is still exactly what it was
        expect(history.map(each => JSON.stringify(each))).toEqual(written)
        expect(() => readDefinition(JSON.parse(written.at(-1)!))).not.toThrow()
      }),
    )
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
