import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cellsOf } from '../../../pages'
import type { Catalog } from '../../../../core/books/catalog'
import { columnOf } from '../../../../core/value/columns'
import type { DataRecords } from '../../../../core/value/records'
import {
  setColumnCarry,
  setGroup,
  setTable,
  setTotal,
  setColumn,
  addGroup,
  addRow,
  nestTable,
  putLook,
} from '../../../../core/definition/edits/edits'
import { readDefinition } from '../../../../core/definition/schema'
import { formatVersion, type ReportDefinition } from '../../../../core/definition/report'
import type { TableBlock } from '../../../../core/definition/blocks/table'
import { plainTable } from '../../../../core/definition/upgrade'
import { decimal } from '../../../../core/value/decimal'
import { numberFormat } from '../../../../core/value/numberFormat'
import { assembleReport } from '../../../../core/compose/assemble'
import { Composer } from '../../../../core/compose/flow'
import type { Page } from '../../../../core/compose/page'

const column = (name: string, type: 'number' | 'text' | 'date', scale?: number) => ({
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
      name: 'bills',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [column('id', 'number', 0), column('number', 'text'), column('freight', 'number', 2)],
    },
    {
      schema: 'x',
      name: 'rows',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [
        column('id', 'number', 0),
        column('bill_id', 'number', 0),
        column('kind', 'text'),
        column('label', 'text'),
        column('day', 'date'),
        column('amount', 'number', 2),
      ],
    },
    {
      schema: 'x',
      name: 'parts',
      primaryKey: ['id'],
      rowEstimate: 0,
      columns: [column('id', 'number', 0), column('row_id', 'number', 0), column('word', 'text')],
    },
  ],
  foreignKeys: [
    { name: 'f', from: { table: 'rows', columns: ['bill_id'] }, to: { table: 'bills', columns: ['id'] } },
    { name: 'g', from: { table: 'parts', columns: ['row_id'] }, to: { table: 'rows', columns: ['id'] } },
  ],
}
const table = plainTable('list', 'lines', [
  { id: 'label', title: 'Label', text: '{{ label }}', width: 0 },
  { id: 'kind', title: 'Kind', text: '{{ kind }}', width: 90 },
  { id: 'amount', title: 'Amount', text: '{{ amount }}', end: '{{ sum(amount) }}', width: 80, style: { align: 'right' } },
])
const report: ReportDefinition = {
  format: formatVersion,
  language: 'en',
  parameters: [],
  dataSets: [
    {
      name: 'main',
      source: 's',
      fields: {},
      root: {
        name: 'bill',
        table: 'bills',
        on: [],
        fields: ['number', 'freight'],
        related: [],
        filters: [],
        sort: [],
        details: [
          {
            name: 'lines',
            table: 'rows',
            on: [{ from: 'id', to: 'bill_id' }],
            fields: ['label', 'kind', 'amount'],
            related: [],
            filters: [],
            sort: [],
            details: [
              {
                name: 'parts',
                table: 'parts',
                on: [{ from: 'id', to: 'row_id' }],
                fields: ['word'],
                related: [],
                details: [],
                filters: [],
                sort: [],
              },
            ],
          },
        ],
      },
    },
  ],
  layouts: [
    { name: 'Only', page: { size: 'A5', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } }, blocks: [table] },
  ],
}
interface Line {
  kind: string
  label: string
  amount: number
  parts: string[]
}
interface Bill {
  freight: number
  lines: Line[]
}
function records(bills: readonly Bill[]): DataRecords {
  const lines = bills.flatMap(bill => bill.lines)
  const parts = lines.flatMap(line => line.parts)
  const starts = (lists: readonly { length: number }[]) =>
    Int32Array.from([0, ...lists.map((_, index) => lists.slice(0, index + 1).reduce((sum, list) => sum + list.length, 0))])
  return {
    levels: [
      {
        count: bills.length,
        starts: Int32Array.of(0, bills.length),
        columns: {
          number: columnOf(
            'text',
            bills.map((_, index) => `B${index}`),
          ),
          freight: columnOf(
            'number',
            bills.map(bill => decimal(bill.freight, 2)),
          ),
        },
      },
      {
        count: lines.length,
        starts: starts(bills.map(bill => bill.lines)),
        columns: {
          kind: columnOf(
            'text',
            lines.map(line => line.kind),
          ),
          label: columnOf(
            'text',
            lines.map(line => line.label),
          ),
          amount: columnOf(
            'number',
            lines.map(line => decimal(line.amount, 2)),
          ),
        },
      },
      { count: parts.length, starts: starts(lines.map(line => line.parts)), columns: { word: columnOf('text', parts) } },
    ],
  }
}
function composed(definition: ReportDefinition, bills: readonly Bill[]): { pages: Page[]; composer: Composer } {
  const { tree, layout } = assembleReport(readDefinition(definition), catalog)
  expect(layout.problems).toEqual([])
  const composer = new Composer(layout, { levels: tree.levels, parameters: {}, today: 0, boxes: true })
  return { pages: [...composer.add(records(bills)), ...composer.end()], composer }
}
const line = fc.record({
  kind: fc.constantFrom('item', 'service', 'Ärger', 'zebra'),
  label: fc.constantFrom('rope', 'chain', 'a long name of a thing that wraps over several lines of text, however wide', 'x'),
  amount: fc.integer({ min: -99999, max: 99999 }),
  parts: fc.array(fc.constantFrom('tin', 'brush', 'lid'), { maxLength: 4 }),
})
const bills = fc.array(fc.record({ freight: fc.integer({ min: 0, max: 9999 }), lines: fc.array(line, { maxLength: 25 }) }), {
  minLength: 1,
  maxLength: 5,
})
const print = numberFormat('#,##0.00', 'en')
const money = (cents: number) => print(decimal(cents, 2))
const sum = (list: readonly { amount: number }[]) => list.reduce((all, each) => all + each.amount, 0)
const grouped = setTotal(
  addGroup(
    report,
    'list',
    { id: 'sort', by: 'kind', order: { by: 'name', descending: false }, repeatStart: true },
    { amount: '{{ sum(amount) }}' },
  ),
  'list',
  'kind',
  { kind: 'groupEnd', group: 'sort' },
  '{{ sum(freight) }}',
)
const kindsIn = (lines: readonly Line[]) => [...new Set(lines.map(each => each.kind))].sort(new Intl.Collator('en-u-co-standard').compare)

