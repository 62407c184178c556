import type { PGlite } from '@electric-sql/pglite'
import { sql, type SQL } from 'drizzle-orm'
import { bound } from '../../../core/catalog/dialect'
import { copyRow } from '../../../core/intake/convert'

/** Letters of COPY that are handed over at a time. */
const pieceSize = 8_000_000

export const run = async (db: PGlite, statement: SQL) => {
  const { text, values } = bound(statement)
  return db.query<Record<string, unknown>>(text, values)
}

/** A text of ours as a literal: COMMENT takes no bound values. */
export const literal = (text: string) => `'${text.replaceAll("'", "''")}'`

/** Fills a table of a copy by COPY, piece by piece. */
export class TableLoader {
  private piece: string[] = []
  private size = 0
  rows = 0
  readonly name: SQL

  constructor(
    private readonly db: PGlite,
    schema: string,
    table: string,
  ) {
    this.name = sql`${sql.identifier(schema)}.${sql.identifier(table)}`
  }

  /** Makes the table; types are words of PostgreSQL, never a text of a user's. */
  async create(columns: readonly { name: string; type: SQL; required?: boolean }[]): Promise<void> {
    const list = columns.map(({ name, type, required }) => sql`${sql.identifier(name)} ${type}${required ? sql` not null` : sql``}`)
    await run(this.db, sql`create table ${this.name} (${sql.join(list, sql`, `)})`)
  }

  add(cells: readonly (string | null)[]): void {
    const row = copyRow(cells)
    this.piece.push(row)
    this.size += row.length
    this.rows++
  }

  /** Waited for between parts: hands over what has come together. */
  async drained(): Promise<void> {
    if (this.size > pieceSize) await this.hand()
  }

  async hand(): Promise<void> {
    if (!this.size) return
    const blob = new Blob(this.piece)
    this.piece = []
    this.size = 0
    await this.db.query(bound(sql`copy ${this.name} from '/dev/blob'`).text, [], { blob })
  }

  async key(columns: readonly string[]): Promise<void> {
    await run(
      this.db,
      sql`alter table ${this.name} add primary key (${sql.join(
        columns.map(each => sql.identifier(each)),
        sql`, `,
      )})`,
    )
  }

  async comment(column: string | undefined, text: string): Promise<void> {
    const what = column === undefined ? sql`table ${this.name}` : sql`column ${this.name}.${sql.identifier(column)}`
    await this.db.exec(`comment on ${bound(what).text} is ${literal(text)}`)
  }

  async analyze(): Promise<void> {
    await this.db.exec(`analyze ${bound(this.name).text}`)
  }
}
