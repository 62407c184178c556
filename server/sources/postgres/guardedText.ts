import { parse, scan } from 'libpg-query'
import { findTable, type TableCatalog } from '../../../core/catalog/types'
import type { ShownTable, ShownTables, StatementPart } from '../../../core/sql/query'
import { quotedName as quoted, withPlaceholders } from '../../../core/sql/statementParts'
import { ValueError } from '../reading/wireReader'
import { namesOf, type Node, visit } from './tree'
import { inWordsOf, type RealTable, type ServerWords } from './words'

/*
 * Texts of authors for people with guards, on a server where no policy of ours can stand. PostgreSQL's own parser says where in a statement
 * a table is named; there, what is seen of it takes its place. What the parser cannot be held to (views, which read for themselves; parts
 * of the text that have a guarded table's name) is refused. The result is taken apart once more: no guarded table may stand in it but where
 * we put it.
 */

/** A statement in the words of a server in which nothing of a guarded table is read but what is seen. */
export interface GuardedText {
  text: string
  values: unknown[]
  /** the place in the text that was given of a place in this one (both counted from 1) */
  placeBefore: (place: number) => number
}

/** A stretch of a text, in bytes of UTF-8, and what takes its place. */
interface Stretch {
  from: number
  to: number
  by: string
}

/** @param given in our own words, with texts of authors in it as they wrote them */
export async function guardTables(
  given: string,
  values: readonly unknown[],
  { words, catalog }: { words: ServerWords; catalog: TableCatalog },
  shown: ShownTables,
): Promise<GuardedText> {
  const known = new RealTables(words, shown)
  // what nothing guards takes its own words first: whatever is put in afterwards is not touched again
  const unguarded = new Map([...words.tables].filter(([name]) => !shown[name]))
  const text = inWordsOf({ ...words, tables: unguarded }, given)
  const { ranges, parts, placeholders } = await takeApart(text)
  for (const name of parts) known.refusePart(name)
  const bytes = Buffer.from(text)
  const tokens = await tokensOf(text)
  const all = [...values]
  // values of a statement that is only described are not there
  let bound = Math.max(values.length, placeholders)
  const put = new Map<string, string>()
  const placed = (key: string, part: () => StatementPart): string => {
    let found = put.get(key)
    if (found === undefined) {
      const { text: own, values: more } = part()
      const before = bound
      bound += more.length
      all.push(...more)
      put.set(
        key,
        (found = inWordsOf(
          words,
          withPlaceholders(own, number => `$${number + before}`),
        )),
      )
    }
    return found
  }
  const stretches: Stretch[] = []
  for (const range of ranges) {
    const found = known.find(range, parts)
    if (!found) continue
    const { name, own, table } = found
    const by = own
      ? placed(`own ${name}`, () => table.seen)
      : placed(name, () => rawPart(words.tables.get(name)!, columnsOf(catalog, name, table), table))
    const stretch = tokens.nameAt(range)
    if (!stretch || range.only) throw notGuardable(range.name)
    stretches.push({ ...stretch, by: range.named ? by : `${by} as ${quoted(range.name)}` })
  }
  stretches.sort((one, other) => one.from - other.from)
  const spliced = splice(bytes, stretches)
  await checkAgain(spliced, known, ranges.length)
  return {
    text: spliced.text,
    values: all,
    // what is longer in other words stands before an author's own text
    placeBefore: place => Math.max(1, placeBefore(text, stretches, place) - (text.length - given.length)),
  }
}

const notGuardable = (name: string) =>
  new ValueError(`The text reads “${name}” in a way that guards cannot be put into; write it as “from ${name}”, without ONLY, * or TABLE.`)

/** Columns of a table that may be seen, by their names. */
const columnsOf = (catalog: TableCatalog, name: string, { hidden }: ShownTable): string[] =>
  (findTable(catalog, name)?.columns ?? []).map(each => each.name).filter(each => !hidden.includes(each))

/**
 * A guarded table for an author's text: its columns as they stand in the server, of the records that are seen. The offset keeps the server
 * from asking the text's own conditions of other records first (an error could tell what is in them).
 */
function rawPart(real: RealTable, columns: readonly string[], { test }: ShownTable): StatementPart {
  // with spaces, so that it is not taken for a name of ours
  const place = `${quoted(real.schema)} . ${quoted(real.name)}`
  const listed = (of: string) => columns.map(each => `${of}.${quoted(each)}`).join(', ')
  if (!test) return { text: `(select ${listed('own')} from ${place} as own)`, values: [] }
  if (!real.columns)
    return { text: `(select ${listed('"seen"')} from ${place} as "seen" where ${test.text} offset 0)`, values: test.values }
  const read = real.columns.map(each => `${each.as} as ${quoted(each.name)}`).join(', ')
  return {
    text:
      `(select ${listed('own')} from ${place} as own ` +
      `where exists (select from (select ${read}) as "seen" where ${test.text}) offset 0)`,
    values: test.values,
  }
}

/** A table as a statement names it. */
interface Range {
  schema?: string
  name: string
  /** it has a name of its own in the statement */
  named: boolean
  /** without what inherits from it */
  only: boolean
  /** in bytes */
  at: number
}

/** What stands in a statement: tables, the names of its own parts, the highest placeholder. */
async function takeApart(text: string): Promise<{ ranges: Range[]; parts: Set<string>; types: string[]; placeholders: number }> {
  const found = { ranges: [] as Range[], parts: new Set<string>(), types: [] as string[], placeholders: 0 }
  visit(await parse(text), (kind, node) => {
    if (kind === 'CommonTableExpr') found.parts.add(String(node.ctename))
    if (kind === 'ParamRef') found.placeholders = Math.max(found.placeholders, Number(node.number ?? 0))
    if (Array.isArray(node.names)) found.types.push(namesOf(node.names).at(-1) ?? '')
    if (typeof node.relname === 'string') found.ranges.push(rangeOf(node))
  })
  return found
}

