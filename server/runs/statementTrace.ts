import { sql, type SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import { findTable, readable } from '../../core/catalog/types'
import { assembleReport, usedFields } from '../../core/compose/assemble'
import type { PreparedBlock } from '../../core/compose/prepare'
import type { PreparedStatement } from '../../core/compose/statement'
import { planDataSet, type Query } from '../../core/dataset/plan'
import { type Fetch, readRecords } from '../../core/dataset/read'
import { type DataRecords, type Value, valueAt } from '../../core/dataset/records'
import { layoutOf } from '../../core/definition/layout'
import { arrayText } from '../../core/formula/sql'
import { traceFigure } from '../../core/statement/trace'
import { type Decimal, decimalText, trim, zero } from '../../core/value/decimal'
import { dayText } from '../../core/value/date'
import { composerOf, planningOf, type ReadyRun, RunError } from './execute'

/** A figure of a statement followed back: to its accounts, and to the journal lines of these with what each brings. Amounts are exact and written as numbers. */
export interface StatementTrace {
  figure: string
  words: string
  accounts: { code: string, name: string, amount: string }[]
  /** columns of the journal lines, before debit and credit */
  columns: string[]
  lines: { cells: string[], debit: string, credit: string }[]
  /** how many there are in all, and their debits − credits */
  count: number
  total: string
}

/** Journal lines shown at a time, the latest first. */
const shownLines = 300

/** @throws RunError where the figure is not there any more */
export async function statementTrace(run: ReadyRun, wanted: { statement: string, line: string, column: string, account?: string }, fetch: Fetch): Promise<StatementTrace> {
  const layout = layoutOf(run.definition, wanted.statement)?.name
  const { ledger: map, calendar } = run.catalog
  if (layout === undefined || !map || !calendar) throw new RunError(['The statement is not on a layout any more, or the source does not say where its books are.'])
  const report = assembleReport(run.definition, run.catalog, 0, layout)
  const plan = planDataSet({ levels: report.tree.levels, used: usedFields(report, false), ...planningOf({ ...run, report }) })
  let data: DataRecords | undefined
  for await (const chunk of readRecords(plan, fetch, { chunk: Number.MAX_SAFE_INTEGER })) data = chunk.records
  const composer = composerOf({ ...run, report })
  composer.use(data!)
  const find = (blocks: readonly PreparedBlock[]): PreparedStatement | undefined => blocks.reduce<PreparedStatement | undefined>((found, block) => found ?? (block.kind === 'repeat' ? find(block.inner) : block.kind === 'statement' && block.block.id === wanted.statement ? block : undefined), undefined)
  const prepared = find(report.layout.blocks)!
  const { shaped, columns, books } = composer.statement(prepared)
  const traced = traceFigure(wanted, prepared.lines, columns, books, shaped.turned, shaped.addedBy)
  if (!traced) throw new RunError(['This figure is not on the statement any more; read the rows again.'])
  const codes = traced.accounts.map(each => each.account.code)
  const found = traced.columns.some(each => each.column.kind === 'budget') || !codes.length ? undefined : await journalLines(run, codes, traced.columns, traced.branches, fetch)
  return {
    figure: written(traced.sum), words: traced.columns.length === 1 ? traced.columns[0]!.words : `${traced.columns[0]?.words ?? ''} – ${traced.columns.at(-1)?.words ?? ''}`,
    accounts: traced.accounts.map(({ account, amount }) => ({ code: account.code, name: account.name, amount: written(amount) })),
    columns: found?.columns ?? [], lines: found?.lines ?? [], count: found?.count ?? 0, total: found?.total ?? '0',
  }
}

const written = (value: Decimal) => decimalText(trim(value))

type Columns = NonNullable<ReturnType<typeof traceFigure>>['columns']

async function journalLines(run: ReadyRun, codes: readonly string[], columns: Columns, branches: readonly string[], fetch: Fetch): Promise<Pick<StatementTrace, 'columns' | 'lines' | 'count' | 'total'>> {
  const map = run.catalog.ledger!
  const calendar = run.catalog.calendar!
  const table = (name: string) => sql`${sql.identifier(run.schema)}.${sql.identifier(name)}`
  const head = map.journals ? 'head' : 'line'
  const of = (alias: string, name: string) => sql`${sql.identifier(alias)}.${sql.identifier(name)}`
  // a balance has moved since the beginning; its income and expense since that of the year, which is what the columns of the books say too
  const periods = new Set(columns.flatMap((each) => {
    if (each.column.kind !== 'balance' && each.column.kind !== 'opening') return each.periods
    const last = each.column.kind === 'balance' ? each.periods.at(-1)! : each.periods[0]!
    return calendar.periods.filter(period => each.column.kind === 'balance' ? period.code <= last : period.code < last).map(period => period.code)
  }))
  const parts = [...periods].map(code => /^(.*)-P(\d+)$/.exec(code)!)
  const array = (values: readonly unknown[], type: string): SQL => sql`${sql.param(arrayText(values))}::${sql.raw(type)}[]`
  const inPeriods = map.period
    ? sql`(${of(head, map.period.year)}, ${of(head, map.period.number)}) in (select * from unnest(${array(parts.map(part => Number(part[1])), 'integer')}, ${array(parts.map(part => Number(part[2])), 'integer')}))`
    : sql`exists (select 1 from unnest(${array([...periods].map(code => dayText(calendar.periods.find(each => each.code === code)!.start)), 'date')}, ${array([...periods].map(code => dayText(calendar.periods.find(each => each.code === code)!.end)), 'date')}) as p(first, last) where ${of(head, map.date)} between p.first and p.last)`
  const unitCodes = [...new Set([...branches, ...columns.flatMap(each => each.branch ? [each.branch] : each.column.branches ?? [])])]
  const conditions = [sql`${of('line', map.lines.account)}::text = any(${array(codes, 'text')})`, inPeriods, ...(map.closing ? [sql`not ${of(head, map.closing)}`] : []), ...(unitCodes.length && map.branches && map.lines.branch ? [sql`exists (select 1 from ${table(map.branches.table)} as unit where ${of('unit', map.branches.key)} = ${of('line', map.lines.branch)} and ${of('unit', map.branches.code)}::text = any(${array(unitCodes, 'text')}))`] : [])]
  const from = sql`${table(map.lines.table)} as line${map.journals ? sql` join ${table(map.journals.table)} as head on ${sql.join(map.journals.on.map(pair => sql`${of('head', pair.to)} = ${of('line', pair.from)}`), sql` and `)}` : sql``} where ${sql.join(conditions, sql` and `)}`
  const words = (findTable(run.catalog, map.journals?.table ?? map.lines.table)?.columns ?? []).filter(column => column.type === 'text').slice(0, 4)
  const [debit, credit] = map.lines.debit && map.lines.credit ? [of('line', map.lines.debit), of('line', map.lines.credit)] : [sql`greatest(${of('line', map.lines.amount!)}, 0)`, sql`greatest(-${of('line', map.lines.amount!)}, 0)`]
  const query = (statement: SQL, described: Query['columns']): Query => {
    const { sql: text, params } = new PgDialect().sqlToQuery(statement)
    return { text, values: params, columns: described }
  }
  const money = (path: string) => ({ path, type: 'number' as const, scale: 2 })
  const whole = await fetch(query(sql`select count(*)::numeric, coalesce(sum(${debit} - ${credit}), 0) from ${from}`, [{ path: 'count', type: 'number', scale: 0 }, money('total')]))
  const rows = await fetch(query(sql`select ${of(head, map.date)}, ${of('line', map.lines.account)}::text${sql.join(words.map(column => sql`, ${of(head, column.name)}::text`), sql``)}, ${debit}, ${credit} from ${from} order by ${of(head, map.date)} desc, 2 limit ${shownLines}`,
    [{ path: 'date', type: 'date' }, { path: 'account', type: 'text' }, ...words.map(column => ({ path: column.name, type: 'text' as const })), money('debit'), money('credit')]))
  const cell = (column: number, row: number): Value => valueAt(rows.columns[column]!, row)
  const figure = (column: number, row: number) => written((cell(column, row) as Decimal | null) ?? zero)
  return {
    columns: ['Date', 'Account', ...words.map(column => readable(column.name))],
    lines: Array.from({ length: rows.count }, (_, row) => ({ cells: [dayText(cell(0, row) as number), ...Array.from({ length: words.length + 1 }, (__, at) => String(cell(at + 1, row) ?? ''))], debit: figure(words.length + 2, row), credit: figure(words.length + 3, row) })),
    count: Number((valueAt(whole.columns[0]!, 0) as Decimal).units), total: written((valueAt(whole.columns[1]!, 0) as Decimal | null) ?? zero),
  }
}