describe('a table with groups', () => {
  it(
    'prints every line once under its group, with the group’s subtotal, and they add up to the total; header amounts count once ' +
      'per group',
    () => {
      fc.assert(
        fc.property(bills, list => {
          const lines = list.flatMap(bill => bill.lines)
          const { pages } = composed(grouped, list)
          const kinds = kindsIn(lines)
          expect(cellsOf(pages, 'list', 'groupStart_sort', 'label').filter(text => !text.includes('(continued)'))).toEqual(kinds)
          expect(cellsOf(pages, 'list', 'line', 'amount')).toEqual(
            kinds.flatMap(kind => lines.filter(each => each.kind === kind).map(each => money(each.amount))),
          )
          expect(cellsOf(pages, 'list', 'groupEnd_sort', 'amount')).toEqual(
            kinds.map(kind => money(sum(lines.filter(each => each.kind === kind)))),
          )
          // rule 7: the freight of each bill that has a line in the group, once
          expect(cellsOf(pages, 'list', 'groupEnd_sort', 'kind')).toEqual(
            kinds.map(kind =>
              money(list.filter(bill => bill.lines.some(each => each.kind === kind)).reduce((all, bill) => all + bill.freight, 0)),
            ),
          )
          expect(cellsOf(pages, 'list', 'end', 'amount')).toEqual([money(sum(lines))])
        }),
        { numRuns: 40 },
      )
    },
  )
  it('never leaves a group’s start alone at the foot of a page, nor its end alone at the head of one, and repeats the start', () => {
    fc.assert(
      fc.property(bills, list => {
        const { pages } = composed(grouped, list)
        pages.forEach(page => {
          const rows = page.boxes.filter(box => box.block === 'list' && !box.cell)
          expect(rows.at(-1)?.part).not.toBe('groupStart')
          expect(rows.at(-1)?.part === 'titles' && list.some(bill => bill.lines.length)).toBe(false)
          const first = rows.find(box => box.part !== 'titles')
          if (first && list.some(bill => bill.lines.length)) expect(['groupStart', 'line']).toContain(first.part)
          for (const box of rows) expect(box.y + box.height).toBeLessThanOrEqual(page.height - 40 + 0.01)
        })
        // a page that begins within a group begins with that group's start
        pages.slice(1).forEach(page => {
          const rows = page.boxes.filter(box => box.block === 'list' && !box.cell && box.part !== 'titles')
          if (rows.length) expect(rows[0]!.part).toBe('groupStart')
        })
      }),
      { numRuns: 40 },
    )
  })
  it('rule 8: says how many headers stand in more than one group', () => {
    const list: Bill[] = [
      {
        freight: 100,
        lines: [
          { kind: 'item', label: 'a', amount: 1, parts: [] },
          { kind: 'service', label: 'b', amount: 2, parts: [] },
        ],
      },
      { freight: 200, lines: [{ kind: 'item', label: 'c', amount: 3, parts: [] }] },
    ]
    const { composer } = composed(grouped, list)
    expect(
      composer
        .notices()
        .filter(notice => notice.kind === 'split')
        .map(notice => notice.sentence),
    ).toEqual(['1 bill stands in more than one group, so that the groups’ totals of bill add up to more than the total of all.'])
  })
  it('keeps groups together where they fit on a page', () => {
    const kept = setGroup(grouped, 'list', 'sort', { keepTogether: true })
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 12 }), { minLength: 2, maxLength: 6 }), sizes => {
        const list: Bill[] = [
          {
            freight: 0,
            lines: sizes.flatMap((size, index) =>
              Array.from({ length: size }, () => ({ kind: `k${index}`, label: 'x', amount: 1, parts: [] })),
            ),
          },
        ]
        const { pages } = composed(kept, list)
        const starts = pages.flatMap(page => cellsOf([page], 'list', 'groupStart_sort', 'label'))
        expect(starts.filter(text => text.includes('(continued)'))).toEqual([])
        expect(starts).toHaveLength(sizes.length)
      }),
      { numRuns: 30 },
    )
  })
})

