import { sourceSchema } from '../../estante'
import { sql } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { valueAt } from '../../../core/dataset/records'
import { dayText } from '../../../core/value/date'
import { plainText } from '../../../core/formula/functions'

/** What the company desk offers: accounts, branches and departments, and the entries posted there last. */
export default route(async (_, app) => {
  const table = (name: string) => sql`${sql.identifier(sourceSchema)}.${sql.identifier(name)}`
  const rows = async (statement: ReturnType<typeof sql>, columns: string[]) => {
    const { sql: text, params } = new PgDialect().sqlToQuery(statement)
    const found = await app.engine.query({ text, values: params, columns: columns.map(path => ({ path, type: 'text' as const })) }, { client: 'desk' })
    return Array.from({ length: found.count }, (_row, row) => Object.fromEntries(columns.map((path, at) => [path, plainText(valueAt(found.columns[at]!, row), dayText)])))
  }
  const [accounts, branches, departments, entries] = await Promise.all([
    rows(sql`select code, name from ${table('accounts')} order by code`, ['code', 'name']), rows(sql`select code, name from ${table('branches')} order by id`, ['code', 'name']), rows(sql`select code, name from ${table('departments')} order by id`, ['code', 'name']),
    rows(sql`select j.number, j.posting_date::text as date, j.description, j.document_number as document, sum(l.debit)::text as amount from ${table('journals')} j join ${table('journal_lines')} l on l.journal_id = j.id where j.source = 'desk' group by j.id, j.number, j.posting_date, j.description, j.document_number order by j.id desc limit 30`, ['number', 'date', 'description', 'document', 'amount']),
  ])
  return { accounts, branches, departments, entries }
})
