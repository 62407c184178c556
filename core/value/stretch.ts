import type { Column } from './columns'
import type { DataRecords, LevelRecords } from './records'

/** Some slots of a column, `from` up to (not including) `to`: the same memory, where it can be. */
function slice(column: Column, from: number, to: number): Column {
  if (column.kind === 'text') return { kind: 'text', values: column.values.slice(from, to) }
  if (column.kind !== 'number') return { ...column, values: column.values.subarray(from, to) } as Column
  const values = column.values.subarray(from, to)
  if (!column.wide?.size) return { kind: 'number', scale: column.scale, values }
  const wide = new Map<number, bigint>()
  for (const [row, units] of column.wide) if (row >= from && row < to) wide.set(row - from, units)
  return wide.size ? { kind: 'number', scale: column.scale, values, wide } : { kind: 'number', scale: column.scale, values }
}

/** Root records `from` up to (not including) `to` and all that lies under them. `levels` say of each level which one is above it. */
export function stretchOf(data: DataRecords, levels: readonly { parent: number }[], from: number, to: number): DataRecords {
  const ends: [number, number][] = []
  const made = data.levels.map((records, index): LevelRecords => {
    const { parent } = levels[index]!
    const [first, end] = parent < 0 ? [from, to] : ends[parent]!
    const own: [number, number] = parent < 0 ? [from, to] : [records.starts[first]!, records.starts[end]!]
    ends.push(own)
    const starts = parent < 0 ? Int32Array.of(0, to - from) : records.starts.slice(first, end + 1).map(each => each - own[0])
    const columns = Object.fromEntries(Object.entries(records.columns).map(([path, column]) => [path, slice(column, ...own)]))
    return { count: own[1] - own[0], starts, columns }
  })
  return data.nested ? { levels: made, nested: data.nested } : { levels: made }
}