describe('rows of a table', () => {
  const kinds: TableBlock = {
    ...table,
    rows: table.rows.flatMap((row): TableBlock['rows'] =>
      row.kind === 'line'
        ? [
            { ...row, id: 'items', when: 'kind = "item"' },
            { ...row, id: 'others', when: 'kind = "zebra"' },
          ]
        : [row],
    ),
  }
  const of = (block: TableBlock): ReportDefinition => ({ ...report, layouts: [{ ...report.layouts[0]!, blocks: [block] }] })
  it('the first line row whose rule holds is printed; what none of them prints still counts, and is told', () => {
    fc.assert(
      fc.property(bills, list => {
        const lines = list.flatMap(bill => bill.lines)
        const { pages, composer } = composed(of(kinds), list)
        expect(cellsOf(pages, 'list', 'items', 'amount')).toEqual(
          lines.filter(each => each.kind === 'item').map(each => money(each.amount)),
        )
        expect(cellsOf(pages, 'list', 'others', 'amount')).toEqual(
          lines.filter(each => each.kind === 'zebra').map(each => money(each.amount)),
        )
        expect(cellsOf(pages, 'list', 'end', 'amount')).toEqual([money(sum(lines))])
        const hidden = lines.filter(each => each.kind !== 'item' && each.kind !== 'zebra')
        const notice = composer.notices().find(each => each.kind === 'hidden')?.sentence ?? ''
        if (hidden.length) expect(notice).toContain(hidden.length === 1 ? '1 line is hidden' : `${hidden.length} lines are hidden`)
        else expect(notice).toBe('')
        if (sum(hidden)) expect(notice).toContain(money(sum(hidden)))
      }),
      { numRuns: 25 },
    )
  })
  it('a nested table and an extra row lose nothing over pages', () => {
    const nested = nestTable(
      addRow(report, 'list', { kind: 'extra', when: 'kind = "item"', cells: { label: { text: 'of {{ label }}' } } }),
      'list',
      plainTable('inner', 'parts', [{ id: 'word', title: 'Part', text: '{{ word }}', width: 0 }], { left: 20 }),
    )
    fc.assert(
      fc.property(bills, list => {
        const lines = list.flatMap(bill => bill.lines)
        const { pages } = composed(nested, list)
        expect(cellsOf(pages, 'inner', 'line', 'word')).toEqual(lines.flatMap(each => each.parts))
        expect(cellsOf(pages, 'list', 'extra', 'label')).toHaveLength(lines.filter(each => each.kind === 'item').length)
        expect(cellsOf(pages, 'list', 'line', 'amount')).toEqual(lines.map(each => money(each.amount)))
        for (const page of pages) {
          const rows = page.boxes.filter(box => !box.cell)
          rows.forEach((box, index) => {
            if (index) expect(box.y).toBeGreaterThanOrEqual(rows[index - 1]!.y + rows[index - 1]!.height - 0.01)
          })
        }
      }),
      { numRuns: 25 },
    )
  })
  it('carried sums of a grouped table are those of the lines printed before, in printed order', () => {
    const carried = setColumnCarry(grouped, 'list', 'amount', true)
    fc.assert(
      fc.property(bills, list => {
        const { pages } = composed(carried, list)
        let before = 0
        pages.forEach((page, index) => {
          const brought = cellsOf([page], 'list', 'brought', 'amount')
          if (index && brought.length) expect(brought).toEqual([money(before)])
          before += cellsOf([page], 'list', 'line', 'amount').reduce(
            (all, text) => all + Math.round(Number(text.replace('−', '-').replaceAll(',', '')) * 100),
            0,
          )
          const forward = cellsOf([page], 'list', 'forward', 'amount')
          if (forward.length) expect(forward).toEqual([money(before)])
        })
      }),
      { numRuns: 25 },
    )
  })
  it('lines take an order of their own, and a repeated value stands once in its group and page', () => {
    const ordered = setTable(report, 'list', {
      sort: [
        { field: 'kind', descending: false },
        { field: 'amount', descending: true },
      ],
    })
    const once = setColumn(ordered, 'list', 'kind', { once: true })
    fc.assert(
      fc.property(bills, list => {
        const lines = list.flatMap(bill => bill.lines)
        const naive = [...lines].sort((a, b) => new Intl.Collator('en-u-co-standard').compare(a.kind, b.kind) || b.amount - a.amount)
        const { pages } = composed(once, list)
        expect(cellsOf(pages, 'list', 'line', 'amount')).toEqual(naive.map(each => money(each.amount)))
        let at = 0
        for (const page of pages) {
          const shown = cellsOf([page], 'list', 'line', 'kind')
          expect(shown).toEqual(
            shown.map((_, index) => (index && naive[at + index]!.kind === naive[at + index - 1]!.kind ? '' : naive[at + index]!.kind)),
          )
          at += shown.length
        }
      }),
      { numRuns: 25 },
    )
  })
  it('a look by rule changes letters and puts its mark where it holds, and nowhere else', () => {
    const looked = putLook(report, 'list', {
      when: 'amount < 0',
      columns: ['amount'],
      style: { colour: '#a13c31' },
      mark: '▼',
      meaning: 'less than nothing',
    })
    const list: Bill[] = [
      {
        freight: 0,
        lines: [
          { kind: 'item', label: 'a', amount: -500, parts: [] },
          { kind: 'item', label: 'b', amount: 500, parts: [] },
        ],
      },
    ]
    const { pages } = composed(setTable(looked, 'list', { legend: true }), list)
    const texts = pages.flatMap(page => page.items).flatMap(item => (item.kind === 'text' ? [item] : []))
    expect(texts.filter(item => item.colour === '#a13c31').map(item => item.text)).toEqual(['▼ −5.00', '▼ less than nothing'])
  })
})

