import type { GroupNode } from '../formula/standing'
import { type GroupShape, type Orders, type Shaped, shapeGroups } from './groups'

/** A group of an axis, or the axis as a whole. It covers the innermost groups `first` up to (not including) `end` of its axis. */
export interface AxisNode {
  /** −1 for the axis as a whole, 0 for its outermost groups */
  depth: number
  label: string
  group: GroupNode
  first: number
  end: number
  parent?: AxisNode
  children: AxisNode[]
}

/** Records where a group of the rows and one of the columns meet: a stretch of `records`, in their own order. */
export interface Met {
  records: Int32Array
  from: number
  to: number
}

/** Records by two axes. */
export interface Crossed {
  rows: AxisNode
  columns: AxisNode
  /** labels that more than one group of an axis had */
  twins: { rows: Shaped['twins']; columns: Shaped['twins'] }
  meet: (row: AxisNode, column: AxisNode) => Met
}

/**
 * Groups records along two axes. Each axis finds its groups, their order and its first ones by all records; those that both axes have kept
 * are counted, so that a margin is of the records of its cells (rule 34 of the semantics), and groups that are left without any are none.
 */
export function crossGroups(records: Int32Array, rows: readonly GroupShape[], columns: readonly GroupShape[], orders: Orders): Crossed {
  const [down, across] = [axisOf(records, rows, orders), axisOf(records, columns, orders)]
  const kept = records.filter(record => down.leafOf(record) >= 0 && across.leafOf(record) >= 0)
  down.keep(kept)
  across.keep(kept)
  down.complete()
  across.complete()
  const known = new Map<string, { records: Int32Array; starts: Int32Array }>()
  /** all records in the order of their groups at a depth of either axis: where two groups meet, they stand together */
  const sorted = (depth: number, other: number) => {
    const name = `${depth} ${other}`
    let found = known.get(name)
    if (!found) {
      const [mine, theirs] = [down.placesAt(depth), across.placesAt(other)]
      const starts = new Int32Array(mine.count * theirs.count + 1)
      const cell = (record: number) => mine.of[down.leafOf(record)]! * theirs.count + theirs.of[across.leafOf(record)]!
      for (const record of kept) starts[cell(record) + 1]!++
      for (let at = 1; at < starts.length; at++) starts[at]! += starts[at - 1]!
      const next = starts.slice()
      const own = new Int32Array(kept.length)
      for (const record of kept) own[next[cell(record)]!++] = record
      known.set(name, (found = { records: own, starts }))
    }
    return found
  }
  return {
    rows: down.root,
    columns: across.root,
    twins: { rows: down.twins, columns: across.twins },
    meet: (row, column) => {
      const { records: own, starts } = sorted(row.depth, column.depth)
      const [mine, theirs] = [down.placesAt(row.depth), across.placesAt(column.depth)]
      const at = mine.placeOf.get(row)! * theirs.count + theirs.placeOf.get(column)!
      return { records: own, from: starts[at]!, to: starts[at + 1]! }
    },
  }
}

/** The groups of a depth, and that in which each of the innermost ones stands. */
interface Places {
  count: number
  placeOf: ReadonlyMap<AxisNode, number>
  of: Int32Array
}

interface OwnAxis {
  root: AxisNode
  twins: Shaped['twins']
  /** the innermost group of a record; −1 where its axis leaves it out */
  leafOf: (record: number) => number
  /** groups without any of these records are none from now on */
  keep: (records: Int32Array) => void
  /** puts in the groups that stand there whether they have records or not */
  complete: () => void
  placesAt: (depth: number) => Places
}

function axisOf(records: Int32Array, shapes: readonly GroupShape[], orders: Orders): OwnAxis {
  const shaped = shapeGroups(records, shapes, orders)
  const leaves = new Int32Array(records.reduce((most, record) => Math.max(most, record + 1), 0)).fill(-1)
  const build = (group: GroupNode, parent: AxisNode | undefined, count: { leaves: number }): AxisNode => {
    const node: AxisNode = {
      depth: group.depth,
      label: group.label,
      group,
      first: count.leaves,
      end: 0,
      ...(parent ? { parent } : {}),
      children: [],
    }
    if (group.depth + 1 >= shapes.length) {
      for (let at = group.from; at < group.to; at++) leaves[shaped.rows[at]!] = count.leaves
      count.leaves++
    } else node.children = group.children.map(child => build(child, node, count))
    node.end = count.leaves
    return node
  }
  const root = build(shaped.root, undefined, { leaves: 0 })
  const places = new Map<number, Places>()
  return {
    root,
    twins: shaped.twins,
    leafOf: record => leaves[record]!,
    keep: kept => {
      const used = new Uint8Array(root.end)
      for (const record of kept) used[leaves[record]!] = 1
      const some = (node: AxisNode) => used.subarray(node.first, node.end).includes(1)
      const prune = (node: AxisNode): void => {
        node.children = node.children.filter(some)
        node.children.forEach(prune)
      }
      prune(root)
    },
    complete: () => {
      const shape = shapes.at(-1)
      if (!shape?.every?.length) return
      const visit = (node: AxisNode): void => {
        if (node.depth < shapes.length - 2) return node.children.forEach(visit)
        node.children = completed(node, shapes.length - 1, shape, row => shaped.rows[row]!, orders)
      }
      visit(root)
    },
    placesAt: depth => {
      let found = places.get(depth)
      if (!found) {
        const placeOf = new Map<AxisNode, number>()
        const of = new Int32Array(root.end).fill(-1)
        const visit = (node: AxisNode): void => {
          if (node.depth < depth) return node.children.forEach(visit)
          of.fill(placeOf.size, node.first, node.end)
          placeOf.set(node, placeOf.size)
        }
        visit(root)
        places.set(depth, (found = { count: placeOf.size, placeOf, of }))
      }
      return found
    },
  }
}

/** The groups of a node with those that have no records, in the order of their values; empty values and all others last. */
function completed(node: AxisNode, depth: number, shape: GroupShape, rowAt: (place: number) => number, orders: Orders): AxisNode[] {
  const known = new Set(node.children.map(child => child.label))
  const valued = node.children.map(child => ({ child, value: child.group.others ? null : shape.value(rowAt(child.group.from)) }))
  for (const { value, label } of shape.every!) {
    if (known.has(label)) continue
    const group: GroupNode = { depth, from: 0, to: 0, parent: node.group, children: [], label, number: 0 }
    valued.push({ child: { depth, label, group, first: node.end, end: node.end, parent: node, children: [] }, value })
  }
  const direction = shape.order.descending ? -1 : 1
  return valued
    .map((each, place) => ({ ...each, place }))
    .sort((a, b) =>
      a.value === null || b.value === null
        ? Number(a.value === null) - Number(b.value === null) || a.place - b.place
        : orders.value(a.value, b.value) * direction || a.place - b.place,
    )
    .map(({ child }) => child)
}
