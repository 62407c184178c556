import type { AxisGroup, CrosstabBlock } from '../../definition/blocks/crosstab'
import type { Box } from '../page'

/** The title of one group on an axis of a crosstab, as it stands on a page. */
export interface GroupTitle {
  group: AxisGroup
  axis: 'rows' | 'columns'
  label: string
  /** the groups around it, which it cannot leave */
  under: string
}

/** Names in an id of a row or column: `at /Coast/Alice` stands for Alice within Coast. */
const pathIn = (id: string): string[] | undefined => {
  const [, path] = /^at ((?:\/[^/ ]*)+)(?: |$)/.exec(id) ?? []
  return path?.slice(1).split('/')
}

/** The group whose title a box shows; nothing for totals, all others, and what is no title. */
export function groupTitleAt(block: CrosstabBlock, box: Pick<Box, 'block' | 'part' | 'cell' | 'rowId'>): GroupTitle | undefined {
  if (box.block !== block.id || !box.cell || !box.rowId) return undefined
  const axis = box.part === 'titles' ? 'columns' : 'rows'
  const names = pathIn(axis === 'columns' ? box.cell : box.rowId)
  if (!names) return undefined
  // the first row of titles says what is across
  const depth =
    axis === 'columns' ? Number(box.rowId.replace('titles ', '')) - 1 : block.rows.findIndex(each => box.cell === `title ${each.id}`)
  const group = block[axis][depth]
  const name = names[depth]
  if (!group || name === undefined || name === '*') return undefined
  return { group, axis, label: decodeURIComponent(name), under: names.slice(0, depth).join('/') }
}

/** Names of a group in the order in which pages show them, each once. */
export function namesInOrder(block: CrosstabBlock, boxes: Iterable<Box>, { group, axis }: GroupTitle): string[] {
  const found = new Set<string>()
  const depth = block[axis].findIndex(each => each.id === group.id)
  for (const box of boxes) {
    if (box.block !== block.id || !box.cell || !box.rowId) continue
    const name = pathIn(axis === 'columns' ? box.cell : box.rowId)?.[depth]
    if (name !== undefined && name !== '*') found.add(decodeURIComponent(name))
  }
  return [...found]
}

/** Names with one of them moved before or after another. */
export function movedName(names: readonly string[], name: string, beside: string, side: 'before' | 'after'): string[] {
  if (name === beside) return [...names]
  const rest = names.filter(each => each !== name)
  rest.splice(rest.indexOf(beside) + (side === 'after' ? 1 : 0), 0, name)
  return rest
}