describe('running totals, shares and ranks', () => {
  const worked = {
    ...report,
    layouts: [
      {
        ...report.layouts[0]!,
        blocks: [
          {
            ...table,
            columns: [...table.columns, { id: 'run', width: 60 }, { id: 'rank', width: 40 }, { id: 'share', width: 50 }],
            rows: table.rows.map(row =>
              row.kind === 'line'
                ? {
                    ...row,
                    cells: {
                      ...row.cells,
                      run: { text: '{{ running(amount) }}' },
                      rank: { text: '{{ rank(amount) }}' },
                      share: { text: '{{ sum(amount) / sum(amount, over: sort) | 0.000 }}' },
                    },
                  }
                : row,
            ),
            groups: [{ id: 'sort', by: 'kind', order: { by: 'total' as const, total: 'sum(amount)', descending: true } }],
          },
        ],
      },
    ],
  }
  it('equal a naive loop over the printed lines of each group', () => {
    fc.assert(
      fc.property(bills, list => {
        const lines = list.flatMap(bill => bill.lines)
        const { pages } = composed(worked, list)
        const kinds = [...new Set(lines.map(each => each.kind))]
          .map(kind => ({ kind, own: lines.filter(each => each.kind === kind) }))
          .sort((a, b) => sum(b.own) - sum(a.own) || new Intl.Collator('en-u-co-standard').compare(`=${a.kind}`, `=${b.kind}`))
        const runs = kinds.flatMap(({ own }) => own.map((_, index) => money(sum(own.slice(0, index + 1)))))
        const ranks = kinds.flatMap(({ own }) => own.map(each => String(own.filter(other => other.amount > each.amount).length + 1)))
        const shares = kinds.flatMap(({ own }) =>
          own.map(each =>
            sum(own) === 0
              ? ''
              : numberFormat(
                  '0.000',
                  'en',
                )(decimal(Math.round(Math.abs(each.amount / sum(own)) * 1000 + 1e-7) * Math.sign(each.amount / sum(own)), 3)),
          ),
        )
        expect(cellsOf(pages, 'list', 'line', 'run')).toEqual(runs)
        expect(cellsOf(pages, 'list', 'line', 'rank')).toEqual(ranks)
        expect(cellsOf(pages, 'list', 'line', 'share')).toEqual(shares)
      }),
      { numRuns: 25 },
    )
  })
})

