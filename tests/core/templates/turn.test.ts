import { describe, expect, it } from 'vitest'
import { demoDatabase } from '../../support'
import { cellsOf, runReport } from '../../pages'
import { isCrosstab } from '../../../core/definition/blocks/crosstab'
import { isTable } from '../../../core/definition/blocks/table'
import { changeBlock } from '../../../core/definition/edits/layout'
import { readDefinition } from '../../../core/definition/schema'
import { findBlock } from '../../../core/definition/walk'
import { crosstabOfTable, tableOfCrosstab, turnsIntoCrosstab } from '../../../core/templates/turn'
import { salesGrid } from '../../../demo/reports/grids'
import { invoiceRegister } from '../../../demo/reports/reports'

describe('a crosstab and a table of the same groups', () => {
  it('have the same totals of each group of the rows, and in the end', async () => {
    const { db, catalog } = await demoDatabase()
    const grid = salesGrid()
    const answers = { dates: '2026-04-01..2026-06-30' }
    const turned = readDefinition(
      changeBlock(grid, 'grid', block =>
        isCrosstab(block) ? tableOfCrosstab(block, measure => measure.caption ?? `The ${measure.id}`) : block,
      ),
    )
    const [before, now] = [await runReport(db, catalog, grid, answers), await runReport(db, catalog, turned, answers)]
    const whole = cellsOf(before, 'grid', 'total ', 'total  sales')
    expect(whole).toHaveLength(1)
    expect(cellsOf(now, 'grid', 'end', 'sales')).toEqual(whole)
    const regions = before
      .flatMap(page => page.boxes)
      .flatMap(box => (box.rowId?.startsWith('total /') && box.cell === 'total  sales' ? [box.rowId] : []))
    expect(regions.length).toBeGreaterThan(3)
    expect(cellsOf(now, 'grid', 'end region', 'sales')).toEqual(regions.flatMap(row => cellsOf(before, 'grid', row, 'total  sales')))
    // and back again: what was across is across, the totals are those of before
    const again = readDefinition(changeBlock(turned, 'grid', block => (isTable(block) ? crosstabOfTable(block) : block)))
    const back = findBlock(again, 'grid')
    expect(
      isCrosstab(back) && [back.rows.map(each => each.id), back.columns.map(each => each.id), back.measures.map(each => each.formula)],
    ).toEqual([['region', 'seller'], ['category'], ['sum(base)']])
    expect(cellsOf(await runReport(db, catalog, again, answers), 'grid', 'total ', 'total  sales')).toEqual(whole)
  })

  it('a table in groups keeps its totals when it is turned', async () => {
    const { db, catalog } = await demoDatabase()
    const report = invoiceRegister()
    const table = report.layouts[0]!.blocks.find(block => isTable(block))!
    const turned = readDefinition(changeBlock(report, table.id, block => (isTable(block) ? crosstabOfTable(block) : block)))
    const made = findBlock(turned, table.id)
    if (!isCrosstab(made)) throw new Error('no crosstab')
    expect(turnsIntoCrosstab(table) && made.rows.length).toBeGreaterThan(0)
    const [before, now] = [await runReport(db, catalog, report, {}), await runReport(db, catalog, turned, {})]
    const end = table.rows.find(row => row.kind === 'end')!
    expect(made.measures.length).toBeGreaterThan(0)
    for (const measure of made.measures) {
      const [column] = Object.entries(end.cells).find(([, cell]) => cell.text.includes(measure.formula))!
      expect([measure.id, ...cellsOf(now, table.id, 'total ', `${made.columns.length ? 'total' : 'at'}  ${measure.id}`)]).toEqual([
        measure.id,
        ...cellsOf(before, table.id, end.id, column),
      ])
    }
  })
})
