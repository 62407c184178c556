import { shapeOf } from './blocks/registry'
import type { LayoutDefinition, ReportDefinition } from './report'
import type { Block, RepeatBlock } from './blocks/block'
import type { LevelDefinition } from './levels'

export const edges = ['top', 'foot', 'firstTop', 'firstFoot'] as const

/** The blocks that stand directly inside a block: of a repeat, or of the rows of a table. */
export function blocksInside(block: Block): Block[] {
  return shapeOf(block).inside?.(block) ?? []
}

/** A block with those inside it changed, or taken out where `change` gives nothing; the same block where all stay the same. */
export function changeInside(block: Block, change: (inside: Block) => Block | undefined): Block {
  return shapeOf(block).change?.(block, change) ?? block
}

/** All blocks of a layout, outer ones before those inside them. */
export function blocksOf(layout: LayoutDefinition): Block[] {
  const visit = (block: Block): Block[] => [block, ...blocksInside(block).flatMap(visit)]
  return [...edges.flatMap(edge => layout[edge] ?? []), ...layout.blocks].flatMap(visit)
}

/** The block with an id, wherever it stands. */
export function findBlock(report: ReportDefinition, id: string): Block | undefined {
  for (const layout of report.layouts) {
    const found = blocksOf(layout).find(block => block.id === id)
    if (found) return found
  }
  return undefined
}

/** The layout in which a block stands. */
export function layoutOf(report: ReportDefinition, block: string): LayoutDefinition | undefined {
  return report.layouts.find(layout => blocksOf(layout).some(each => each.id === block))
}

/** The layout of a name; without one the default, which is the first where none is said. */
export function layoutNamed(report: ReportDefinition, name?: string): LayoutDefinition {
  return (
    report.layouts.find(layout => layout.name === (name ?? report.layout)) ??
    report.layouts.find(layout => layout.name === report.layout) ??
    report.layouts[0]!
  )
}

/** All repeats around a block, the outermost first. */
export function repeatsAround(report: ReportDefinition, id: string): RepeatBlock[] {
  const visit = (blocks: readonly Block[], above: Block[]): Block[] | undefined => {
    for (const block of blocks) {
      if (block.id === id) return above
      const found = visit(blocksInside(block), [...above, block])
      if (found) return found
    }
    return undefined
  }
  for (const layout of report.layouts) {
    const found = visit(layout.blocks, [])
    if (found) return found.filter((block): block is RepeatBlock => 'blocks' in block)
  }
  return []
}

/** Ids of all blocks of all layouts, nested tables among them. */
export function blockIds(report: Pick<ReportDefinition, 'layouts'>): string[] {
  return report.layouts.flatMap(layout => blocksOf(layout).map(block => block.id))
}

/** All level names of a report. */
export function levelNames(report: ReportDefinition): string[] {
  const visit = (level: LevelDefinition): string[] => [level.name, ...level.details.flatMap(visit)]
  return [
    ...report.dataSets.flatMap(dataSet => visit(dataSet.root)),
    ...(report.tables ?? []).flatMap(table => (table.kind === 'summary' ? visit(table.base) : [])),
  ]
}
