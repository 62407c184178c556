import { type PackedLevel, unpackLevel } from '../../core/read/pinned'
import { packEnvelope, readEnvelope } from '../../core/value/envelope'
import type { DataRecords } from '../../core/value/records'

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
  return { levels: readEnvelope(pinnedEnvelope(rows)).levels }
}
