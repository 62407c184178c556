import type { Guard } from '../guard/guards'
import type { ValueType } from '../value/value'

/** A SQL text of an author's by which a report reads a source. */
export interface SourceText {
  report: string
  /** what its table is called in the report */
  name: string
  text: string
  /** who released it for people with guards, and when (ISO 8601) */
  released?: { by: string; at: string }
}

/** The guards of a source as administrators see them. */
export interface GuardsInfo {
  guards: Guard[]
  version: number
  /** its tables, with their columns and the relations by which their records belong to others */
  tables: { name: string; columns: { name: string; type: ValueType }[]; relations: { key: string; columns: string[]; table: string }[] }[]
  /** the engine guards SQL texts by itself: none has to be released */
  guardsTexts: boolean
  /** for people with guards texts are taken apart and guarded that way */
  parsed: boolean
  texts: SourceText[]
}

/** How many records a team sees of how many; or why that cannot be told. */
export interface GuardCount {
  seen?: number
  all?: number
  fault?: string
}
