import type { PGlite } from '@electric-sql/pglite'
import { beforeAll, expect, it } from 'vitest'
import type { Catalog } from '../../../core/books/catalog'
import { GridMaker } from '../../../core/compose/grid'
import type { GridCells } from '../../../core/compose/gridRows'
import type { CrosstabBlock } from '../../../core/definition/blocks/crosstab'
import { changeBlock } from '../../../core/definition/edits/layout'
import { readRecords } from '../../../core/read/read'
import type { Value } from '../../../core/value/value'
import { decimalText } from '../../../core/value/decimal'
import { salesGrid } from '../../../demo/reports/grids'
import { composerOf, planRun } from '../../../server/runs/execute'
import { readyRun } from '../../../server/runs/ready'
import { runOver } from '../../runs'
import { demoDatabase, plainFetch } from '../../support'

let db: PGlite
let catalog: Catalog
beforeAll(async () => {
  ;({ db, catalog } = await demoDatabase())
})
async function cellsOf(change: Partial<CrosstabBlock> = {}): Promise<{ titles: string[]; rows: Value[][] }> {
  const definition = changeBlock(salesGrid(), 'grid', block => ({ ...block, ...change }) as CrosstabBlock)
  const run = readyRun(runOver(catalog, definition, { answers: { dates: '2025-01-01..2026-09-30' } }))
  const found: GridCells[] = []
  let rows: Value[][] = []
  for await (const { records } of readRecords(planRun(run, 'pages'), plainFetch(db), { chunk: 1e9 }))
    for (const event of new GridMaker(composerOf(run)).rows(records, 'none'))
      if ('cells' in event) {
        found.push(event.cells)
        rows = [...event.cells.rows()]
      }
  expect(found).toHaveLength(1)
  return { titles: found[0]!.titles, rows }
}
const text = (value: Value) => (typeof value === 'object' && value !== null ? decimalText(value).replace(/\.?0+$/, '') : String(value))

it('are what grouping in SQL gives, a row for each pair that has records, and no totals', async () => {
  const { rows } = await cellsOf()
  const { rows: byHand } = await db.query<{ region: string; seller: string; category: string; sales: string }>(
    `select coalesce(r.name, '') as region, coalesce(s.name, '') as seller, coalesce(c.name, '') as category,
       sum(round(l.amount * i.rate, 2))::text as sales
     from invoice_lines l join invoices i on i.id = l.invoice_id join items t on t.id = l.item_id
     left join item_categories c on c.id = t.category_id left join salespeople s on s.id = i.salesperson_id
     left join customers u on u.id = i.customer_id left join towns w on w.id = u.town_id left join regions r on r.id = w.region_id
     where l.kind = 'item' and i.invoice_date between '2025-01-01' and '2026-09-30' group by 1, 2, 3`,
  )
  expect(rows).toHaveLength(byHand.length)
  const figures = (list: string[]) => list.map(each => each.replace(/\.?0+$/, '')).sort()
  expect(rows.map(row => text(row.at(-1)!)).sort()).toEqual(figures(byHand.map(each => each.sales)))
  // a pair is told by its groups
  const named = byHand.find(each => each.region && each.seller && each.category)!
  const own = rows.find(row => [named.region, named.seller, named.category].every(name => row.includes(name)))
  expect(text(own!.at(-1)!)).toBe(named.sales.replace(/\.?0+$/, ''))
})

it('stand the other way round with the axes swapped, and are the same', async () => {
  const plain = await cellsOf()
  const { rows, columns } = salesGrid().layouts[0]!.blocks.find(block => block.id === 'grid') as CrosstabBlock
  const swapped = await cellsOf({ rows: columns, columns: rows })
  const sorted = (list: Value[][]) => list.map(row => row.map(text).sort().join(' ')).sort()
  expect(sorted(swapped.rows)).toEqual(sorted(plain.rows))
  expect([...swapped.titles].sort()).toEqual([...plain.titles].sort())
  expect(swapped.titles).not.toEqual(plain.titles)
})
