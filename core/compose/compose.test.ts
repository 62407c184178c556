import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fontData } from '../../scripts/fonts.mjs'
import type { Catalog } from '../books/catalog'
import { setText } from '../definition/edits/edits'
import { formatVersion, type ReportDefinition } from '../definition/report'
import { plainTable } from '../definition/upgrade'
import { columnOf } from '../value/columns'
import type { DataRecords } from '../value/records'
import type { Value } from '../value/value'
import { decimal } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import { assembleReport } from './assemble'
import { Composer } from './flow'
import committed from './fontData.json'
import { fontNames, textWidth } from './fonts'
import type { Page } from './page'
import { wrapText } from './wrap'

const column = (name: string, type: 'number' | 'text', scale?: number) => ({
  name,
  type,
  databaseType: type,
  required: false,
  ...(scale === undefined ? {} : { scale }),
})
const catalog: Catalog = {
  tables: [
    {
      schema: 'x',
      name: 'heads',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [column('id', 'number', 0), column('number', 'text'), column('note', 'text')],
    },
    {
      schema: 'x',
      name: 'rows',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [column('id', 'number', 0), column('head_id', 'number', 0), column('label', 'text'), column('amount', 'number', 2)],
    },
  ],
  foreignKeys: [{ name: 'f', from: { table: 'rows', columns: ['head_id'] }, to: { table: 'heads', columns: ['id'] } }],
}
const definition: ReportDefinition = {
  format: formatVersion,
  language: 'en',
  parameters: [],
  dataSets: [
    {
      name: 'main',
      source: 's',
      fields: {},
      root: {
        name: 'head',
        table: 'heads',
        on: [],
        fields: ['number'],
        related: [],
        filters: [],
        sort: [],
        details: [
          {
            name: 'lines',
            table: 'rows',
            on: [{ from: 'id', to: 'head_id' }],
            fields: ['label', 'amount'],
            related: [],
            details: [],
            filters: [],
            sort: [],
          },
        ],
      },
    },
  ],
  layouts: [
    {
      name: 'Only',
      page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } },
      top: {
        kind: 'panel',
        id: 'top',
        height: 20,
        after: 10,
        items: [{ kind: 'text', id: 'page', x: 0, y: 0, width: 200, text: '{{ number }} page {{ page.number }} of {{ page.count }}' }],
      },
      blocks: [
        {
          kind: 'repeat',
          id: 'each',
          level: 'head',
          newPage: true,
          restartNumbers: true,
          after: 0,
          blocks: [
            {
              kind: 'panel',
              id: 'note',
              height: 10,
              after: 8,
              items: [{ kind: 'text', id: 'noteText', x: 0, y: 0, width: 300, text: '{{ note }}' }],
            },
            plainTable(
              'table',
              'lines',
              [
                { id: 'label', title: 'Label', text: '{{ label }}', end: 'Total', width: 0 },
                {
                  id: 'amount',
                  title: 'Amount',
                  text: '{{ amount }}',
                  end: '{{ sum(amount) }}',
                  carry: true,
                  width: 90,
                  style: { align: 'right' },
                },
              ],
              { after: 10, carried: { forward: 'Carried', brought: 'Brought' } },
            ),
          ],
        },
      ],
    },
  ],
}

interface Head {
  note: string | null
  lines: { label: string; amount: number | null }[]
}
function records(heads: readonly Head[], before = 0): DataRecords {
  const lines = heads.flatMap(head => head.lines)
  const starts = Int32Array.from([
    0,
    ...heads.map((_, index) => heads.slice(0, index + 1).reduce((sum, head) => sum + head.lines.length, 0)),
  ])
  const money = (cents: number | null): Value => (cents === null ? null : decimal(cents, 2))
  return {
    levels: [
      {
        count: heads.length,
        starts: Int32Array.of(0, heads.length),
        columns: {
          id: columnOf(
            'number',
            heads.map((_, index) => decimal(index)),
          ),
          number: columnOf(
            'text',
            heads.map((_, index) => `H${before + index}`),
          ),
          note: columnOf(
            'text',
            heads.map(head => head.note),
          ),
        },
      },
      {
        count: lines.length,
        starts,
        columns: {
          label: columnOf(
            'text',
            lines.map(line => line.label),
          ),
          amount: columnOf(
            'number',
            lines.map(line => money(line.amount)),
          ),
        },
      },
    ],
  }
}
function pagesOf(heads: readonly Head[], report = definition, chunks = 1): Page[] {
  const { tree, layout } = assembleReport(report, catalog)
  const composer = new Composer(layout, { levels: tree.levels, parameters: {}, today: 0, boxes: true })
  const size = Math.ceil(heads.length / chunks)
  const pages: Page[] = []
  for (let from = 0; from < heads.length; from += size) pages.push(...composer.add(records(heads.slice(from, from + size), from)))
  return [...pages, ...composer.end()]
}
/** Texts of a table's row part, by page, read from what is drawn inside the boxes. */
function cells(page: Page, part: string, cell: string): string[] {
  return page.boxes
    .filter(box => box.part === part && box.cell === cell)
    .map(box =>
      page.items
        .filter(
          item =>
            item.kind === 'text' && item.y > box.y && item.y <= box.y + box.height && item.x >= box.x - 0.01 && item.x <= box.x + box.width,
        )
        .map(item => (item.kind === 'text' ? item.text : ''))
        .join('\n'),
    )
}

