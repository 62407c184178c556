import type { Block } from '../definition/blocks/block'
import { isNested, type NestedBlock } from '../definition/blocks/nested'
import type { ReportDefinition } from '../definition/report'
import { blocksInside } from '../definition/walk'

/** A nested report of a layout, and the level whose records it stands in; none where it stands in the flow, once for all of them. */
export interface NestedPlace {
  block: NestedBlock
  level?: string
  /** name of the layout */
  layout: string
}

/** All reports nested in the layouts of a report. */
export function nestedPlaces(definition: Pick<ReportDefinition, 'layouts'>): NestedPlace[] {
  const found: NestedPlace[] = []
  for (const layout of definition.layouts) {
    const visit = (block: Block, level: string | undefined): void => {
      if (isNested(block)) found.push({ block, layout: layout.name, ...(level === undefined ? {} : { level }) })
      const inside = blocksInside(block)
      if (!inside.length) return
      const own = 'level' in block && block.level !== undefined ? block.level : level
      for (const inner of inside) visit(inner, own)
    }
    for (const block of layout.blocks) visit(block, undefined)
  }
  return found
}

/** All that nested reports add to the levels: as long as it stays, so do these. */
export const nestedAskers = (definition: ReportDefinition): string =>
  JSON.stringify(nestedPlaces(definition).map(({ block, level }) => [block.id, level, block.totals]))

/** All that is read for nested reports, wherever they stand on the page: as long as it stays, so do their records. */
export const nestedReads = (definition: ReportDefinition): string =>
  JSON.stringify(
    nestedPlaces(definition).map(({ block: { id, report, version, layout, feeds, totals, most, showWhen }, level }) => [
      id,
      level,
      report,
      version,
      layout,
      feeds,
      totals,
      most,
      showWhen,
    ]),
  )
