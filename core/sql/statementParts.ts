import { literalPattern } from '../value/text'

/** A name as a statement writes it. */
export const quotedName = (name: string) => `"${name.replaceAll('"', '""')}"`

/** What stands for parts of a statement; what is not said stays as it is. */
export interface OtherWords {
  /** for a table of the schema; `named` is the “ as” behind it, where it has a name of its own in the statement */
  table: (name: string, whole: string, named: string | undefined) => string
  collation?: (name: string) => string
}

/**
 * Puts other words for the tables of a schema and for collations of ours into a statement. What is quoted, a comment, a name with its
 * schema: each is found where it begins, so nothing inside another is.
 */
export function inOtherWords(text: string, schema: string, words: OtherWords): string {
  const parts = new RegExp(
    [
      /collate "(unicode|pg_unicode_fast)"/.source,
      `${literalPattern(quotedName(schema))}\\."((?:[^"]|"")*)"( as\\b)?`,
      /"(?:[^"]|"")*"/.source,
      /'(?:[^']|'')*'/.source,
      /\$(?<tag>\w*)\$[\s\S]*?\$\k<tag>\$/.source,
      /--[^\n]*/.source,
      /\/\*[\s\S]*?\*\//.source,
    ].join('|'),
    'g',
  )
  return text.replace(
    parts,
    (whole: string, collation: string | undefined, table: string | undefined, named: string | undefined): string => {
      if (collation) return words.collation?.(collation) ?? whole
      return table === undefined ? whole : words.table(table.replaceAll('""', '"'), whole, named)
    },
  )
}

/** Puts other words for the placeholders of bound values (`$1` …) into a statement; what is quoted stays as it is. */
export const withPlaceholders = (text: string, word: (number: number) => string): string =>
  text.replace(/"(?:[^"]|"")*"|'(?:[^']|'')*'|\$(\d+)/g, (whole: string, number: string | undefined) =>
    number === undefined ? whole : word(Number(number)),
  )
