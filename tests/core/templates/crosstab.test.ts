import { beforeAll, describe, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import { assembleReport } from '../../../core/compose/assemble'
import { type CrosstabBlock, isCrosstab } from '../../../core/definition/blocks/crosstab'
import { moveAxisGroup, moveMeasure, removeAxisGroup, removeMeasure, setAxisGroup, swapAxes } from '../../../core/definition/edits/crosstab'
import { insertBlock } from '../../../core/definition/edits/edits'
import type { ReportDefinition } from '../../../core/definition/report'
import { readDefinition } from '../../../core/definition/schema'
import { newCrosstab, putOnCrosstab } from '../../../core/templates/crosstab'
import { demoReports } from '../../../demo/reports/reports'
import { salesGrid } from '../../../demo/reports/grids'
import { demoDatabase } from '../../support'

let catalog: Catalog
beforeAll(async () => {
  ;({ catalog } = await demoDatabase())
})
const found = (report: ReportDefinition): CrosstabBlock => report.layouts[0]!.blocks.find(isCrosstab)!
const names = ({ rows, columns, measures }: CrosstabBlock) => [rows, columns, measures].map(list => list.map(each => each.id))

describe('a crosstab to begin with', () => {
  it.each(demoReports().map(({ name, definition }) => [name, definition] as const))(
    'of every level of “%s” can be read and printed as it is',
    (_, definition) => {
      const { levels } = assembleReport(definition, catalog).tree
      for (const level of levels) {
        const block = newCrosstab(levels, level.index, [])
        const report = readDefinition(insertBlock(definition, block, { layout: definition.layouts[0]!.name }))
        const { layout } = assembleReport(report, catalog)
        expect(layout.problems.filter(problem => problem.block === block.id)).toEqual([])
        expect(block.measures).toHaveLength(1)
      }
    },
  )
})

describe('editing a crosstab', () => {
  it('turns it and back, and moves groups from axis to axis, without losing anything', () => {
    const report = salesGrid()
    expect(names(found(swapAxes(report, 'grid')))).toEqual([['category'], ['region', 'seller'], ['sales']])
    expect(swapAxes(swapAxes(report, 'grid'), 'grid')).toEqual(report)
    const moved = moveAxisGroup(report, 'grid', 'seller', 'columns', 0)
    expect(names(found(moved))).toEqual([['region'], ['seller', 'category'], ['sales']])
    expect(moveAxisGroup(moved, 'grid', 'seller', 'rows', 1)).toEqual(report)
    expect(moveAxisGroup(report, 'grid', 'nobody', 'rows', 0)).toEqual(report)
    expect(names(found(removeAxisGroup(report, 'grid', 'region')))).toEqual([['seller'], ['category'], ['sales']])
    expect(found(setAxisGroup(report, 'grid', 'region', { caption: '', total: 'none' })).rows[0]).toEqual({
      id: 'region',
      by: 'invoice.customer.town.region.name',
      order: { by: 'name', descending: false },
      total: 'none',
      none: 'Elsewhere',
    })
  })

  it('takes a field by the place where it is dropped', () => {
    const report = salesGrid()
    const { levels } = assembleReport(report, catalog).tree
    const put = (path: string, at: { part: string; cell?: string }) =>
      putOnCrosstab(report, found(report), levels, levels[0]!.fields.get(path)!, at)
    expect(names(found(put('item.name', { part: 'line', cell: 'title region' })))[0]).toEqual(['region', 'seller', 'item'])
    expect(found(put('invoice.invoice_date', { part: 'titles', cell: 'at /x sales' })).columns[1]).toMatchObject({
      by: 'invoice.invoice_date',
      step: 'month',
      order: { by: 'value' },
    })
    expect(found(put('profit', { part: 'line', cell: 'at /x sales' })).measures[1]!.formula).toBe('sum(profit)')
    expect(found(put('item.name', { part: 'line', cell: 'at /x sales' })).measures[1]!.formula).toBe('distinct(item.name)')
    const two = put('profit', { part: 'block' })
    expect(names(found(two))[2]).toEqual(['sales', 'profit'])
    expect(names(found(moveMeasure(two, 'grid', 'profit', 0)))[2]).toEqual(['profit', 'sales'])
    expect(removeMeasure(two, 'grid', 'profit')).toEqual(report)
    // whatever was put is a definition that can be read
    for (const path of ['item.name', 'profit', 'invoice.invoice_date']) readDefinition(put(path, { part: 'block' }))
  })
})
