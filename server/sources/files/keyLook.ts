import { sql } from 'drizzle-orm'
import type { ProposedColumn } from '../../../core/intake/understand'
import { tableOf, type Target } from '../copies/target'

/** Rows whose values are held to see which columns repeat themselves at once. */
const mostSeen = 20_000
/** Columns that are tried as a key at most. */
const mostTried = 6

/** Finds the column that is a table's key: filled, and another in every row. Its rows are looked at as they come. */
export class KeyLook {
  private readonly seen: (Set<string> | undefined)[]
  private rows = 0

  constructor(columns: readonly unknown[]) {
    this.seen = columns.map(() => new Set<string>())
  }

  /** A row as it goes into the table: its line, then its values. */
  row(values: readonly (string | null)[]): void {
    if (this.rows++ >= mostSeen) return
    for (let at = 0; at < this.seen.length; at++) {
      const known = this.seen[at]
      if (!known) continue
      const value = values[at + 1]
      if (value === null || value === undefined || known.has(value)) this.seen[at] = undefined
      else known.add(value)
    }
  }

  /** Has it looked at all that it looks at? */
  get hasSeen(): boolean {
    return this.rows >= mostSeen
  }

  /** Gives a table its key: the first column that can be one, those that are called like keys first; nothing where none can. */
  async make(target: Target, table: string, columns: readonly ProposedColumn[]): Promise<string[]> {
    if (!this.rows) return []
    const named = (name: string) => (/^(id|no|nr|number|code|key)$|_(id|no|nr|number|code|key)$/.test(name) ? 0 : 1)
    const candidates = columns
      .map((column, at) => ({ column, at }))
      .filter(
        ({ column, at }) =>
          this.seen[at] &&
          column.empty === 0 &&
          (column.form.type === 'text' || (column.form.type === 'number' && column.scale === 0)) &&
          // a quantity that happens to be another in each row is no key
          (at === 0 || !named(column.name)),
      )
      .sort((a, b) => named(a.column.name) - named(b.column.name) || a.at - b.at)
      .slice(0, mostTried)
    for (const { column } of candidates) if (await isKeyed(target, table, column.name)) return [column.name]
    return []
  }
}

/** Makes a column the key of a table, where its values are all different and short enough for an index. */
async function isKeyed(target: Target, table: string, column: string): Promise<boolean> {
  const own = tableOf(target, table)
  // a statement that fails must not end the transaction in which all is made
  await target.run(
    sql`do $do$ begin alter table ${own} add primary key (${sql.identifier(column)});
        exception when unique_violation or not_null_violation or program_limit_exceeded then null; end $do$`,
  )
  const [found] = await target.run(
    sql`select exists (select 1 from pg_constraint k join pg_class c on c.oid = k.conrelid join pg_namespace n on n.oid = c.relnamespace
        where k.contype = 'p' and n.nspname = ${target.schema} and c.relname = ${table}) as keyed`,
  )
  return found?.keyed === true
}
