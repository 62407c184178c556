import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { statement } from '../../../../demo/reports/statements'
import { columnName } from '../../../../core/statement/columns'
import { footnotesOf, withFootnotes } from '../../../../core/definition/edits/footnotes'
import { readDefinition } from '../../../../core/definition/schema'
import {
  addLine,
  addStatementColumn,
  moveLine,
  moveStatementColumn,
  removeStatementColumn,
  setLine,
  setStatement,
  setStatementText,
  statementNamed,
  statementText,
  wordOf,
} from '../../../../core/definition/edits/statement'
import { signaturePanel, askVersion, askAccounts, askBranches } from '../../../../core/definition/edits/books'
import { readStatementRow, type StatementBlock, type StatementColumn, statementRowId } from '../../../../core/definition/blocks/statement'
import type { ReportDefinition } from '../../../../core/definition/report'

const base = statement('income')
const own = (report: ReportDefinition): StatementBlock => statementNamed(report, 'statement')!
const ids = (report: ReportDefinition) => own(report).lines.map(line => line.id)
const line = fc.constantFrom(...ids(base))
const books = {
  accounts: { table: 'accounts', code: 'code', name: 'name', type: 'type' },
  lines: { table: 'journal_lines', account: 'account_code', amount: 'amount' },
  date: 'posting_date',
  types: {},
  retainedEarnings: '3900',
  branches: { table: 'branches', key: 'id', code: 'code', name: 'name' },
  budgets: {
    table: 'budgets',
    account: 'account_code',
    amount: 'amount',
    version: 'version',
    period: { year: 'y', number: 'p' },
    sign: 'natural' as const,
  },
  versions: ['original', 'revised'],
}

describe('edits of lines', () => {
  it('a line that moves takes nothing along, and moves back', () => {
    fc.assert(
      fc.property(line, fc.integer({ min: -30, max: 30 }), (id, by) => {
        const before = ids(base)
        const moved = moveLine(base, 'statement', id, by)
        const at = ids(moved).indexOf(id)
        expect(ids(moved).filter(each => each !== id)).toEqual(before.filter(each => each !== id))
        expect(at).toBe(Math.max(0, Math.min(before.length - 1, before.indexOf(id) + by)))
        expect(ids(moveLine(moved, 'statement', id, before.indexOf(id) - at))).toEqual(before)
      }),
    )
  })
  it('a new line stands after the one it was asked for, under a word of its own, however often', () => {
    fc.assert(
      fc.property(line, fc.array(fc.string({ maxLength: 30 }), { minLength: 1, maxLength: 6 }), (after, captions) => {
        const grown = captions.reduce(
          (report, caption) => addLine(report, 'statement', { kind: 'accounts', caption, accounts: '6110' }, after),
          base,
        )
        const all = ids(grown)
        expect(new Set(all).size).toBe(all.length)
        // the last one that was added stands directly under it
        const place = all.indexOf(after)
        expect(own(grown).lines[place + 1]!.caption).toBe(captions.at(-1))
        expect(all.every(id => /^[\p{L}_][\p{L}\p{N}_]*$/u.test(id))).toBe(true)
        readDefinition(grown)
      }),
    )
  })
  it('a line that is called otherwise is called so by all that speak of it, and only there', () => {
    fc.assert(
      fc.property(line, id => {
        const renamed = own(setLine(base, 'statement', id, { id: 'fresh' }))
        const word = new RegExp(`(?<![\\w])${id}(?![\\w])`)
        for (const each of renamed.lines) {
          expect(each.id).not.toBe(id)
          expect(each.formula ?? '').not.toMatch(word)
          expect([each.from, each.to]).not.toContain(id)
        }
        // nothing else has changed
        const back = own(setLine(setLine(base, 'statement', id, { id: 'fresh' }), 'statement', 'fresh', { id }))
        expect(back).toEqual(own(base))
      }),
    )
  })
  it('a name that is taken stays with whom it belongs to', () => {
    expect(ids(setLine(base, 'statement', 'sales', { id: 'services' }))).toEqual(ids(base))
  })
  it('what is written at a place is read from it again', () => {
    for (const each of own(base).lines) {
      const at = { block: 'statement', part: 'line' as const, row: each.id, cell: 'caption' }
      if (statementText(own(base), at) === undefined) continue
      expect(statementText(own(setStatementText(base, own(base), at, 'Words')), at)).toBe('Words')
    }
  })
})

