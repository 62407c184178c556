import type { CrosstabBlock } from '../../definition/blocks/crosstab'
import type { Standing } from '../../formula/standing'
import type { Page } from '../page'
import type { Flow } from '../place'
import type { PreparedRow, PreparedTable } from '../prepared'
import { composeTable } from '../table/breaking'
import { literalPieces, type LiteralTable } from '../table/literal'
import { measureRow } from '../table/measure'
import { titleRows } from '../table/pieces'

/**
 * The parts of a crosstab over pages: each part down all of its pages before the next one, or all parts of the rows of a page before the
 * rows after them.
 */
export function* composeParts(parts: readonly LiteralTable[], wide: CrosstabBlock['wide'], at: Standing, flow: Flow): Generator<Page> {
  const { paper } = flow
  const turned = function* (): Generator<Page> {
    if (paper.page && !paper.fresh) yield* paper.newPage()
  }
  if (wide !== 'across' || parts.length < 2) {
    for (const [place, part] of parts.entries()) {
      if (place) yield* turned()
      yield* composeTable(flow, part.table, at, literalPieces(part, at))
    }
    return
  }
  const measured = (table: PreparedTable, row: PreparedRow, standing = at) =>
    measureRow(flow, table, row, standing, { repeats: new Map(), band: false }).height
  const titles = Math.max(...parts.map(({ table }) => titleRows(table).reduce((sum, row) => sum + measured(table, row), 0)))
  const height = (row: number) => Math.max(...parts.map(({ table, rows }) => measured(table, rows[row]!.row, rows[row]!.at)))
  const count = parts[0]!.rows.length
  for (let from = 0; from < count;) {
    if (from) yield* turned()
    paper.open()
    let to = from
    let left = paper.bodyBottom - paper.y - titles
    while (to < count && (to === from || height(to) <= left)) left -= height(to++)
    for (const [place, { table, rows }] of parts.entries()) {
      if (place) yield* turned()
      yield* composeTable(flow, table, at, literalPieces({ table, rows: rows.slice(from, to) }, at))
    }
    from = to
  }
}
