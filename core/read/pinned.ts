import { momentText, noMoment, parseMoment } from '../value/moment'
import Papa from 'papaparse'
import { parseDay } from '../value/date'
import { parseDecimal } from '../value/decimal'
import type { LevelInfo } from '../formula/typed'
import { tickedFields } from '../model/levels'
import { type Column, columnOf, takeRows, valueAt } from '../value/columns'
import type { DataRecords, LevelRecords } from '../value/records'
import type { Value, ValueType } from '../value/value'

/** Rows that come from a file and cannot be taken in: one sentence. */
export class RowsError extends Error {}

/** Records as they stand in JSON: NaN as null, wide numbers as text. */
export interface PackedLevel {
  count: number
  starts: number[]
  columns: Record<string, { kind: Column['kind']; scale?: number; values: (number | string | null)[]; wide?: [number, string][] }>
}

export function packLevel(level: LevelRecords): PackedLevel {
  return {
    count: level.count,
    starts: Array.from(level.starts),
    columns: Object.fromEntries(
      Object.entries(level.columns).map(([path, column]) => [
        path,
        column.kind === 'text'
          ? { kind: column.kind, values: column.values }
          : column.kind === 'moment'
            ? { kind: column.kind, values: Array.from(column.values, value => (value === noMoment ? null : momentText(value))) }
            : {
                kind: column.kind,
                ...(column.kind === 'number' ? { scale: column.scale } : {}),
                values: Array.from(column.values, value => (Number.isNaN(value) ? null : value === Infinity ? 'wide' : value)),
                ...(column.kind === 'number' && column.wide
                  ? { wide: [...column.wide].map(([row, units]): [number, string] => [row, String(units)]) }
                  : {}),
              },
      ]),
    ),
  }
}

export function unpackLevel(level: PackedLevel): LevelRecords {
  const columns: Record<string, Column> = {}
  for (const [path, column] of Object.entries(level.columns)) {
    if (column.kind === 'text') columns[path] = { kind: 'text', values: column.values as (string | null)[] }
    else if (column.kind === 'moment')
      columns[path] = columnOf(
        'moment',
        (column.values as (string | null)[]).map(text => (text === null ? null : parseMoment(text)!)),
      )
    else if (column.kind === 'boolean') columns[path] = { kind: 'boolean', values: Uint8Array.from(column.values as number[]) }
    else {
      const values = Float64Array.from(column.values, value => (value === null ? NaN : value === 'wide' ? Infinity : (value as number)))
      columns[path] =
        column.kind === 'date'
          ? { kind: 'date', values }
          : {
              kind: 'number',
              scale: column.scale!,
              values,
              ...(column.wide ? { wide: new Map(column.wide.map(([row, units]) => [row, BigInt(units)])) } : {}),
            }
    }
  }
  return { count: level.count, starts: Int32Array.from(level.starts), columns }
}

/** Fields that rows from a file can bring: what is ticked, the keys, and what links levels. */
function wantedPaths(level: LevelInfo, levels: readonly LevelInfo[]): string[] {
  const links = levels.filter(child => child.parent === level.index).flatMap(child => child.definition.on.map(pair => pair.from))
  return [
    ...new Set([
      ...level.key,
      ...level.definition.on.map(pair => pair.to),
      ...links,
      ...tickedFields(level.definition),
      ...level.definition.sort.map(sort => sort.field),
    ]),
  ].filter(path => level.fields.has(path))
}

const examples: Record<ValueType, string> = {
  number: 'it like 1234.50',
  date: 'it like 2026-10-31',
  moment: 'it like 2026-10-31 09:30',
  boolean: 'yes or no',
  text: '',
}

function readCell(type: ValueType, cell: unknown, where: string): Value {
  if (cell === null || cell === undefined || (cell === '' && type !== 'text')) return null
  const text = String(cell)
  const value =
    type === 'text'
      ? text
      : type === 'number'
        ? parseDecimal(text)
        : type === 'date'
          ? parseDay(text.slice(0, 10))
          : type === 'moment'
            ? parseMoment(text)
            : /^(true|yes|1)$/i.test(text)
              ? true
              : /^(false|no|0)$/i.test(text)
                ? false
                : undefined
  if (value === undefined)
    throw new RowsError(`“${text.slice(0, 40)}” ${where} is no ${type === 'boolean' ? 'yes or no' : type}; write ` + `${examples[type]}.`)
  return value
}

type JsonRecord = Record<string, unknown>

/**
 * Records out of JSON as rows are exported: an array of roots, detail levels as arrays inside. Fields that are not in it are empty.
 * @throws RowsError
 */