function rangeOf(node: Node): Range {
  const range: Range = {
    name: node.relname as string,
    named: node.alias !== undefined,
    only: node.inh !== true,
    at: Number(node.location ?? 0),
  }
  if (typeof node.schemaname === 'string') range.schema = node.schemaname
  return range
}

/** Which table of the source a statement means. */
class RealTables {
  private readonly byName = new Map<string, string[]>()
  constructor(
    private readonly words: ServerWords,
    private readonly shown: ShownTables,
  ) {
    for (const [name, real] of words.tables) this.byName.set(real.name, [...(this.byName.get(real.name) ?? []), name])
  }

  /** What has to be put in the place of a table; nothing where it may stay. @throws ValueError where that cannot be told */
  find({ schema, name }: Range, parts: ReadonlySet<string>): { name: string; own: boolean; table: ShownTable } | undefined {
    if (schema === this.words.called && this.shown[name]) return { name, own: true, table: this.shown[name] }
    if (schema === undefined && parts.has(name)) return undefined
    const meant = (this.byName.get(name) ?? []).filter(each => schema === undefined || this.words.tables.get(each)!.schema === schema)
    for (const each of meant)
      if (this.words.tables.get(each)!.view && !this.shown[each])
        throw new ValueError(
          `The text reads the view “${name}”, and nothing guards what a view reads; read its tables, or have it guarded or ` +
            `the text released.`,
        )
    const guarded = meant.filter(each => this.shown[each])
    if (!guarded.length) return undefined
    if (meant.length > 1)
      throw new ValueError(`The text reads “${name}”, and several schemas have a table of this name; write it with its schema.`)
    return { name: guarded[0]!, own: false, table: this.shown[guarded[0]!]! }
  }

  /** @throws ValueError where a part of the text has a guarded table's name, so that one could be taken for the other */
  refusePart(name: string): void {
    if (this.isGuarded(name)) throw new ValueError(`A part of the text is called “${name}”, as a table of the source is; rename it.`)
  }

  hides(name: string): boolean {
    return (this.byName.get(name) ?? []).some(each => this.shown[each]?.hidden.length)
  }

  private isGuarded(name: string): boolean {
    return (this.byName.get(name) ?? []).some(each => this.shown[each] || this.words.tables.get(each)!.view)
  }
}

/** The stretch of a table's name in a text. */
async function tokensOf(text: string): Promise<{ nameAt: (range: Range) => { from: number; to: number } | undefined }> {
  const { tokens } = await scan(text)
  const words = tokens.filter(each => !each.tokenName.endsWith('_COMMENT'))
  const places = new Map(words.map((each, index) => [each.start, index]))
  return {
    nameAt({ at, schema }) {
      const first = places.get(at)
      const last = first === undefined ? undefined : words[first + (schema === undefined ? 0 : 2)]
      if (!last || (schema !== undefined && words[first! + 1]!.text !== '.')) return undefined
      return { from: at, to: last.end }
    },
  }
}

/** A text with other words in its stretches, and where these are then. */
function splice(bytes: Buffer, stretches: readonly Stretch[]): { text: string; put: { from: number; to: number }[] } {
  const parts: Buffer[] = []
  const put: { from: number; to: number }[] = []
  let [at, length] = [0, 0]
  const add = (part: Buffer) => {
    parts.push(part)
    length += part.length
  }
  for (const { from, to, by } of stretches) {
    add(bytes.subarray(at, from))
    const start = length
    add(Buffer.from(by))
    put.push({ from: start, to: length })
    at = to
  }
  add(bytes.subarray(at))
  return { text: Buffer.concat(parts).toString(), put }
}

/** @throws ValueError where a table still stands in a text otherwise than we put it there */
async function checkAgain(
  { text, put }: { text: string; put: readonly { from: number; to: number }[] },
  known: RealTables,
  before: number,
): Promise<void> {
  const again = await takeApart(text).catch((): never => {
    throw new ValueError('The text cannot be taken apart so that guards can be put into it; write its tables as “from” and “join” only.')
  })
  const outside = again.ranges.filter(({ at }) => !put.some(({ from, to }) => at >= from && at < to))
  const wrong = outside.find(range => known.find(range, again.parts))
  if (wrong) throw notGuardable(wrong.name)
  if (outside.length + put.length !== before)
    throw new ValueError('The text reads a table in a way that guards cannot be put into; write it as “from” and “join” only.')
  // the type of a row tells which columns there are
  const type = again.types.find(each => known.hides(each))
  if (type !== undefined)
    throw new ValueError(`The text names the rows of “${type}” as a type, which would tell of all its columns; leave that out.`)
}

/** Where a place of a spliced text is in the text before; within what was put there, where that begins. Both counted from 1, in letters. */
function placeBefore(text: string, stretches: readonly Stretch[], place: number): number {
  const bytes = Buffer.from(text)
  const letters = (to: number) => bytes.subarray(0, to).toString().length
  let longer = 0
  for (const { from, to, by } of stretches) {
    const [start, end] = [letters(from), letters(to)]
    if (place - 1 < start + longer) break
    if (place - 1 < start + longer + by.length) return start + 1
    longer += by.length - (end - start)
  }
  return Math.max(1, place - longer)
}
