import type { PGlite } from '@electric-sql/pglite'
import { sql, type SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { parseDay } from '../../core/value/date'
import { add, compareDecimals, type Decimal, decimalText, parseDecimal, subtract, zero } from '../../core/value/decimal'
import type { DeskClosing, DeskEntry } from '../../core/api/desk'

/** What cannot be posted: one sentence. */
export class DeskError extends Error {}

const dialect = new PgDialect()
/** What the desk adds is numbered from here, beyond all that the company's own generator will ever make. */
const firstOfDesk = 9_000_001

export interface DeskPosting {
  account: string
  branch: number
  department: number | null
  debit: Decimal
  credit: Decimal
}
interface Period {
  year: number
  number: number
}

/** The tables of the company as the desk writes to them, within a transaction that somebody else has begun. */
export class DeskBooks {
  constructor(
    private readonly db: Pick<PGlite, 'query'>,
    private readonly schema: string,
  ) {}

  table(name: string): SQL {
    return sql`${sql.identifier(this.schema)}.${sql.identifier(name)}`
  }

  async ask<T>(statement: SQL): Promise<T[]> {
    const { sql: text, params } = dialect.sqlToQuery(statement)
    return (await this.db.query<T>(text, params)).rows
  }

  /** The open period of a date. @throws DeskError */
  async period(date: string): Promise<Period> {
    if (parseDay(date) === undefined) throw new DeskError(`“${date}” is no date; write it as 2026-10-31.`)
    const [period] = await this.ask<
      Period & { name: string; closed: boolean; period: string; shut: boolean }
    >(sql`select p.fiscal_year_id as year, p.number, y.name, exists (select 1 from ${this.table('journals')} j where
      j.fiscal_year_id = p.fiscal_year_id and j.is_closing) as closed,
      p.name as period, p.closed_on is not null as shut
      from ${this.table('fiscal_periods')} p join ${this.table('fiscal_years')} y on y.id = p.fiscal_year_id where not
      p.is_adjustment and ${date}::date between p.starts_on and p.ends_on`)
    if (!period) throw new DeskError(`No fiscal period holds ${date}; choose a date within the fiscal years of the company.`)
    if (period.closed) throw new DeskError(`The fiscal year ${period.name} is closed; choose a later date.`)
    if (period.shut) throw new DeskError(`The period ${period.period} is closed; choose a later date.`)
    return period
  }

  /** The next free number of a table's records, and its name with a prefix. */
  async next(table: string, prefix: string): Promise<{ id: number; number: string }> {
    const [found] = await this.ask<{ id: number }>(
      sql`select greatest(coalesce(max(id), 0) + 1, ${firstOfDesk}::integer)::integer as id from ${this.table(table)}`,
    )
    return { id: found!.id, number: `${prefix}${String(found!.id - firstOfDesk + 1).padStart(6, '0')}` }
  }

  /**
   * Writes a journal; comes back with its number. @throws DeskError where it does not balance within a branch (rule 31 of the semantics)
   */
  async journal(
    period: Period,
    date: string,
    description: string,
    document: string | null,
    postings: readonly DeskPosting[],
  ): Promise<string> {
    for (const branch of new Set(postings.map(each => each.branch))) {
      const off = postings
        .filter(each => each.branch === branch)
        .reduce<Decimal>((sum, line) => add(sum, subtract(line.debit, line.credit)), zero)
      if (compareDecimals(off, zero) === 0) continue
      const [name] = await this.ask<{ code: string }>(sql`select code from ${this.table('branches')} where id = ${branch}`)
      throw new DeskError(
        `The entry does not balance in branch ${name?.code ?? branch}: debits and credits differ by ${decimalText(off).replace('-', '')}.`,
      )
    }
    const { id, number } = await this.next('journals', 'D-')
    await this.ask(
      sql`insert into ${this.table('journals')} (id, number, posting_date, fiscal_year_id, period_number, source, document_number,
        description, is_closing) values (${id}, ${number}, ${date}, ${period.year}, ${period.number}, 'desk', ${document},
        ${description}, false)`,
    )
    for (const [index, line] of postings.entries())
      await this.ask(
        sql`insert into ${this.table('journal_lines')} (journal_id, line_no, account_code, branch_id, department_id, debit, credit)
          values (${id}, ${index + 1}, ${line.account}, ${line.branch}, ${line.department}, ${decimalText(line.debit)}::numeric,
          ${decimalText(line.credit)}::numeric)`,
      )
    return number
  }

  async branch(code: string): Promise<number | undefined> {
    return (await this.ask<{ id: number }>(sql`select id from ${this.table('branches')} where code = ${code}`))[0]?.id
  }

  /** What is wrong with posting on an account; nothing where it exists and no others stand under it. */
  async accountFault(code: string): Promise<string | undefined> {
    const [found] = await this.ask<{ heading: boolean }>(
      sql`select exists (select 1 from ${this.table('accounts')} as below where below.parent_code = own.code) as heading from
        ${this.table('accounts')} as own where code = ${code}`,
    )
    if (!found) return `is on the account “${code}”, which does not exist; choose one of the chart of accounts.`
    return found.heading ? `is on the account “${code}”, a heading of the chart of accounts; choose one that stands under it.` : undefined
  }
}

/** An amount as it was typed, not below zero, below a limit and with at most so many decimals; nothing is zero. */
export function deskAmount(text: string | undefined, decimals = 2, limit = 1e12): Decimal | undefined {
  const value = text?.trim() ? parseDecimal(text.trim()) : zero
  return !value || compareDecimals(value, zero) < 0 || value.scale > decimals || compareDecimals(value, { units: limit, scale: 0 }) >= 0
    ? undefined
    : value
}

/** Posts a journal entry; it must balance within each branch. Comes back with the journal's number. @throws DeskError */
export async function postEntry(db: Pick<PGlite, 'query'>, schema: string, entry: DeskEntry): Promise<string> {
  const books = new DeskBooks(db, schema)
  const period = await books.period(entry.date)
  if (!entry.description.trim()) throw new DeskError('The entry has no description; say what it is for.')
  const lines: DeskPosting[] = []
  for (const [index, line] of entry.lines.entries()) {
    const fail = (what: string): never => {
      throw new DeskError(`Line ${index + 1} ${what}`)
    }
    const money = (text: string | undefined): Decimal =>
      deskAmount(text) ?? fail(`has the amount “${text}”; write a positive amount with at most two decimals.`)
    const [debit, credit] = [money(line.debit), money(line.credit)]
    if (compareDecimals(debit, zero) > 0 === compareDecimals(credit, zero) > 0) fail('needs a debit or a credit, and not both.')
    const fault = await books.accountFault(line.account)
    if (fault) fail(fault)
    const branch = await books.branch(line.branch)
    const [department] = line.department
      ? await books.ask<{ id: number }>(sql`select id from ${books.table('departments')} where code = ${line.department}`)
      : []
    if (!branch || (line.department && !department)) return fail('names a branch or department that does not exist; choose another.')
    lines.push({ account: line.account, branch, department: department?.id ?? null, debit, credit })
  }
  if (lines.length < 2) throw new DeskError('An entry has two lines at least, one with a debit and one with a credit.')
  return books.journal(period, entry.date, entry.description.trim(), entry.document?.trim() || null, lines)
}

/**
 * Closes a period that is over: nothing is posted in it from then on. Without a date the period that was closed last is opened again.
 * Comes back with its name. @throws DeskError
 */
export async function closePeriod(db: Pick<PGlite, 'query'>, schema: string, { year, number, date }: DeskClosing): Promise<string> {
  const books = new DeskBooks(db, schema)
  if (date !== undefined && parseDay(date) === undefined) throw new DeskError(`“${date}” is no date; write it as 2026-10-31.`)
  const table = books.table('fiscal_periods')
  const own = sql`fiscal_year_id::text = ${year} and number::text = ${number} and not is_adjustment`
  const [period] = await books.ask<{ name: string; closed: boolean; over: boolean; earlier: string | null; later: string | null }>(
    sql`select p.name, p.closed_on is not null as closed, p.ends_on < ${date ?? null}::date as over, (select e.name from ${table} e
      where e.closed_on is null and not e.is_adjustment and e.ends_on < p.ends_on order by e.ends_on limit 1) as earlier,
      (select e.name from ${table} e where e.closed_on is not null and not e.is_adjustment and e.ends_on > p.ends_on
      order by e.ends_on desc limit 1) as later from ${table} p where ${own}`,
  )
  if (!period) throw new DeskError('There is no such period in the books; choose another.')
  if (date === undefined) {
    if (!period.closed) throw new DeskError(`The period ${period.name} is open already.`)
    if (period.later) throw new DeskError(`The period ${period.later} is closed too; open it first.`)
    await books.ask(sql`update ${table} set closed_on = null where ${own}`)
    return period.name
  }
  if (period.closed) throw new DeskError(`The period ${period.name} is closed already.`)
  if (!period.over) throw new DeskError(`The period ${period.name} is not over on ${date}; close it after its last day.`)
  if (period.earlier) throw new DeskError(`The period ${period.earlier} is open still; close it first.`)
  await books.ask(sql`update ${table} set closed_on = ${date}::date where ${own}`)
  return period.name
}
