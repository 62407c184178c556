import { beforeAll, describe, expect, it } from 'vitest'
import type { PGlite } from '@electric-sql/pglite'
import type { Catalog } from '../../../core/books/catalog'
import { groupTitleAt, movedName, namesInOrder } from '../../../core/compose/crosstab/titles'
import type { CrosstabBlock } from '../../../core/definition/blocks/crosstab'
import { setAxisGroup } from '../../../core/definition/edits/crosstab'
import { findBlock } from '../../../core/definition/walk'
import { salesGrid } from '../../../demo/reports/grids'
import { composeReport } from '../../pages'
import { demoDatabase } from '../../support'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
const boxesOf = async (definition = salesGrid()) =>
  (await composeReport(db, catalog, definition, { dates: '2026-04-01..2026-09-30' })).pages.flatMap(page => page.boxes)
const grid = () => findBlock(salesGrid(), 'grid') as CrosstabBlock

describe('titles of the groups of a crosstab', () => {
  it('are told from totals and figures, with their names as SQL has them', async () => {
    const boxes = await boxesOf()
    const titles = boxes.flatMap(box => groupTitleAt(grid(), box) ?? [])
    const names = (id: string) => [...new Set(titles.filter(each => each.group.id === id).map(each => each.label))].sort()
    const { rows } = await db.query<{ name: string }>('select name from regions')
    expect(names('region').filter(name => name !== 'Elsewhere')).toEqual(rows.map(each => each.name).sort())
    expect(names('category')).toContain('Other goods')
    const line = boxes.find(box => box.rowId?.startsWith('at /') && box.cell?.startsWith('at /'))!
    expect(groupTitleAt(grid(), line)).toBeUndefined()
    const total = boxes.find(box => box.rowId?.startsWith('total ') && box.cell === 'title region')!
    expect(groupTitleAt(grid(), total)).toBeUndefined()
  })

  it('moved beside another stand in that order, of rows and of columns', async () => {
    const boxes = await boxesOf()
    for (const id of ['region', 'category']) {
      const title = boxes.flatMap(box => groupTitleAt(grid(), box) ?? []).find(each => each.group.id === id)!
      const before = namesInOrder(grid(), boxes, title)
      const [first, , third] = before
      const given = movedName(before, first!, third!, 'after')
      expect(given.slice(0, 3)).toEqual([before[1], third, first])
      const moved = setAxisGroup(salesGrid(), 'grid', id, { order: { by: 'given', descending: false, given } })
      expect(namesInOrder(findBlock(moved, 'grid') as CrosstabBlock, await boxesOf(moved), title)).toEqual(given)
    }
    expect(movedName(['a', 'b', 'c'], 'c', 'a', 'before')).toEqual(['c', 'a', 'b'])
    expect(movedName(['a', 'b'], 'a', 'a', 'after')).toEqual(['a', 'b'])
  })
})
