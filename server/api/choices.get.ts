import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { findTable } from '../../core/catalog/types'
import { valueAt } from '../../core/dataset/records'
import { sourceSchema } from '../estante'
import { StoreError } from '../store/store'

const dialect = new PgDialect()
const most = 50

/** Choices of a parameter, read from its table: value and label, those that hold the searched text. */
export default route(async (event, app) => {
  const query = getQuery(event)
  const report = await app.store.report(String(query.report))
  const parameter = report.definition.parameters.find(each => each.name === query.parameter)
  if (!parameter?.choices) throw new StoreError(`“${String(query.parameter)}” has no choices.`, 404)
  const { table: name, value, label } = parameter.choices
  const table = findTable(await app.catalog(), name)
  if (!table || ![value, label].every(column => table.columns.some(each => each.name === column))) throw new StoreError(`The table “${name}” with the choices of ${parameter.label} is not in the source any more.`, 422)
  const search = `%${String(query.search ?? '').replace(/[%_\\]/g, '\\$&')}%`
  const [valueColumn, labelColumn] = [sql`${sql.identifier(value)}::text`, sql`${sql.identifier(label)}::text`]
  const { sql: text, params } = dialect.sqlToQuery(sql`select ${valueColumn}, ${labelColumn} from ${sql.identifier(sourceSchema)}.${sql.identifier(name)}
    where ${labelColumn} ilike ${search} or ${valueColumn} ilike ${search} order by ${labelColumn} collate "unicode", ${valueColumn} limit ${most}`)
  const rows = await app.engine.query({ text, values: params, columns: [{ path: 'value', type: 'text' }, { path: 'label', type: 'text' }] }, { client: 'choices', timeLimit: 10_000 })
  return Array.from({ length: rows.count }, (_, row) => ({ value: valueAt(rows.columns[0]!, row), label: valueAt(rows.columns[1]!, row) }))
})
