import { momentText } from '../value/moment'
import { order } from '../formula/values'
import { decimalText, trim } from '../value/decimal'
import { dayText } from '../value/date'
import type { LevelInfo } from '../formula/typed'
import type { Plan } from '../sql/plan'
import type { Query, Rows } from '../sql/query'
import { type Column, takeRows, valueAt } from '../value/columns'
import type { DataRecords, LevelRecords } from '../value/records'
import type { Value } from '../value/value'
import { compareText } from '../value/text'

/** Runs one statement and gives its rows; `source` is the id of a nested report's source, where that is another than the run's. */
export type Fetch = (query: Query, source?: string) => Promise<Rows>

export interface ReadOptions {
  /**
   * roots per chunk; memory holds the keys of all (the records, of a table that is made), the details of one chunk, and of the two that
   * come next
   */
  chunk: number
  /** roots of the first chunk, where it should come sooner */
  first?: number
  /** at most so many roots (a preview) */
  limit?: number
  /** numbers by which the roots come before their own order, where they are read all at once */
  before?: (column: (path: string) => Column, count: number) => Float64Array
  /** what is read for the records of a chunk beside them, before they are handed on */
  more?: (records: DataRecords) => Promise<void>
}

/** A chunk of so many roots is meant to hold all of them. */
const allAtOnce = 1_000_000

/** Chunks that are read while one is worked on: two keep the source busy. */
const chunksAhead = 2

/** Records of a stretch of the roots, with how many roots there are in all. */
export interface Chunk {
  records: DataRecords
  total: number
  from: number
}

/**
 * Reads a data set chunk by chunk, roots in the order of their sort fields, then by key (rule 17 of the semantics);
 * each detail level likewise under its parent. Where a field speaks of all records, they come as one chunk. There is always at least one
 * chunk, an empty one where there are no roots.
 */
export async function* readRecords(plan: Plan, fetch: Fetch, asked: ReadOptions): AsyncGenerator<Chunk> {
  const options = plan.whole && asked.limit === undefined ? { chunk: Number.MAX_SAFE_INTEGER } : asked
  const root = plan.levels[0]!
  // a table that each statement makes anew is read whole by one, and cut into chunks here; so is any where all is wanted at once
  const whole = (plan.made || options.chunk >= allAtOnce) && options.limit === undefined ? plan.roots : undefined
  const first = whole ?? plan.keys
  const keys = await fetch(first)
  const column = (path: string) => keys.columns[first.columns.findIndex(each => each.path === path)]!
  const before: SortColumn[] = options.before
    ? [{ column: { kind: 'number', scale: 0, values: options.before(column, keys.count) }, descending: false }]
    : []
  const rows = sortedRows(keys.count, [...before, ...sortColumns(root, column)])
  const total = options.limit === undefined ? rows.length : Math.min(rows.length, options.limit)
  const keyColumns = root.key.map(column)
  const load = async (from: number, count: number): Promise<DataRecords> => {
    const stretch = rows.subarray(from, Math.min(from + count, total))
    const parents = whole ? [] : keyColumns.map(each => Array.from(stretch, row => boundValue(valueAt(each, row))))
    const levels: LevelRecords[] = []
    for (const level of plan.levels) {
      levels.push(
        level.parent < 0
          ? whole
            ? {
                count: stretch.length,
                columns: Object.fromEntries(whole.columns.map(({ path }) => [path, takeRows(column(path), stretch)])),
                starts: Int32Array.of(0, stretch.length),
              }
            : merge(
                level,
                plan,
                await fetchUnder(0, parents),
                new Map(keyTexts(parents).map((key, index) => [key, index])),
                stretch.length,
                true,
              )
          : await readDetail(level, levels[level.parent]!),
      )
    }
    const records: DataRecords = { levels }
    plan.workOut(records)
    await options.more?.(records)
    return records
  }
  // the source reads the next chunks while one is put together and worked on
  const begin = Math.min(options.first ?? options.chunk, options.chunk)
  const coming = [load(0, begin)]
  for (let from = 0, size = begin, ahead = begin; from === 0 || from < total; from += size, size = options.chunk) {
    const records = await coming.shift()!
    for (; coming.length < chunksAhead && ahead < total; ahead += options.chunk) {
      const next = load(ahead, options.chunk)
      next.catch(() => {})
      coming.push(next)
    }
    yield { records, total: rows.length, from }
  }

  async function fetchUnder(level: number, parents: unknown[][]): Promise<{ rows: Rows; paths: string[] }> {
    const query = plan.records(level, parents)
    const paths = query.columns.map(each => each.path)
    return { rows: await fetch(query), paths }
  }

  async function readDetail(level: LevelInfo, above: LevelRecords): Promise<LevelRecords> {
    const parents = plan
      .link(level.index)
      .parent.map(path => Array.from({ length: above.count }, (_, row) => boundValue(valueAt(above.columns[path]!, row))))
    return merge(
      level,
      plan,
      await fetchUnder(level.index, parents),
      new Map(keyTexts(parents).map((key, index) => [key, index])),
      above.count,
      false,
    )
  }
}