it('a number too wide for its column is written smaller, not broken, and the column is told with what would mend it', () => {
  const narrow: ReportDefinition = {
    ...report,
    layouts: [
      {
        ...report.layouts[0]!,
        blocks: [{ ...table, columns: table.columns.map(each => (each.id === 'amount' ? { ...each, width: 38 } : each)) }],
      },
    ],
  }
  const list: Bill[] = [
    {
      freight: 0,
      lines: [
        { kind: 'item', label: 'a', amount: 12_345_678, parts: [] },
        { kind: 'item', label: 'b', amount: 500, parts: [] },
      ],
    },
  ]
  const { pages, composer } = composed(narrow, list)
  expect(cellsOf(pages, 'list', 'line', 'amount')).toEqual(['123,456.78', '5.00'])
  const sizes = pages
    .flatMap(page => page.items)
    .flatMap(item => (item.kind === 'text' && /^(123,456\.78|5\.00)$/.test(item.text) ? [item.size] : []))
  expect(sizes[0]).toBeLessThan(sizes[1]!)
  const notice = composer.notices().find(each => each.kind === 'narrow')!
  expect(notice.sentence).toBe('The column “Amount” is too narrow for 1 value.')
  const widen = notice.remedies.find(each => each.label === 'Widen it')!
  const mended = {
    ...narrow,
    layouts: [
      {
        ...narrow.layouts[0]!,
        blocks: [
          { ...table, columns: table.columns.map(each => (each.id === 'amount' ? { ...each, width: widen.args[2] as number } : each)) },
        ],
      },
    ],
  }
  expect(
    composed(mended, list)
      .composer.notices()
      .filter(each => each.kind === 'narrow' && each.row === 'line'),
  ).toEqual([])
})

it('a cell’s text with marks is written in stretches of their own looks, one after the other, and its links lead where they say', () => {
  const marked: ReportDefinition = {
    ...report,
    layouts: [
      {
        ...report.layouts[0]!,
        blocks: [
          {
            ...table,
            rows: table.rows.map(row =>
              row.kind === 'line'
                ? {
                    ...row,
                    cells: {
                      ...row.cells,
                      label: { text: 'a **bold {{ label }}** [site](https://caisvelho.example)', style: { marks: true } },
                    },
                  }
                : row,
            ),
          },
        ],
      },
    ],
  }
  const { pages } = composed(marked, [{ freight: 0, lines: [{ kind: 'item', label: '**rope**', amount: 1, parts: [] }] }])
  const texts = pages[0]!.items.flatMap(item => (item.kind === 'text' && /^(a |bold |\*\*rope\*\*|site)/.test(item.text) ? [item] : []))
  // the value’s own asterisks are characters
  expect(texts.map(item => [item.text, item.font])).toEqual([
    ['a ', 'sans'],
    ['bold ', 'sansBold'],
    ['**rope**', 'sansBold'],
    ['site', 'sans'],
  ])
  expect(texts.map(item => item.x)).toEqual([...texts.map(item => item.x)].sort((a, b) => a - b))
  expect(new Set(texts.map(item => item.y)).size).toBe(1)
  expect(pages[0]!.items.filter(item => item.kind === 'link')).toMatchObject([{ href: 'https://caisvelho.example', x: texts[3]!.x }])
})