describe('edits of columns', () => {
  const columns = (report: ReportDefinition) => own(report).columns.map(column => column.id)
  it('one that is taken out takes those along that are worked out from it alone, and no others', () => {
    expect(columns(removeStatementColumn(base, 'statement', 'before'))).toEqual(['actual', 'toDate'])
    expect(columns(removeStatementColumn(base, 'statement', 'actual'))).toEqual(['toDate', 'before', 'difference', 'percent'])
    const total = addStatementColumn(base, 'statement', { kind: 'total', width: 0, of: ['actual', 'toDate'] })
    expect(own(removeStatementColumn(total, 'statement', 'actual')).columns.at(-1)).toMatchObject({ kind: 'total', of: ['toDate'] })
  })
  it('they move and come back', () => {
    fc.assert(
      fc.property(fc.constantFrom(...columns(base)), fc.integer({ min: -6, max: 6 }), (id, by) => {
        const moved = moveStatementColumn(base, 'statement', id, by)
        expect([...columns(moved)].sort()).toEqual([...columns(base)].sort())
        expect(columns(moveStatementColumn(moved, 'statement', id, columns(base).indexOf(id) - columns(moved).indexOf(id)))).toEqual(
          columns(base),
        )
      }),
    )
  })
  it('are called by what they hold', () => {
    const column = (more: Partial<StatementColumn>): StatementColumn => ({ id: 'x', kind: 'activity', width: 0, ...more })
    expect(
      [
        column({ span: { unit: 'yearToDate', anchor: 'p', back: 1, backBy: 'year' } }),
        column({ span: { unit: 'period', anchor: 'p' }, repeat: { over: 'period', count: 12 } }),
        column({ kind: 'balance', span: { unit: 'period', anchor: 'p' } }),
        column({ kind: 'budget', span: { unit: 'last', anchor: 'p', count: 13 } }),
        column({ kind: 'difference', of: [] }),
        column({ title: 'Better\nor worse' }),
        column({ span: { unit: 'quarter', anchor: 'p', back: 2, backBy: 'quarter' } }),
      ].map(column => columnName(column)),
    ).toEqual([
      'Actual, year to date, a year before',
      'Actual, each period',
      'Balance',
      'Budget, last 13 periods',
      'Difference',
      'Better',
      'Actual, its quarter, 2 quarters before',
    ])
  })
})

it('the id of a row on the page says line, accounts and part, whatever signs a code has', () => {
  const part = fc.constantFrom('account' as const, 'heading' as const, 'ends' as const)
  fc.assert(
    fc.property(
      fc.constantFrom('sales', 'line1'),
      part,
      fc.array(fc.string({ minLength: 1, maxLength: 8 }), { minLength: 1, maxLength: 4 }),
      (id, own, path) => {
        expect(readStatementRow(statementRowId({ line: id, part: own, path }))).toEqual({ line: id, part: own, path })
      },
    ),
  )
  for (const plain of ['line', 'opens'] as const)
    expect(readStatementRow(statementRowId({ line: 'sales', part: plain, path: [] }))).toEqual({ line: 'sales', part: plain, path: [] })
})

describe('what a run is asked', () => {
  const bare: ReportDefinition = {
    ...base,
    parameters: base.parameters.filter(each => each.kind === 'period'),
    tables: [{ kind: 'ledger', name: 'books', filters: [] }],
  }
  it('branches and accounts become parameters and filters of the books, once', () => {
    const asked = askAccounts(askBranches(bare, books))
    expect(asked.parameters.map(each => each.name)).toEqual(['period', 'branches', 'fromAccount', 'toAccount'])
    expect(asked.tables).toEqual([
      {
        kind: 'ledger',
        name: 'books',
        filters: ['branch in (param.branches)', 'account >= param.fromAccount', 'account <= param.toAccount'],
      },
    ])
    expect(askAccounts(askBranches(asked, books))).toBe(asked)
    readDefinition(asked)
  })
  it('the version of the budget is a choice with the first one as its default, once', () => {
    const { report, name } = askVersion(bare, books)
    expect([name, report.parameters.at(-1)]).toEqual([
      'version',
      {
        name: 'version',
        label: 'Budget version',
        kind: 'choice',
        required: false,
        default: '"original"',
        choices: { table: 'budgets', value: 'version', label: 'version' },
      },
    ])
    expect(askVersion(report, books)).toEqual({ report, name: 'version' })
    expect(askVersion(bare, { ...books, budgets: { ...books.budgets, version: undefined as never } }).report).toBe(bare)
  })
  it('lines to be signed fit the page', () => {
    for (const width of [200, 505, 752]) {
      const { items } = signaturePanel('signed', width)
      expect(Math.max(...items.map(item => item.x + item.width))).toBeLessThanOrEqual(width)
      expect(items.flatMap(item => (item.kind === 'text' ? [item.text] : []))).toEqual(['Prepared by, date', 'Approved by, date'])
    }
  })
})

describe('footnotes of a run', () => {
  const noted = setStatement(setLine(base, 'statement', 'sales', { footnote: 'a' }), 'statement', {
    footnotes: [
      { id: 'a', text: 'One' },
      { id: 'b', text: 'Two' },
    ],
  })
  it('are named by statement and footnote, said otherwise, or left out with their marks', () => {
    expect(footnotesOf(noted).map(each => [each.name, each.text])).toEqual([
      ['footnote.statement.a', 'One'],
      ['footnote.statement.b', 'Two'],
    ])
    const { report, unknown } = withFootnotes(noted, {
      period: '2026-P07',
      'footnote.statement.b': 'Otherwise',
      'footnote.statement.a': ' ',
      'footnote.gone.x': 'y',
    })
    expect(unknown).toEqual(['footnote.gone.x'])
    expect(own(report).footnotes).toEqual([{ id: 'b', text: 'Otherwise' }])
    expect(own(report).lines.find(each => each.id === 'sales')!.footnote).toBeUndefined()
  })
  it('leave the report as it is where nothing is said', () => {
    expect(withFootnotes(noted, { period: '2026-P07' }).report).toBe(noted)
  })
})

it('words for formulas are made of captions in any script', () => {
  expect(['Cost of sales', 'Überschuss {{ param.period }}', '2024 only', 'Έσοδα ομάδας', '—'].map(wordOf)).toEqual([
    'costOfSales',
    'uberschuss',
    'line2024Only',
    'εσοδαΟμαδας',
    'line',
  ])
})
