import { PostgreSQL } from '@codemirror/lang-sql'
import { sql, type SQL } from 'drizzle-orm'
import type { ParameterType } from '../definition/parameters'
import { suggestion } from '../value/suggestion'
import { dayText } from '../value/date'
import { type Decimal, decimalText } from '../value/decimal'
import { momentText } from '../value/moment'
import type { Answer } from '../value/value'
import { arrayText } from '../catalog/dialect'

/** A text that cannot be run: one sentence, and the stretch of it that is meant. */
export class SqlTextError extends Error {
  constructor(
    message: string,
    readonly from: number,
    readonly to: number,
  ) {
    super(message)
  }
}

/** A stretch of a statement's text: as it stands, or a parameter's name (`:month`). */
export type SqlTextPart = { text: string; from: number } | { name: string; from: number; to: number }

/**
 * Finds the names of parameters in a statement: a colon and a name, outside of quoted texts, quoted names, dollar-quoted texts and comments
 * (PostgreSQL manual, section 4.1). A double colon is a cast and stays.
 */
export function sqlTextParts(text: string): SqlTextPart[] {
  const parts: SqlTextPart[] = []
  let at = 0
  const opaque = opaqueStretches(text)
  let next = 0
  for (const match of text.matchAll(/::|:([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)?)/g)) {
    if (match[1] === undefined) continue
    while (next < opaque.length && opaque[next]!.to <= match.index) next++
    if (next < opaque.length && opaque[next]!.from <= match.index) continue
    if (match.index > at) parts.push({ text: text.slice(at, match.index), from: at })
    at = match.index + match[0].length
    parts.push({ name: match[1], from: match.index, to: at })
  }
  if (at < text.length) parts.push({ text: text.slice(at), from: at })
  return parts
}

const opaqueNodes = new Set(['String', 'QuotedIdentifier', 'LineComment', 'BlockComment'])

/** Quoted texts and names, and comments, also nested ones: nothing in them is a parameter. */
function opaqueStretches(text: string): { from: number; to: number }[] {
  const found: { from: number; to: number }[] = []
  const cursor = PostgreSQL.language.parser.parse(text).cursor()
  do if (opaqueNodes.has(cursor.name)) found.push({ from: cursor.from, to: cursor.to })
  while (cursor.next())
  return found
}

const casts: Record<ParameterType, string> = {
  number: 'numeric',
  text: 'text',
  date: 'date',
  moment: 'timestamp',
  boolean: 'boolean',
  texts: 'text[]',
}

/**
 * A statement of an author's with its parameters bound. The text itself goes in as it stands, and must only be run in the guarded way
 * of the source engine.
 * @throws SqlTextError for a name that is no parameter
 */
export function bindNames(text: string, types: Readonly<Record<string, ParameterType>>, values: Readonly<Record<string, Answer>>): SQL {
  const parts = sqlTextParts(text.replace(/[;\s]+$/, '')).map((part): SQL => {
    if ('text' in part) return sql.raw(part.text)
    const type = types[part.name]
    if (!type)
      throw new SqlTextError(`There is no parameter “${part.name}”${suggestion(part.name, Object.keys(types))}.`, part.from, part.to)
    return sql`${sql.param(boundText(values[part.name] ?? null))}::${sql.raw(casts[type])}`
  })
  // a comment at the end must not swallow what follows
  return sql`${sql.join(parts, sql``)}\n`
}

/** The place in an author's text of a place in its bound form (both counted from 0). */
export function placeInText(text: string, types: Readonly<Record<string, ParameterType>>, place: number): number {
  let bound = 0
  let last = 0
  sqlTextParts(text)
    .filter(part => 'name' in part)
    .forEach((part, index) => {
      if (!('name' in part)) return
      const start = bound + part.from - last
      const length = `$${index + 1}::${casts[types[part.name] ?? 'text']}`.length
      if (place >= start) {
        bound = start + length
        last = part.to
      }
    })
  return Math.max(0, Math.min(text.length, place >= bound ? last + place - bound : last))
}

function boundText(value: Answer): string | boolean | null {
  if (value === null || typeof value === 'string' || typeof value === 'boolean') return value
  if (typeof value === 'number') return dayText(value)
  if (typeof value === 'bigint') return momentText(value)
  return Array.isArray(value) ? arrayText(value) : decimalText(value as Decimal)
}