const word = fc.constantFrom('rope', 'chain', 'a', 'antifouling paint', 'übergroß', 'Ψαράδες', 'x'.repeat(90), '<b>&', 'two\nlines')
const label = fc.array(word, { minLength: 1, maxLength: 30 }).map(words => words.join(' '))
const head = fc.record({
  note: fc.option(label),
  lines: fc.array(fc.record({ label, amount: fc.option(fc.integer({ min: -999999, max: 999999 })) }), { maxLength: 90 }),
})
const squeeze = (text: string) => text.replace(/\s+/g, '')
const print = numberFormat('#,##0.00', 'en')

describe('breaking pages', () => {
  it('loses no line and repeats none, stays inside the page, and carries what has been added up', () => {
    fc.assert(
      fc.property(fc.array(head, { minLength: 1, maxLength: 5 }), fc.integer({ min: 1, max: 3 }), (heads, chunks) => {
        const pages = pagesOf(heads, definition, chunks)
        heads.forEach((each, index) => {
          const own = pages.filter(page => page.items.some(item => item.kind === 'text' && item.text.startsWith(`H${index} page`)))
          // every line's text once, in order, however it wraps or breaks
          expect(squeeze(own.flatMap(page => cells(page, 'line', 'label')).join(''))).toBe(
            squeeze(each.lines.map(line => line.label).join('')),
          )
          expect(own.flatMap(page => cells(page, 'line', 'amount')).filter(Boolean)).toEqual(
            each.lines.flatMap(line => (line.amount === null ? [] : [print(decimal(line.amount, 2))])),
          )
          expect(
            squeeze(
              own
                .flatMap(page =>
                  page.items
                    .filter(
                      item =>
                        item.kind === 'text' &&
                        page.boxes.some(box => box.cell === 'noteText' && item.y > box.y && item.y <= box.y + box.height),
                    )
                    .map(item => (item as { text: string }).text),
                )
                .join(''),
            ),
          ).toBe(squeeze(each.note ?? ''))
          // the total, once, on the page of the last line
          const sum = each.lines.reduce((all, line) => all + (line.amount ?? 0), 0)
          expect(own.flatMap(page => cells(page, 'end', 'amount'))).toEqual([print(decimal(sum, 2))])
          if (each.lines.length) expect(cells(own.at(-1)!, 'line', 'amount').length).toBeGreaterThan(0)
          // page x of y
          own.forEach((page, at) =>
            expect(page.items.some(item => item.kind === 'text' && item.text === `H${index} page ${at + 1} of ${own.length}`)).toBe(true),
          )
          // carried = brought = a naive sum of the amounts printed before
          let printed = 0
          own.forEach((page, at) => {
            const brought = cells(page, 'brought', 'amount')
            if (at && brought.length) expect(brought).toEqual([print(decimal(printed, 2))])
            const rows = page.boxes.filter(box => box.part === 'line' && box.cell === 'amount').map(box => box.row)
            for (const row of rows)
              if (
                !own
                  .slice(0, at)
                  .some(earlier => earlier.boxes.some(box => box.part === 'line' && box.cell === 'amount' && box.row === row))
              )
                printed += row < 0 ? 0 : amountOf(heads, index, row, chunks)
            const forward = cells(page, 'forward', 'amount')
            if (forward.length) expect(forward).toEqual([print(decimal(printed, 2))])
          })
          for (const page of own) {
            for (const item of page.items) if (item.kind === 'text' && item.text) expect(item.y).toBeLessThanOrEqual(page.height - 40)
            // titles stand above the lines on each page that has lines
            if (cells(page, 'line', 'amount').length) expect(cells(page, 'titles', 'amount')).toEqual(['Amount'])
          }
        })
      }),
      { numRuns: 60 },
    )
  })

  it('a row taller than a page breaks between its lines of text', () => {
    const long = Array.from({ length: 1500 }, (_, index) => `word${index}`).join(' ')
    const pages = pagesOf([
      {
        note: null,
        lines: [
          { label: 'first', amount: 100 },
          { label: long, amount: 200 },
          { label: 'last', amount: 300 },
        ],
      },
    ])
    expect(pages.length).toBeGreaterThan(2)
    expect(squeeze(pages.flatMap(page => cells(page, 'line', 'label')).join(''))).toBe(squeeze(`first${long}last`))
    expect(pages.flatMap(page => cells(page, 'end', 'amount'))).toEqual(['6.00'])
  })

  it('a document without lines still has its titles and its total', () => {
    const [page] = pagesOf([{ note: 'alone', lines: [] }])
    expect([...cells(page!, 'titles', 'label'), ...cells(page!, 'end', 'amount')]).toEqual(['Label', '0.00'])
  })

  it('no records give no pages', () => {
    expect(pagesOf([])).toEqual([])
  })

  it('a block hidden by a rule leaves no gap', () => {
    const hidden = {
      ...definition,
      layouts: [
        {
          ...definition.layouts[0]!,
          blocks: definition.layouts[0]!.blocks.map(block =>
            block.kind === 'repeat'
              ? { ...block, blocks: block.blocks.map(each => (each.id === 'note' ? { ...each, showWhen: 'note != empty' } : each)) }
              : block,
          ),
        },
      ],
    } as ReportDefinition
    const [without] = pagesOf([{ note: null, lines: [{ label: 'x', amount: 1 }] }], hidden)
    const titles = without!.boxes.find(box => box.part === 'titles')!
    expect(titles.y).toBe(without!.boxes.find(box => box.block === 'top' && box.part === 'block')!.y + 30)
  })
})

