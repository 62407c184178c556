import { inOtherWords, quotedName as quoted } from '../../../core/sql/statementParts'

/*
 * Our statements name the tables of a server by one schema, and order and fold text by the collations of the newest version. What goes to
 * the server stands in its own words: the real schema of each table, its columns as types that are ours, its collations.
 */

/** The schema by which our statements name the tables of a server, whatever theirs is. */
export const liveSchema = 'source'

/** How a table stands in the server. */
export interface RealTable {
  schema: string
  name: string
  /** its columns as they are read, where not all of them can be read as they stand */
  columns?: { name: string; as: string }[]
  /** it reads other tables, as whoever made it may */
  view?: boolean
}

/** What a server calls things. */
export interface ServerWords {
  /** the schema by which our statements name its tables */
  called: string
  tables: ReadonlyMap<string, RealTable>
  /** order of texts by the Unicode root collation; without it byte by byte, and what is read is put into order after reading */
  order: string
  /** case of all languages' letters */
  fold: string
}

/** Collations by what a server knows: `unicode` came with 16, `pg_unicode_fast` with 18; before them those of ICU, where it has them. */
export function collationsOf(known: ReadonlySet<string>): Pick<ServerWords, 'order' | 'fold'> {
  const order = ['unicode', 'und-x-icu'].find(each => known.has(each))
  const fold = ['pg_unicode_fast', 'und-x-icu'].find(each => known.has(each))
  return { order: quoted(order ?? 'C'), fold: quoted(fold ?? 'default') }
}

/** A statement of ours in the words of a server. */
export function inWordsOf({ called, tables, order, fold }: ServerWords, text: string): string {
  return inOtherWords(text, called, {
    collation: name => `collate ${name === 'unicode' ? order : fold}`,
    table: (table, whole, named) => {
      const real = tables.get(table)
      // a table that is gone is named as it was, so that the server says it
      if (!real) return whole
      const name = `${quoted(real.schema)}.${quoted(real.name)}`
      if (!real.columns) return `${name}${named ?? ''}`
      const columns = real.columns.map(column => `${column.as} as ${quoted(column.name)}`).join(', ')
      return `(select ${columns} from ${name} as own)${named ?? ` as ${quoted(real.name)}`}`
    },
  })
}
