import { expect, it } from 'vitest'
import type { Catalog } from '../books/catalog'
import type { StatementBlock } from '../definition/blocks/statement'
import { addItem, blocksOf, insertBlock } from '../definition/edits/edits'
import { addLine, addStatementColumn } from '../definition/edits/statement'
import { readDefinition } from '../definition/schema'
import { reportModel } from '../model/model'
import { newBreak, newColumn, newItems, newLines, newPanel, newRepeat, newTable, newTies } from './blocks'
import { listOfTable } from './draft'

const text = (name: string) => ({ name, type: 'text' as const, databaseType: 'text', required: false })
const catalog: Catalog = {
  tables: [
    {
      schema: 'harbour',
      name: 'berths',
      columns: [text('code'), text('quay'), { name: 'length', type: 'number', scale: 1, databaseType: 'numeric', required: false }],
      primaryKey: ['code'],
      rowEstimate: 3,
    },
  ],
  foreignKeys: [],
}
const report = listOfTable(catalog, 'berths', 'port', 'Berths')
const { levels } = reportModel(report, catalog).trees[0]!
const taken = report.layouts.flatMap(layout => blocksOf(layout).map(each => each.id))
const layout = report.layouts[0]!.name

it('blocks, items, lines and columns begin as a definition may hold them, with ids of their own', () => {
  let made = report
  const statement: StatementBlock = {
    kind: 'statement',
    id: 'figures',
    level: levels[0]!.name,
    left: 0,
    width: 0,
    after: 10,
    repeatTitles: true,
    scale: 'units',
    decimals: 2,
    negatives: 'minus',
    codes: true,
    zeroAccounts: false,
    lines: [],
    columns: [],
  }
  const [level] = levels
  const blocks = [newTable(catalog, level!, taken), newPanel(taken), newRepeat(level!, taken), newTies(taken), newBreak(taken), statement]
  for (const block of blocks) made = insertBlock(made, block, { layout })
  for (const item of Object.values(newItems)) made = addItem(made, 'panel', item)
  for (const [kind, line] of Object.entries(newLines)) made = addLine(made, 'figures', { ...line, kind: kind as keyof typeof newLines })
  const figures = () => blocksOf(made.layouts[0]!).find(each => each.id === 'figures') as StatementBlock
  const kinds = ['activity', 'budget', 'balance', 'difference', 'percent', 'total', 'share'] as const
  for (const kind of kinds) made = addStatementColumn(made, 'figures', newColumn(figures(), kind, 'param.period'))
  expect(() => readDefinition(made)).not.toThrow()
  const ids = blocksOf(made.layouts[0]!).map(each => each.id)
  expect(new Set(ids).size).toBe(ids.length)
  expect(figures().columns.map(each => [each.kind, each.span?.anchor, each.of])).toEqual([
    ['activity', 'param.period', undefined],
    ['budget', 'param.period', undefined],
    ['balance', 'param.period', undefined],
    // of the last two that hold figures; a total of all of them, a share of the last
    ['difference', undefined, ['budget', 'balance']],
    ['percent', undefined, ['budget', 'balance']],
    ['total', undefined, ['activity', 'budget', 'balance']],
    ['share', undefined, ['balance']],
  ])
})

it('a table shows the ticked fields of its level, numbers at the right', () => {
  const table = newTable(catalog, levels[0]!, taken)
  expect(taken).not.toContain(table.id)
  const numbers = table.columns.filter(each => each.style?.align === 'right').map(each => each.id)
  expect(numbers).toEqual(levels[0]!.definition.fields.filter(each => levels[0]!.fields.get(each)!.type === 'number'))
})
