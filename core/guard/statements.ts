import { sql, type SQL } from 'drizzle-orm'
import { bound } from '../catalog/dialect'
import type { Catalog } from '../books/catalog'
import { findTable } from '../catalog/types'
import type { Query, ShownTable, ShownTables } from '../sql/query'
import { inOtherWords, quotedName, withPlaceholders } from '../sql/statementParts'
import type { Sight } from './sight'

/** The alias of a guarded table within what stands for it. */
const own = sql.identifier('seen')

/**
 * Statements of ours as somebody may ask them: each table of the source whose records or columns are guarded is read through its guards,
 * wherever it stands. It works on the finished statement, so that nothing that makes statements can forget it.
 */
export class GuardedStatements {
  private readonly known = new Map<string, { text: string; values: unknown[] }>()
  constructor(
    /** what the source holds, hidden columns too */
    private readonly catalog: Catalog,
    private readonly schema: string,
    private readonly sight: Sight,
  ) {}

  /** A table as it is seen, to stand after `from`. */
  seen(name: string): SQL {
    const { tests, hidden } = this.sight
    const table = sql`${sql.identifier(this.schema)}.${sql.identifier(name)}`
    const test = tests.get(name)
    const without = hidden.get(name)
    if (!test && !without) return table
    const columns = without
      ? sql.join(
          (findTable(this.catalog, name)?.columns ?? []).flatMap(column =>
            without.has(column.name)
              ? []
              : [column.name, ...(column.raw === undefined ? [] : [column.raw])].map(each => sql`${own}.${sql.identifier(each)}`),
          ),
          sql`, `,
        )
      : sql`${own}.*`
    const where = test
      ? sql` where ${test(
          column => sql`${own}.${sql.identifier(column)}`,
          each => this.seen(each),
        )}`
      : sql``
    return sql`(select ${columns} from ${table} as ${own}${where})`
  }

  /** The same statement over what is seen. */
  query(query: Query): Query {
    const places = new Map<string, string>()
    const values = [...query.values]
    const text = inOtherWords(query.text, this.schema, {
      table: (name, whole, named) => {
        if (!this.sight.tests.has(name) && !this.sight.hidden.has(name)) return whole
        let place = places.get(name)
        if (place === undefined) {
          const found = this.text(name)
          const before = values.length
          place = withPlaceholders(found.text, number => `$${number + before}`)
          values.push(...found.values)
          places.set(name, place)
        }
        return `${place}${named ?? ` as ${quotedName(name)}`}`
      },
    })
    return { ...query, text, values }
  }

  /** What takes the place of each guarded table in texts of authors, where those are taken apart. */
  shown(): ShownTables {
    const { tests, hidden } = this.sight
    return Object.fromEntries(
      [...new Set([...tests.keys(), ...hidden.keys()])].map(name => {
        const test = tests.get(name)
        const found: ShownTable = { seen: this.text(name), hidden: [...(hidden.get(name) ?? [])] }
        if (test)
          found.test = bound(
            test(
              column => sql`${own}.${sql.identifier(column)}`,
              each => this.seen(each),
            ),
          )
        return [name, found]
      }),
    )
  }

  private text(name: string): { text: string; values: unknown[] } {
    let found = this.known.get(name)
    if (!found) this.known.set(name, (found = bound(this.seen(name))))
    return found
  }
}
