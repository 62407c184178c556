import type { PreparedCrosstab } from './crosstab/prepare'
import type { PreparedBlock, PreparedTable } from './prepared'

/** A crosstab or table of a layout by its id, also inside a repeat. */
export function blockAmong(
  blocks: readonly PreparedBlock[],
  id: string,
): { crosstab: PreparedCrosstab } | { table: PreparedTable } | undefined {
  for (const block of blocks) {
    if (block.block.id === id) {
      if (isCrosstab(block)) return { crosstab: block }
      return isTable(block) ? { table: block } : undefined
    }
    const found = blockAmong(block.inner ?? [], id)
    if (found) return found
  }
  return undefined
}

const isCrosstab = (block: PreparedBlock): block is PreparedCrosstab => 'measures' in block && 'rows' in block
const isTable = (block: PreparedBlock): block is PreparedTable => 'groups' in block && 'looks' in block
