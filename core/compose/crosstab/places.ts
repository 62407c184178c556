import type { AxisGroup } from '../../definition/blocks/crosstab'
import type { RowKind } from '../../definition/blocks/table'
import type { AxisNode } from '../../shape/cross'
import type { PreparedMeasure } from './prepare'

/** A row or column that is printed: a group, or the total of the groups in it. */
export interface AxisPlace {
  node: AxisNode
  /** it stands for all groups of this depth in its node */
  totalOf?: number
}

/** A printed column of figures: a place of the column axis, and the measures that stand in it. */
export interface FigureColumn {
  id: string
  place: AxisPlace
  /** the one measure of it; nothing where measures stand under one another in the rows */
  measure?: PreparedMeasure
}

/** A printed row. */
export interface FigureRow {
  id: string
  kind: RowKind
  place: AxisPlace
  measure?: PreparedMeasure
}

/** What of an axis is printed, in its order: the innermost groups, with the totals that stand before or after those they add up. */
export function axisPlaces(root: AxisNode, groups: readonly Pick<AxisGroup, 'total'>[]): AxisPlace[] {
  const found: AxisPlace[] = []
  const visit = (node: AxisNode): void => {
    const depth = node.depth + 1
    const group = groups[depth]
    if (!group) return void found.push({ node })
    const total: AxisPlace = { node, totalOf: depth }
    if (group.total === 'before') found.push(total)
    node.children.forEach(visit)
    if (group.total === 'after') found.push(total)
  }
  visit(root)
  return found
}

/** The group of a depth in which a place stands; nothing where it is the total of groups of that depth, or of ones around them. */
export function groupAt({ node }: AxisPlace, depth: number): AxisNode | undefined {
  let at: AxisNode | undefined = node
  while (at && at.depth > depth) at = at.parent
  return at?.depth === depth ? at : undefined
}
