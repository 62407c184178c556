import { sql, type SQL } from 'drizzle-orm'
import type { Catalog } from '../../core/books/catalog'
import { type CatalogColumn, type CatalogTable, columnCaption, findTable, readable } from '../../core/catalog/types'
import type { Query } from '../../core/sql/query'
import type { Fetch } from '../../core/read/read'
import { valueAt } from '../../core/value/columns'
import type { SourceDocument } from '../../core/api/answers'
import { bound } from '../../core/catalog/dialect'

/** Rows of each part that are shown. */
const shownRows = 60
const numberNames = /^(number|document_(number|no)|no|code|reference)$/i

/** Tables whose records are called by a number: one text column that tells them apart. */
function numbered(catalog: Catalog, but: string): { table: CatalogTable; column: string }[] {
  return catalog.tables.flatMap(table => {
    const column =
      table.name === but || !table.primaryKey.length
        ? undefined
        : table.columns.find(each => each.type === 'text' && numberNames.test(each.name))
    return column ? [{ table, column: column.name }] : []
  })
}

/** Columns that people read: keys that point elsewhere are shown by the name of what they point at, other whole keys are left out. */
function readableColumns(
  catalog: Catalog,
  table: CatalogTable,
  schema: string,
  skip: readonly string[] = [],
): { column: CatalogColumn; caption: string; value: SQL }[] {
  return table.columns.flatMap(column => {
    if (skip.includes(column.name)) return []
    const key = catalog.foreignKeys.find(
      each => each.from.table === table.name && each.from.columns.length === 1 && each.from.columns[0] === column.name,
    )
    const target = key && findTable(catalog, key.to.table)
    const name = target?.columns.find(each => each.type === 'text' && /^(name|number|description)$/.test(each.name))?.name
    const own = sql`${sql.identifier('own')}.${sql.identifier(column.name)}`
    if (key && target && name)
      return [
        {
          column: { ...column, type: 'text' as const },
          caption: readable(column.name),
          value: sql`(select ${sql.identifier(name)}::text from ${sql.identifier(schema)}.${sql.identifier(target.name)} as target
            where target.${sql.identifier(key.to.columns[0]!)} = ${own})`,
        },
      ]
    if (!key && table.primaryKey.includes(column.name) && table.primaryKey.length === 1 && column.type === 'number') return []
    return [{ column, caption: columnCaption(column), value: sql`${own}::text` }]
  })
}

/**
 * The document of a number, wherever the source keeps it, with the rows that belong to it; `journals` is the table that named it. Nothing
 * where there is none.
 */
export async function sourceDocument(
  catalog: Catalog,
  schema: string,
  number: string,
  journals: string,
  fetch: Fetch,
): Promise<SourceDocument | undefined> {
  const table = (name: string) => sql`${sql.identifier(schema)}.${sql.identifier(name)}`
  const read = async (statement: SQL, count: number): Promise<string[][]> => {
    const { text, values: params } = bound(statement)
    const query: Query = {
      text,
      values: params,
      columns: Array.from({ length: count }, (_, index) => ({ path: `t${index}`, type: 'text' })),
    }
    const rows = await fetch(query)
    return Array.from({ length: rows.count }, (_, row) => rows.columns.map(column => String(valueAt(column, row) ?? '')))
  }
  const candidates = numbered(catalog, journals)
  if (!candidates.length) return undefined
  const [found] = await read(
    sql`select own.name from (${sql.join(
      candidates.map(
        ({ table: own, column }, index) =>
          sql`select ${index}::int as place, ${own.name}::text as name where exists (select 1 from ${table(own.name)} where
            ${sql.identifier(column)} = ${number})`,
      ),
      sql` union all `,
    )}) as own order by place limit 1`,
    1,
  )
  const own = found && candidates.find(each => each.table.name === found[0])
  if (!own) return undefined
  const where = sql`${sql.identifier('own')}.${sql.identifier(own.column)} = ${number}`
  const columns = readableColumns(catalog, own.table, schema)
  const [record] = await read(
    sql`select ${sql.join(
      columns.map(each => each.value),
      sql`, `,
    )} from ${table(own.table.name)} as own where ${where} limit 1`,
    columns.length,
  )
  const parts: SourceDocument['parts'] = []
  for (const key of catalog.foreignKeys.filter(
    each => each.to.table === own.table.name && each.from.table !== own.table.name && each.origin !== 'kept',
  )) {
    const child = findTable(catalog, key.from.table)
    // what belongs to a document carries its key within its own
    if (!child || !key.from.columns.every(name => child.primaryKey.includes(name))) continue
    const shown = readableColumns(catalog, child, schema, key.from.columns)
    const link = sql.join(
      key.from.columns.map((name, index) => sql`own.${sql.identifier(name)} = head.${sql.identifier(key.to.columns[index]!)}`),
      sql` and `,
    )
    const from = sql`${table(child.name)} as own join ${table(own.table.name)} as head on ${link} where
      head.${sql.identifier(own.column)} = ${number}`
    const [[count] = ['0']] = await read(sql`select count(*)::text from ${from}`, 1)
    if (!Number(count)) continue
    const order = child.primaryKey.filter(name => !key.from.columns.includes(name))
    parts.push({
      caption: readable(child.name),
      count: Number(count),
      columns: shown.map(each => ({ caption: each.caption, number: each.column.type === 'number' })),
      rows: await read(
        sql`select ${sql.join(
          shown.map(each => each.value),
          sql`, `,
        )} from ${from}${
          order.length
            ? sql` order by ${sql.join(
                order.map(name => sql`own.${sql.identifier(name)}`),
                sql`, `,
              )}`
            : sql``
        } limit ${shownRows}`,
        shown.length,
      ),
    })
  }
  return {
    table: readable(own.table.name),
    fields: columns
      .map(({ caption, column }, index) => ({ caption, value: record![index]!, number: column.type === 'number' }))
      .filter(field => field.value !== ''),
    parts,
  }
}