function amountOf(heads: readonly Head[], index: number, row: number, chunks: number): number {
  // rows of a detail level count within their chunk
  const size = Math.ceil(heads.length / chunks)
  const start = Math.floor(index / size) * size
  return heads.slice(start, start + size).flatMap(head => head.lines)[row]?.amount ?? 0
}

describe('text', () => {
  it('is measured with the widths of the fonts that are embedded', () => {
    expect(committed).toEqual(JSON.parse(JSON.stringify(fontData())))
    expect(fontNames.length).toBe(6)
  })
  it('wraps within its width and keeps every character', () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 300, unit: fc.constantFrom('a', 'b ', ' ', 'é', '-', '/', 'Ψ', '😀', 'long') }),
        fc.integer({ min: 30, max: 300 }),
        (text, width) => {
          const lines = wrapText(text, 'sans', 9, width)
          expect(squeeze(lines.join(''))).toBe(squeeze(text))
          for (const line of lines) if (Array.from(line).length > 1) expect(textWidth(line, 'sans', 9)).toBeLessThanOrEqual(width + 0.001)
        },
      ),
    )
  })
  it('a line whose values are all empty is left out', () => {
    const address = setText(definition, { block: 'note', cell: 'noteText', part: 'item' }, 'To\n{{ note }}\n{{ number }} {{ note }}\nend')
    const [page] = pagesOf([{ note: null, lines: [] }], address)
    const texts = page!.items.flatMap(item => (item.kind === 'text' && item.y < 110 ? [item.text] : []))
    expect(texts.slice(1, 4)).toEqual(['To', 'H0 ', 'end'])
  })
})

it('a faulty text stands as it is written, with a sentence, and the rest of the page is printed', () => {
  const faulty = setText(definition, { block: 'table', cell: 'amount', part: 'line' }, '{{ amont }}')
  const { layout } = assembleReport(faulty, catalog)
  expect(layout.problems).toEqual(
    expect.arrayContaining([
      {
        block: 'table',
        row: 'line',
        cell: 'amount',
        place: 'text',
        sentence: 'There is no field “amont” here; the nearest is “amount”.',
        from: 3,
        to: 8,
      },
    ]),
  )
  const [page] = pagesOf([{ note: null, lines: [{ label: 'x', amount: 1 }] }], faulty)
  expect(cells(page!, 'line', 'amount')).toEqual(['{{ amont }}'])
})

it('markup is text like any other', () => {
  const [page] = pagesOf([{ note: '<script>alert(1)</script> {{ number }}', lines: [] }])
  expect(page!.items.some(item => item.kind === 'text' && item.text === '<script>alert(1)</script> {{ number }}')).toBe(true)
})