export function rowsFromJson(text: string, levels: readonly LevelInfo[]): DataRecords {
  let roots: unknown
  try {
    // numbers keep all their digits as texts
    roots = JSON.parse(
      text.replace(
        /("(?:[^"\\]|\\.)*")|(-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)/g,
        (_, quoted?: string, number?: string) => quoted ?? `"${number}"`,
      ),
    )
  } catch {
    throw new RowsError('The file is not readable JSON; nothing was taken in.')
  }
  if (!Array.isArray(roots))
    throw new RowsError(`The file must be a JSON array with one object per ${levels[0]!.caption.toLowerCase()}; nothing was taken in.`)
  const found: LevelRecords[] = []
  const lists: JsonRecord[][] = []
  for (const level of levels) {
    const parents = level.parent < 0 ? undefined : lists[level.parent]!
    const groups = parents ? parents.map(parent => parent[level.name] ?? []) : [roots]
    const wrong = groups.findIndex(group => !Array.isArray(group) || group.some(each => typeof each !== 'object' || each === null))
    if (wrong >= 0) throw new RowsError(`“${level.name}” of record ${wrong + 1} is no list of objects; nothing was taken in.`)
    const rows = (groups as JsonRecord[][]).flat()
    lists.push(rows)
    const starts = new Int32Array(groups.length + 1)
    ;(groups as JsonRecord[][]).forEach((group, index) => (starts[index + 1] = starts[index]! + group.length))
    found.push({
      count: rows.length,
      starts,
      columns: Object.fromEntries(
        wantedPaths(level, levels).map(path => {
          const { type } = level.fields.get(path)!
          return [
            path,
            columnOf(
              type,
              rows.map((row, index) => readCell(type, row[path], `in “${path}” of ${level.caption.toLowerCase()} ${index + 1}`)),
            ),
          ]
        }),
      ),
    })
  }
  return { levels: found }
}

/**
 * Replaces the records of one level by rows of a CSV file with a line of titles. A detail level's rows find their parents by the columns
 * that link them. @throws RowsError
 */
export function rowsFromCsv(text: string, levels: readonly LevelInfo[], name: string, before: DataRecords): DataRecords {
  const level = levels.find(each => each.name === name)
  if (!level) throw new RowsError(`There is no level “${name}”; there are ${levels.map(each => each.name).join(', ')}.`)
  const parsed = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), { header: true, skipEmptyLines: true })
  const fault = parsed.errors.find(each => each.type !== 'Delimiter')
  if (fault) throw new RowsError(`Line ${(fault.row ?? 0) + 2} of the file cannot be read as CSV: ${fault.message.toLowerCase()}.`)
  const titles = parsed.meta.fields ?? []
  const paths = wantedPaths(level, levels)
  if (!titles.some(title => paths.includes(title)))
    throw new RowsError(`No title of the file is a field of “${level.caption}”; it needs titles such as ${paths.slice(0, 4).join(', ')}.`)
  const columns: Record<string, Column> = Object.fromEntries(
    paths.map(path => {
      const { type } = level.fields.get(path)!
      return [
        path,
        columnOf(
          type,
          parsed.data.map((row, index) => (titles.includes(path) ? readCell(type, row[path], `in “${path}” of line ${index + 2}`) : null)),
        ),
      ]
    }),
  )
  const key = (from: Record<string, Column>, list: readonly string[], row: number) =>
    JSON.stringify(
      list.map(path => {
        const column = from[path]
        const value = column ? valueAt(column, row) : null
        return value !== null && typeof value === 'object' ? `${value.units}/${value.scale}` : value
      }),
    )
  const count = parsed.data.length
  const result = [...before.levels]
  if (level.parent < 0) result[level.index] = { count, columns, starts: Int32Array.from([0, count]) }
  else {
    const parent = before.levels[level.parent]!
    const [from, to] = [level.definition.on.map(pair => pair.from), level.definition.on.map(pair => pair.to)]
    const places = new Map(Array.from({ length: parent.count }, (_, row) => [key(parent.columns, from, row), row]))
    const owners = Array.from({ length: count }, (_, row) => places.get(key(columns, to, row)) ?? -1)
    const lost = owners.indexOf(-1)
    if (lost >= 0)
      throw new RowsError(
        `Line ${lost + 2} belongs to no ${levels[level.parent]!.caption.toLowerCase()} that is pinned; its ${to.join(', ')} must be ` +
          `among them.`,
      )
    const order = owners.map((_, row) => row).sort((a, b) => owners[a]! - owners[b]! || a - b)
    const starts = new Int32Array(parent.count + 1)
    for (const owner of owners) starts[owner + 1]!++
    for (let row = 0; row < parent.count; row++) starts[row + 1]! += starts[row]!
    result[level.index] = {
      count,
      starts,
      columns: Object.fromEntries(Object.entries(columns).map(([path, column]) => [path, takeRows(column, order)])),
    }
  }
  // levels under replaced records have no rows until their own file comes
  for (const each of levels) {
    if (each.index === level.index || !isUnder(levels, each.index, level.index)) continue
    result[each.index] = {
      count: 0,
      starts: new Int32Array(result[each.parent]!.count + 1),
      columns: Object.fromEntries(wantedPaths(each, levels).map(path => [path, columnOf(each.fields.get(path)!.type, [])])),
    }
  }
  return { levels: result }
}

function isUnder(levels: readonly LevelInfo[], level: number, above: number): boolean {
  for (let at = levels[level]!.parent; at >= 0; at = levels[at]!.parent) if (at === above) return true
  return false
}
