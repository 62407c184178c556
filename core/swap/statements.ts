import type { Catalog } from '../books/catalog'
import { inOtherWords, quotedName } from '../sql/statementParts'
import { speaksOf } from '../value/text'
import { type NamedTable, namedTables, type SourceNames, unnamed } from './names'

/** Tables of a source read under other names, as parts of statements. */
export class NamedStatements {
  private readonly tables: ReadonlyMap<string, NamedTable>
  private readonly hidden: ReadonlyMap<string, readonly string[]>
  constructor(
    catalog: Pick<Catalog, 'tables'>,
    names: SourceNames,
    /** the schema by which statements name the tables of the source */
    private readonly schema: string,
  ) {
    this.tables = new Map(namedTables(catalog, names).map(table => [table.name, table]))
    // columns that a table gives beside those that are shown
    this.hidden = new Map(catalog.tables.map(table => [table.name, table.columns.flatMap(column => column.raw ?? [])]))
  }

  /** A statement of ours over the names of a report, as one over those of the source. */
  statement(text: string): string {
    return inOtherWords(text, this.schema, {
      table: (name, whole, named) => {
        const table = this.tables.get(name)
        if (!table) return whole
        if (unnamed(table)) return `${quotedName(this.schema)}.${quotedName(table.table)}${named ?? ''}`
        return `(${this.select(table)})${named ?? ` as ${quotedName(name)}`}`
      },
    })
  }

  /**
   * What stands before a statement that holds an author’s text, so that the text finds its tables by the names of the report, and the
   * statement behind it.
   */
  authored(text: string): { before: string; text: string } {
    const tables = [...this.tables.values()].filter(table => !unnamed(table) && speaksOf(text, table.name))
    if (!tables.length) return { before: '', text }
    const list = tables.map(table => `${quotedName(table.name)} as (${this.select(table)})`).join(', ')
    // comments may stand before the first word
    const own = /^(?:\s|--[^\n]*\n|\/\*[\s\S]*?\*\/)*with(\s+recursive)?\s/i.exec(text)
    return own
      ? { before: `with${own[1] ? ' recursive' : ''} ${list}, `, text: text.slice(own[0].length) }
      : { before: `with ${list} `, text }
  }

  private select({ table, columns }: NamedTable): string {
    const shown = [...columns].map(([name, own]) => `${quotedName(own)} as ${quotedName(name)}`)
    const hidden = (this.hidden.get(table) ?? []).filter(name => !columns.has(name)).map(quotedName)
    return `select ${[...shown, ...hidden].join(', ')} from ${quotedName(this.schema)}.${quotedName(table)}`
  }
}
