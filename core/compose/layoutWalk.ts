import { kindOf } from './blocks/registry'
import type { PreparedBlock, PreparedLayout } from './prepared'
import type { CheckedText } from './text'

/** Blocks and those inside them, outer ones first. */
export function preparedInside(blocks: readonly PreparedBlock[]): PreparedBlock[] {
  return blocks.flatMap(block => [block, ...preparedInside(block.inner ?? [])])
}

/** The text behind a box of a page, wherever its block stands in the layout. */
export function textBehind(layout: PreparedLayout, at: { block: string; rowId?: string; cell: string }): CheckedText | undefined {
  const edges = [layout.top, layout.foot, layout.firstTop, layout.firstFoot].filter(panel => panel !== undefined)
  for (const block of preparedInside([...edges, ...layout.blocks])) {
    const found = kindOf(block).textAt?.(block, at)
    if (found) return found
  }
  return undefined
}

/** How the rows of each block are compared between two runs. */
export function comparedBlocks(
  layout: PreparedLayout,
): { block: string; addsUp: boolean; isNumber: (row: string, cell: string) => boolean }[] {
  return preparedInside(layout.blocks).flatMap(block => kindOf(block).compared?.(block) ?? [])
}
