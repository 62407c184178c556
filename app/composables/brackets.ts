import type { Box } from '../../core/compose/page'
import { type Block, isRepeat } from '../../core/definition/blocks/block'
import type { LayoutDefinition, ReportDefinition } from '../../core/definition/report'
import type { LevelInfo } from '../../core/formula/typed'

/** A block in the rail beside a page. */
export interface Bracket {
  id: string
  label: string
  level: number
  depth: number
  top: number
  bottom: number
  /** others stand inside it */ inner?: boolean
}

/** The blocks that stand on a page, each from its first box to its last; repeats around what is in them. */
export function bracketsOf(
  boxes: readonly Box[],
  definition: ReportDefinition,
  layout: LayoutDefinition,
  levels: readonly LevelInfo[],
): Bracket[] {
  const extents = new Map<string, { top: number; bottom: number }>()
  for (const box of boxes) {
    const known = extents.get(box.block)
    if (known) Object.assign(known, { top: Math.min(known.top, box.y), bottom: Math.max(known.bottom, box.y + box.height) })
    else extents.set(box.block, { top: box.y, bottom: box.y + box.height })
  }
  const list: Bracket[] = []
  const visit = (blocks: readonly Block[], depth: number): { top: number; bottom: number } | undefined => {
    let whole: { top: number; bottom: number } | undefined
    for (const block of blocks) {
      const at = list.length
      const own = isRepeat(block) ? visit(block.blocks, depth + 1) : extents.get(block.id)
      if (!own) continue
      const label = isRepeat(block)
        ? levels[levelOfBlock(definition, levels, block.id)]!.caption.toLowerCase()
        : 'level' in block && block.level !== undefined
          ? block.level
          : block.id.replace(/([A-Z])/g, ' $1').toLowerCase()
      list.splice(at, 0, {
        id: block.id,
        label,
        level: levelOfBlock(definition, levels, block.id),
        depth,
        ...own,
        ...(isRepeat(block) ? { inner: true } : {}),
      })
      whole = { top: Math.min(whole?.top ?? own.top, own.top), bottom: Math.max(whole?.bottom ?? own.bottom, own.bottom) }
    }
    return whole
  }
  visit(layout.blocks, 0)
  for (const [block, label] of [
    [layout.top, t('brackets.top')],
    [layout.firstTop, t('brackets.firstTop')],
    [layout.foot, t('brackets.foot')],
    [layout.firstFoot, t('brackets.firstFoot')],
  ] as const) {
    const own = block && extents.get(block.id)
    if (own) list.push({ id: block.id, label, level: -1, depth: 1, ...own })
  }
  return list
}