/** Puts fetched rows under their parents, in order. For the root the "parents" are the wanted keys themselves, which give the order. */
function merge(
  level: LevelInfo,
  plan: Plan,
  fetched: { rows: Rows; paths: string[] },
  parentOf: Map<string | number, number>,
  parents: number,
  isRoot: boolean,
): LevelRecords {
  const { rows, paths } = fetched
  const column = (path: string) => rows.columns[paths.indexOf(path)]!
  const own = plan.link(level.index).own.map(column)
  const owner = new Float64Array(rows.count)
  for (let row = 0; row < rows.count; row++) owner[row] = parentOf.get(keyText(own.map(each => boundValue(valueAt(each, row))))) ?? -1
  const ordered = sortedRows(rows.count, [
    { column: { kind: 'number', scale: 0, values: owner }, descending: false },
    ...(isRoot ? [] : sortColumns(level, column)),
  ])
  const starts = new Int32Array(isRoot ? 2 : parents + 1)
  if (isRoot) starts[1] = rows.count
  else {
    for (let row = 0; row < rows.count; row++) starts[owner[row]! + 1]!++
    for (let parent = 0; parent < parents; parent++) starts[parent + 1]! += starts[parent]!
  }
  const columns: Record<string, Column> = {}
  paths.forEach((path, index) => (columns[path] = takeRows(rows.columns[index]!, ordered)))
  return { count: rows.count, columns, starts }
}

interface SortColumn {
  column: Column
  descending: boolean
}

function sortColumns(level: LevelInfo, column: (path: string) => Column): SortColumn[] {
  return [
    ...level.definition.sort.map(sort => ({ column: column(sort.field), descending: sort.descending })),
    ...level.key.map(path => ({ column: column(path), descending: false })),
  ]
}

/** Row numbers in the order of some columns; empty comes last in either direction. */
export function sortedRows(count: number, by: readonly SortColumn[]): Int32Array {
  const rows = Int32Array.from({ length: count }, (_, index) => index)
  const comparisons = by.map(({ column, descending }, at) => comparison(column, descending ? -1 : 1, at === 0))
  return rows.sort((a, b) => {
    for (const compare of comparisons) {
      const difference = compare(a, b)
      if (difference) return difference
    }
    return a - b
  })
}

/** The first column is compared for all records, those after it only where it leaves two alike. */
function comparison(column: Column, direction: 1 | -1, first: boolean): (a: number, b: number) => number {
  const values =
    column.kind === 'text' && first
      ? placesOf(column.values)
      : column.kind === 'date' || (column.kind === 'number' && !column.wide)
        ? column.values
        : undefined
  if (values)
    return (a, b) => {
      const [x, y] = [values[a]!, values[b]!]
      if (x === y) return 0
      if (x !== x || y !== y) return x !== x ? (y !== y ? 0 : 1) : -1
      return (x - y) * direction
    }
  return (a, b) => {
    const [x, y] = [valueAt(column, a), valueAt(column, b)]
    if (x === null || y === null) return x === y ? 0 : x === null ? 1 : -1
    return order(x, y) * direction
  }
}

/** The place of each text among all of them in order, so that each is compared once and not with every record that holds it. */
function placesOf(texts: readonly (string | null)[]): Float64Array {
  const places = new Map<string | null, number>([[null, NaN]])
  for (const text of texts) places.set(text, NaN)
  const distinct = [...places.keys()].filter(text => text !== null).sort(compareText)
  distinct.forEach((text, place) => places.set(text, place))
  return Float64Array.from(texts, text => places.get(text)!)
}

/** A value as it is bound to a statement. */
export function boundValue(value: Value): string | number | boolean | null {
  if (value === null || typeof value === 'string' || typeof value === 'boolean') return value
  if (typeof value === 'number') return dayText(value)
  if (typeof value === 'bigint') return momentText(value)
  // a key is the same whatever digits its column declares
  const { units, scale } = value.scale === 0 ? value : trim(value)
  return scale === 0 && typeof units === 'number' ? units : decimalText({ units, scale })
}

function keyText(values: (string | number | boolean | null)[]): string | number {
  return values.length === 1 && typeof values[0] === 'number' ? values[0] : JSON.stringify(values)
}

function keyTexts(parents: (string | number | boolean | null)[][]): (string | number)[] {
  const count = parents[0]?.length ?? 0
  const texts = new Array<string | number>(count)
  for (let index = 0; index < count; index++) texts[index] = keyText(parents.map(column => column[index]!))
  return texts
}
