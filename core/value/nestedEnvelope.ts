import { packEnvelope, readEnvelope } from './envelope'
import type { DataRecords, LevelRecords, NestedSet } from './records'

/** How the levels of an envelope belong together: those of the records themselves first, then those of what is nested in them. */
interface Shape {
  levels: number
  nested?: Record<string, { parts: Shape[]; sets: [key: string, NestedSet][]; left?: number; said?: string; statements?: string[] }>
}

/** Puts records, with those of nested reports, and what is to be said of them into one stretch of bytes: see packEnvelope. */
export function packRecords(head: object, records: DataRecords): Uint8Array<ArrayBuffer> {
  const levels: LevelRecords[] = []
  const shapeOf = (data: DataRecords): Shape => {
    levels.push(...data.levels)
    const shape: Shape = { levels: data.levels.length }
    if (data.nested)
      shape.nested = Object.fromEntries(
        [...data.nested].map(([block, { parts, sets, ...more }]) => [block, { parts: parts.map(shapeOf), sets: [...sets], ...more }]),
      )
    return shape
  }
  const shape = shapeOf(records)
  return packEnvelope(shape.nested ? { ...head, shape } : head, levels)
}

/** Reads what packRecords wrote, or an envelope of records alone. */
export function readRecordsOf<Head extends object>(bytes: Uint8Array): { head: Head; records: DataRecords } {
  const { head, levels } = readEnvelope<Head & { shape?: Shape }>(bytes)
  const { shape, ...rest } = head
  let at = 0
  const raised = (own: Shape): DataRecords => {
    const data: DataRecords = { levels: levels.slice(at, (at += own.levels)) }
    if (own.nested)
      data.nested = new Map(
        Object.entries(own.nested).map(([block, { parts, sets, ...more }]) => [
          block,
          { parts: parts.map(raised), sets: new Map(sets), ...more },
        ]),
      )
    return data
  }
  return { head: rest as unknown as Head, records: raised(shape ?? { levels: levels.length }) }
}
