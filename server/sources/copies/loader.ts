import { sql, type SQL } from 'drizzle-orm'
import { copyRow } from '../../../core/intake/convert'
import { comment, namesOf, tableOf, type Target } from './target'

/** Letters of COPY that are handed over at a time, and that are put into bytes at a time. */
const pieceSize = 8_000_000
const bytesAtOnce = 500_000

const encoder = new TextEncoder()

/** Fills a table of a copy by COPY, piece by piece. */
export class TableLoader {
  private piece: Uint8Array<ArrayBuffer>[] = []
  private rowTexts: string[] = []
  private letters = 0
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
    this.rowTexts.push(row)
    this.letters += row.length
    this.size += row.length
    this.rows++
    if (this.letters > bytesAtOnce) this.encode()
  }

  /** Rows that are written as COPY takes them already. */
  addBytes(bytes: Uint8Array<ArrayBuffer>, rows: number): void {
    if (this.letters) this.encode()
    this.piece.push(bytes)
    this.size += bytes.length
    this.rows += rows
  }

  private encode(): void {
    this.piece.push(encoder.encode(this.rowTexts.join('')))
    this.rowTexts = []
    this.letters = 0
  }

  /** Waited for between parts: hands over what has come together. */
  async drained(): Promise<void> {
    if (this.size > pieceSize) await this.hand()
  }

  async hand(): Promise<void> {
    if (!this.size) return
    if (this.letters) this.encode()
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
