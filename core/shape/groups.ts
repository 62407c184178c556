import type { Value } from '../value/value'
import type { GroupNode } from '../formula/standing'

/** How rows are put into groups at one depth. Functions take records; those of groups take all records of the group. */
export interface GroupShape {
  /** tells groups apart; equal keys belong together */
  key: (row: number) => string
  value: (row: number) => Value
  label: (row: number) => string
  /** added to a label that two groups share */
  code?: (row: number) => string
  order: { by: 'name' | 'value' | 'total' | 'given'; descending: boolean; given?: readonly string[]; total?: (rows: Int32Array) => Value }
  top?: { count: number; last: boolean; others?: string; total: (rows: Int32Array) => Value }
  keep?: (rows: Int32Array) => boolean
  /** of an innermost group of an axis: groups that stand there with records or without, each with its value and label */
  every?: readonly { value: Value; label: string }[]
}

/** The comparisons that shaping needs: of texts and of values that are not empty. */
export interface Orders {
  text: (a: string, b: string) => number
  value: (a: Value, b: Value) => number
}

export interface Shaped {
  rows: Int32Array
  root: GroupNode
  /** labels that more than one group had, by depth */
  twins: { depth: number; label: string }[]
}

interface Bucket {
  key: string
  label: string
  plain: string
  value: Value
  rows: Int32Array
  others?: boolean
}

/**
 * Puts rows into groups within groups. Groups come in the order asked for, ties and what is not in a given order by key; empty values
 * come last,
 * and a group of all others last of all (rules 2 and 12 of the semantics). Rows keep their order, or take that of `lines`.
 */
export function shapeGroups(
  rows: Int32Array,
  shapes: readonly GroupShape[],
  orders: Orders,
  lines?: (a: number, b: number) => number,
): Shaped {
  const out: number[] = []
  const twins: Shaped['twins'] = []
  const keyed = shapes.map(shape => keysOf(rows, shape))
  const told = shapes.map(() => new Set<string>())
  const visit = (own: Int32Array, depth: number, node: GroupNode): void => {
    node.from = out.length
    const shape = shapes[depth]
    if (!shape) {
      if (lines) own.sort((a, b) => lines(a, b) || a - b)
      for (const row of own) out.push(row)
    } else {
      const twin = (label: string) => {
        if (told[depth]!.has(label)) return
        told[depth]!.add(label)
        twins.push({ depth, label })
      }
      for (const bucket of bucketsOf(own, shape, keyed[depth]!, orders, twin)) {
        const child: GroupNode = {
          depth,
          from: 0,
          to: 0,
          parent: node,
          children: [],
          label: bucket.label,
          number: node.children.length + 1,
          ...(bucket.others ? { others: true } : {}),
        }
        visit(bucket.rows, depth + 1, child)
        // a group whose members are all dropped is none
        if (child.to > child.from) node.children.push(child)
      }
    }
    node.to = out.length
  }
  const root: GroupNode = { depth: -1, from: 0, to: 0, children: [], label: '', number: 1 }
  visit(rows.slice(), 0, root)
  return { rows: Int32Array.from(out), root, twins }
}

/** The keys by row, and the names that groups of different keys share, wherever in the table they stand. */
interface Keyed {
  keys: readonly string[]
  shared: ReadonlySet<string>
}

function keysOf(rows: Int32Array, shape: GroupShape): Keyed {
  const keys: string[] = []
  const labels = new Map<string, string>()
  const shared = new Set<string>()
  const seen = new Set<string>()
  for (const row of rows) {
    const key = shape.key(row)
    keys[row] = key
    if (!shape.code || seen.has(key)) continue
    seen.add(key)
    const label = shape.label(row)
    const other = labels.get(label)
    if (other === undefined) labels.set(label, key)
    else if (other !== key) shared.add(label)
  }
  return { keys, shared }
}

function bucketsOf(rows: Int32Array, shape: GroupShape, { keys, shared }: Keyed, orders: Orders, twin: (label: string) => void): Bucket[] {
  const found = new Map<string, number[]>()
  for (const row of rows) {
    const key = keys[row]!
    const list = found.get(key)
    if (list) list.push(row)
    else found.set(key, [row])
  }
  let buckets = [...found].map(([key, list]): Bucket => {
    const label = shape.label(list[0]!)
    return { key, label, plain: label, value: shape.value(list[0]!), rows: Int32Array.from(list) }
  })
  const count = new Map<string, number>()
  for (const { label } of buckets) count.set(label, (count.get(label) ?? 0) + 1)
  for (const bucket of buckets) {
    if (count.get(bucket.plain)! < 2 && !shared.has(bucket.plain)) continue
    twin(bucket.plain)
    if (shape.code) bucket.label = `${bucket.plain} (${shape.code(bucket.rows[0]!)})`
  }
  if (shape.keep) buckets = buckets.filter(bucket => shape.keep!(bucket.rows))
  buckets = sorted(buckets, shape, orders)
  if (!shape.top) return buckets
  const { count: most, last, others, total } = shape.top
  const ranked = byTotal(buckets, total, !last, orders)
  const kept = new Set(ranked.slice(0, most))
  const rest = buckets.filter(bucket => !kept.has(bucket))
  buckets = buckets.filter(bucket => kept.has(bucket))
  if (rest.length && others !== undefined) {
    buckets.push({
      key: '',
      label: others,
      plain: others,
      value: null,
      rows: Int32Array.from(rest.flatMap(bucket => [...bucket.rows])).sort(),
      others: true,
    })
  }
  return buckets
}

function sorted(buckets: Bucket[], shape: GroupShape, orders: Orders): Bucket[] {
  const { by, descending, given, total } = shape.order
  const direction = descending ? -1 : 1
  if (by === 'total' && total) return byTotal(buckets, total, descending, orders)
  if (by === 'given' && given) {
    const place = new Map(given.map((name, index) => [name, index]))
    const of = (bucket: Bucket) => place.get(bucket.plain) ?? given.length
    return [...buckets].sort((a, b) => of(a) - of(b) || orders.text(a.plain, b.plain) || orders.text(a.key, b.key))
  }
  return [...buckets].sort((a, b) => {
    const empty = Number(a.value === null) - Number(b.value === null)
    if (empty) return empty
    const own = a.value === null ? 0 : by === 'value' ? orders.value(a.value, b.value) : orders.text(a.plain, b.plain)
    return own * direction || orders.text(a.key, b.key)
  })
}

/** Highest first where `descending`; groups without a total come last. */
function byTotal(buckets: Bucket[], total: (rows: Int32Array) => Value, descending: boolean, orders: Orders): Bucket[] {
  const totals = new Map(buckets.map(bucket => [bucket, total(bucket.rows)]))
  return [...buckets].sort((a, b) => {
    const [x, y] = [totals.get(a)!, totals.get(b)!]
    if (x === null || y === null) return Number(x === null) - Number(y === null) || orders.text(a.key, b.key)
    return orders.value(x, y) * (descending ? -1 : 1) || orders.text(a.key, b.key)
  })
}
