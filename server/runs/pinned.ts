import { PassThrough } from 'node:stream'
import { text as readAll } from 'node:stream/consumers'
import { assembleReport, usedFields } from '../../core/compose/assemble'
import { type PackedLevel, rowsFromCsv, rowsFromJson, unpackLevel } from '../../core/read/pinned'
import { columnOf } from '../../core/value/columns'
import { packEnvelope } from '../../core/value/envelope'
import { readRecordsOf } from '../../core/value/nestedEnvelope'
import type { DataRecords } from '../../core/value/records'
import { CsvRows, JsonRows } from './formats/rows'
import { RunError, type RunInput } from './input'

/** Pinned rows packed. Those that an older program kept are JSON. */
export function pinnedEnvelope(rows: Uint8Array): Uint8Array {
  if (rows[0] !== 0x7b) return rows
  try {
    const { levels, ...head } = JSON.parse(new TextDecoder().decode(rows)) as { levels: PackedLevel[] }
    return packEnvelope(head, levels.map(unpackLevel))
  } catch {
    // a length of 123 bytes begins as a brace does
    return rows
  }
}

export function pinnedRecords(rows: Uint8Array): DataRecords {
  return readRecordsOf(pinnedEnvelope(rows)).records
}

/** Rows that come in a file: of all levels as JSON, or of one level as CSV. */
export interface PinnedFile {
  format: 'json' | 'csv'
  level?: string | undefined
  text: string
}

/** Rows of a file packed, beside what is held already of the levels that it does not bring. @throws RowsError */
export function pinRows(
  { definition, catalog }: RunInput,
  { format, level, text }: PinnedFile,
  before: Uint8Array | undefined,
): Uint8Array {
  const report = assembleReport(definition, catalog)
  const { levels } = report.tree
  const held = before && pinnedRecords(before).levels
  const nothing = () => levels.map(() => ({ count: 0, starts: new Int32Array(1), columns: {} }))
  const records =
    format === 'json'
      ? rowsFromJson(text, levels)
      : rowsFromCsv(text, levels, level ?? '', { levels: held?.length === levels.length ? held : nothing() })
  // what the pages use and the file does not hold is empty
  usedFields(report, false).forEach((paths, at) => {
    const own = records.levels[at]!
    for (const path of paths) own.columns[path] ??= columnOf(levels[at]!.fields.get(path)!.type, new Array<null>(own.count).fill(null))
  })
  return packEnvelope({ total: records.levels[0]!.count, sql: [], ms: 0, fromFile: true }, records.levels)
}

/** Pinned rows as a file: JSON of all levels, or CSV of one. @throws RunError */
export async function pinnedFile(
  { definition, catalog }: RunInput,
  rows: Uint8Array,
  format: PinnedFile['format'],
  name: string | undefined,
): Promise<string> {
  const { levels } = assembleReport(definition, catalog).tree
  const data = pinnedRecords(rows)
  const level = levels.find(each => each.name === name)
  if (format === 'csv' && !level) throw new RunError([`There is no level “${name ?? ''}”.`])
  if (levels.length !== data.levels.length) throw new RunError(['The levels have changed since the rows were pinned; pin them again.'])
  const out = new PassThrough()
  const text = readAll(out)
  const writer = format === 'csv' ? new CsvRows(out, level!) : new JsonRows(out, levels)
  await writer.add(data)
  await writer.end()
  out.end()
  return text
}
