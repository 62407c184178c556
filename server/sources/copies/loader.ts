import { sql, type SQL } from 'drizzle-orm'
import { copyRow } from '../../../core/intake/convert'
import { comment, namesOf, tableOf, type Target } from './target'

/** Letters of COPY that are handed over at a time. */
const pieceSize = 8_000_000

/** Fills a table of a copy by COPY, piece by piece. */
export class TableLoader {
  private piece: string[] = []
  private size = 0
  rows = 0
  readonly name: SQL

  /** `place` is where rows go, where that is another table than the one that is made */
  constructor(
    private readonly target: Target,
    private readonly table: string,
    place?: SQL,
  ) {
    this.name = place ?? tableOf(target, table)
  }

  /** Makes the table; types are words of PostgreSQL, never a text of a user's. */
  async create(columns: readonly { name: string; type: SQL; required?: boolean }[]): Promise<void> {
    const list = columns.map(({ name, type, required }) => sql`${sql.identifier(name)} ${type}${required ? sql` not null` : sql``}`)
    await this.target.run(sql`create table ${this.name} (${sql.join(list, sql`, `)})`)
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
    const { piece } = this
    this.piece = []
    this.size = 0
    await this.target.copy(this.name, piece)
  }

  async key(columns: readonly string[]): Promise<void> {
    await this.target.run(sql`alter table ${this.name} add primary key (${namesOf(columns)})`)
  }

  async comment(column: string | undefined, text: string): Promise<void> {
    await comment(this.target, this.table, column, text)
  }

  async analyze(): Promise<void> {
    await this.target.run(sql`analyze ${this.name}`)
  }
}
