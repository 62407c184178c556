import type { PGlite } from '@electric-sql/pglite'
import { sql, type SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { parseDay } from '../core/value/date'
import { add, compareDecimals, type Decimal, decimalText, parseDecimal, subtract, zero } from '../core/value/decimal'

/** A journal entry as somebody writes it at the company desk. Amounts are numbers as text, in the company's currency. */
export interface DeskEntry { date: string, description: string, document?: string, lines: DeskLine[] }
export interface DeskLine { account: string, branch: string, department?: string, debit?: string, credit?: string }

/** An entry that cannot be posted: one sentence. */
export class DeskError extends Error {}

const dialect = new PgDialect()
/** Journals of the desk are numbered from here, beyond all that the company's own generator will ever make. */
const firstDeskJournal = 9_000_001

interface Line { account: string, branch: number, department: number | null, debit: Decimal, credit: Decimal }

/** Posts a journal entry in one transaction; it must balance within each branch (rule 31 of the semantics). Comes back with the journal's number. @throws DeskError */
export async function postEntry(db: Pick<PGlite, 'query'>, schema: string, entry: DeskEntry): Promise<string> {
  const table = (name: string) => sql`${sql.identifier(schema)}.${sql.identifier(name)}`
  const ask = async <T>(statement: SQL): Promise<T[]> => {
    const { sql: text, params } = dialect.sqlToQuery(statement)
    return (await db.query<T>(text, params)).rows
  }
  if (parseDay(entry.date) === undefined) throw new DeskError(`“${entry.date}” is no date; write it as 2026-10-31.`)
  if (!entry.description.trim()) throw new DeskError('The entry has no description; say what it is for.')
  const [period] = await ask<{ year: number, number: number, name: string, closed: boolean }>(sql`select p.fiscal_year_id as year, p.number, y.name, exists (select 1 from ${table('journals')} j where j.fiscal_year_id = p.fiscal_year_id and j.is_closing) as closed
    from ${table('fiscal_periods')} p join ${table('fiscal_years')} y on y.id = p.fiscal_year_id where not p.is_adjustment and ${entry.date}::date between p.starts_on and p.ends_on`)
  if (!period) throw new DeskError(`No fiscal period holds ${entry.date}; choose a date within the fiscal years of the company.`)
  if (period.closed) throw new DeskError(`The fiscal year ${period.name} is closed; choose a later date.`)
  const lines: Line[] = []
  for (const [index, line] of entry.lines.entries()) {
    const fail = (what: string): never => {
      throw new DeskError(`Line ${index + 1} ${what}`)
    }
    const money = (text: string | undefined): Decimal => {
      const value = text?.trim() ? parseDecimal(text.trim()) : zero
      if (!value || compareDecimals(value, zero) < 0 || value.scale > 2 || compareDecimals(value, { units: 1e12, scale: 0 }) >= 0) return fail(`has the amount “${text}”; write a positive amount with at most two decimals.`)
      return value
    }
    const [debit, credit] = [money(line.debit), money(line.credit)]
    if ((compareDecimals(debit, zero) > 0) === (compareDecimals(credit, zero) > 0)) fail('needs a debit or a credit, and not both.')
    const [account] = await ask(sql`select 1 from ${table('accounts')} where code = ${line.account}`)
    if (!account) fail(`is on the account “${line.account}”, which does not exist; choose one of the chart of accounts.`)
    const [branch] = await ask<{ id: number }>(sql`select id from ${table('branches')} where code = ${line.branch}`)
    const [department] = line.department ? await ask<{ id: number }>(sql`select id from ${table('departments')} where code = ${line.department}`) : []
    if (!branch || (line.department && !department)) fail('names a branch or department that does not exist; choose another.')
    lines.push({ account: line.account, branch: branch!.id, department: department?.id ?? null, debit, credit })
  }
  if (lines.length < 2) throw new DeskError('An entry has two lines at least, one with a debit and one with a credit.')
  for (const branch of new Set(entry.lines.map(line => line.branch))) {
    const own = lines.filter((_, index) => entry.lines[index]!.branch === branch)
    const off = own.reduce<Decimal>((sum, line) => add(sum, subtract(line.debit, line.credit)), zero)
    if (compareDecimals(off, zero) !== 0) throw new DeskError(`The entry does not balance in branch ${branch}: debits and credits differ by ${decimalText(off).replace('-', '')}.`)
  }
  const [next] = await ask<{ id: number }>(sql`select greatest(coalesce(max(id), 0) + 1, ${firstDeskJournal}::integer)::integer as id from ${table('journals')}`)
  const number = `D-${String(next!.id - firstDeskJournal + 1).padStart(6, '0')}`
  await ask(sql`insert into ${table('journals')} (id, number, posting_date, fiscal_year_id, period_number, source, document_number, description, is_closing) values (${next!.id}, ${number}, ${entry.date}, ${period.year}, ${period.number}, 'desk', ${entry.document?.trim() || null}, ${entry.description.trim()}, false)`)
  for (const [index, line] of lines.entries()) await ask(sql`insert into ${table('journal_lines')} (journal_id, line_no, account_code, branch_id, department_id, debit, credit) values (${next!.id}, ${index + 1}, ${line.account}, ${line.branch}, ${line.department}, ${decimalText(line.debit)}::numeric, ${decimalText(line.credit)}::numeric)`)
  return number
}
