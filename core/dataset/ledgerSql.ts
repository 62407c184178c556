import { sql, type SQL } from 'drizzle-orm'
import type { Catalog, CatalogColumn } from '../catalog/types'
import type { LedgerTable, StatementBlock, StatementColumn } from '../definition/statementTypes'
import type { Block, ReportDefinition } from '../definition/types'
import { arrayText } from '../formula/sql'
import type { FiscalCalendar } from '../statement/calendar'
import { neededPeriods, standingColumns } from '../statement/columns'
import { debitNatured, type LedgerMap } from '../statement/ledger'
import { dayText } from '../value/date'

/** A ledger table of a report with what its statements ask of it. */
export interface OwnLedger {
  kind: 'ledger'
  definition: LedgerTable
  map: LedgerMap
  calendar: FiscalCalendar
  columns: StatementColumn[]
  /** rows stand apart by branch or department */
  branch: boolean
  department: boolean
}

/** All statements of a report, those inside repeats too. */
export function statementsOf(report: ReportDefinition): StatementBlock[] {
  const visit = (blocks: readonly Block[]): StatementBlock[] => blocks.flatMap(block => block.kind === 'statement' ? [block] : block.kind === 'repeat' ? visit(block.blocks) : [])
  return report.layouts.flatMap(layout => visit(layout.blocks))
}

/** A ledger table as the report's statements need it; nothing where the source has no books. */
export function ownLedger(definition: LedgerTable, report: ReportDefinition, catalog: Catalog): OwnLedger | undefined {
  const { ledger: map, calendar } = catalog
  if (!map || !calendar) return undefined
  const levels = new Set(report.dataSets.flatMap(dataSet => dataSet.root.table === `@${definition.name}` ? [dataSet.root.name] : []))
  const statements = statementsOf(report).filter(block => levels.has(block.level))
  const columns = statements.flatMap(block => block.columns)
  const asks = (one: 'branches' | 'departments', over: 'branch' | 'department') => statements.some(block => block.lines.some(line => line[one]?.length) || block.columns.some(column => column[one]?.length || column.repeat?.over === over))
  return { kind: 'ledger', definition, map, calendar, columns, branch: !!map.lines.branch && asks('branches', 'branch'), department: !!map.lines.department && asks('departments', 'department') }
}

const text = (name: string, caption?: string): CatalogColumn => ({ name, type: 'text', databaseType: 'text', required: false, ...(caption ? { caption } : {}) })
const money = (name: string): CatalogColumn => ({ name, type: 'number', scale: 2, databaseType: 'numeric', required: false, format: '#,##0.00' })

/** Columns of a ledger table; the first ones, up to the department, tell its rows apart. */
export function ledgerColumns(own: Pick<OwnLedger, 'branch' | 'department'>): { columns: CatalogColumn[], key: string[] } {
  const units = [...(own.branch ? ['branch'] : []), ...(own.department ? ['department'] : [])]
  return {
    columns: [text('account'), text('account_name', 'Name'), text('account_type', 'Type'), text('account_class', 'Class'), text('period'), text('version', 'Budget version'), ...units.map(name => text(name)), money('debit'), money('credit'), money('amount')],
    key: ['account', 'period', 'version', ...units],
  }
}

/** Fields that the filters of a ledger table can speak of. */
export const ledgerFilterColumns: CatalogColumn[] = ['account', 'account_type', 'account_class', 'branch', 'department'].map(name => text(name))

const budgetYear = /^(.*)-P(\d+)$/

export interface LedgerNeeds {
  schema: string
  /** gives the code of a period for a column's formula */
  anchor: (formula: string) => string
  /** filters over branches and departments, and those over accounts, with the SQL of their fields put in; those that cannot be said for a table are left out */
  inside: (column: (path: string) => SQL | undefined) => SQL[]
  outside: (column: (path: string) => SQL | undefined) => SQL[]
}

/**
 * One statement that adds up the books by account and period (and version, branch, department), each table read once. Every account has a row at least, and so have lines on accounts that do not exist.
 * @throws ColumnError
 */
export function ledgerSql(own: OwnLedger, needs: LedgerNeeds): SQL {
  const { map, calendar } = own
  const table = (name: string) => sql`${sql.identifier(needs.schema)}.${sql.identifier(name)}`
  const of = (alias: string, column: string) => sql`${sql.identifier(alias)}.${sql.identifier(column)}`
  // branches and departments that repeat columns do not change which periods are needed
  const standing = standingColumns(own.columns.map(column => column.repeat && (column.repeat.over === 'branch' || column.repeat.over === 'department') ? { ...column, repeat: undefined } as StatementColumn : column), { calendar, anchor: needs.anchor, branches: [], departments: [] })
  const posted = neededPeriods(standing.filter(each => each.column.kind !== 'budget'), calendar)
  const planned = neededPeriods(standing.filter(each => each.column.kind === 'budget'), calendar)
  const units = [...(own.branch ? ['branch'] : []), ...(own.department ? ['department'] : [])]
  const head = map.journals ? 'head' : 'line'

  /** Periods of the calendar numbered from 1, all before the first as 0, joined to a table that names its period or its date. */
  const slots = (wanted: { periods: string[], before: string[] }, alias: string, period: LedgerMap['period'], date: string | undefined): { join: SQL, period: SQL } => {
    const codes = [...wanted.before.map(code => [code, 0] as const), ...wanted.periods.map((code, index) => [code, index + 1] as const)]
    const array = (values: readonly unknown[], type: string) => sql`${sql.param(arrayText(values))}::${sql.raw(type)}[]`
    const label = sql`case when slot.place = 0 then '' else (${array(wanted.periods, 'text')})[slot.place] end`
    if (period) {
      const parts = codes.map(([code]) => budgetYear.exec(code)!)
      return { join: sql`join unnest(${array(parts.map(part => Number(part[1])), 'integer')}, ${array(parts.map(part => Number(part[2])), 'integer')}, ${array(codes.map(([, place]) => place), 'integer')}) as slot(year, number, place) on ${of(alias, period.year)} = slot.year and ${of(alias, period.number)} = slot.number`, period: label }
    }
    const dated = codes.flatMap(([code, place]) => {
      const found = calendar.periods.find(each => each.code === code)!
      return found.adjustment ? [] : [{ start: dayText(found.start), end: dayText(found.end), place }]
    })
    return { join: sql`join unnest(${array(dated.map(each => each.start), 'date')}, ${array(dated.map(each => each.end), 'date')}, ${array(dated.map(each => each.place), 'integer')}) as slot(first, last, place) on ${of(alias, date!)} between slot.first and slot.last`, period: label }
  }
  const unitSql = (name: string, alias: string, column: string | undefined): { join: SQL, code: SQL } | undefined => {
    const unit = name === 'branch' ? map.branches : map.departments
    if (!column) return undefined
    if (!unit || unit.code === unit.key) return { join: sql``, code: sql`${of(alias, column)}::text` }
    return { join: sql` left join ${table(unit.table)} as ${sql.identifier(name)} on ${of(name, unit.key)} = ${of(alias, column)}`, code: sql`${of(name, unit.code)}::text` }
  }
  const part = (wanted: { periods: string[], before: string[] }, from: SQL, alias: string, account: string, period: LedgerMap['period'], date: string | undefined, periodAlias: string, version: SQL, columns: { branch?: string | undefined, department?: string | undefined }, debit: SQL, credit: SQL, conditions: SQL[]): SQL => {
    const slot = slots(wanted, periodAlias, period, date)
    const found = Object.fromEntries((['branch', 'department'] as const).map(name => [name, unitSql(name, alias, columns[name])]))
    const filters = needs.inside(path => found[path]?.code)
    const asked = new Set(units)
    const filtered = new Set<string>()
    needs.inside(path => (filtered.add(path), found[path]?.code))
    const joins = (['branch', 'department'] as const).filter(name => asked.has(name) || filtered.has(name)).map(name => found[name]?.join ?? sql``)
    const where = [...conditions, ...filters]
    const codes = units.map(name => found[name]?.code ?? sql`null::text`)
    const grouped = [of(alias, account), sql`slot.place`, ...(version === posting ? [] : [version]), ...units.flatMap(name => found[name] ? [found[name]!.code] : [])]
    return sql`select ${of(alias, account)}::text as account, ${slot.period} as period, ${version} as version, ${codes.length ? sql`${sql.join(codes.map((code, index) => sql`${code} as ${sql.identifier(units[index]!)}`), sql`, `)}, ` : sql``}sum(${debit}) as debit, sum(${credit}) as credit from ${from} ${slot.join}${sql.join(joins, sql``)}${where.length ? sql` where ${sql.join(where, sql` and `)}` : sql``} group by ${sql.join(grouped, sql`, `)}`
  }
  const posting = sql`''::text`
  const { lines, journals, budgets } = map
  const linesFrom = sql`${table(lines.table)} as line${journals ? sql` join ${table(journals.table)} as head on ${sql.join(journals.on.map(pair => sql`${of('head', pair.to)} = ${of('line', pair.from)}`), sql` and `)}` : sql``}`
  const [debit, credit] = lines.debit && lines.credit ? [of('line', lines.debit), of('line', lines.credit)] : [sql`greatest(${of('line', lines.amount!)}, 0)`, sql`greatest(-${of('line', lines.amount!)}, 0)`]
  const parts = [part(posted, linesFrom, 'line', lines.account, map.period, map.date, head, posting, lines, debit, credit, map.closing ? [sql`not ${of(head, map.closing)}`] : [])]
  if (budgets && planned.periods.length) {
    const versions = new Set(own.columns.flatMap(column => column.kind === 'budget' ? [column.version] : []))
    const version = budgets.version ? sql`${of('plan', budgets.version)}::text` : sql`'budget'::text`
    const words = Object.entries(map.types).filter(([, nature]) => !debitNatured(nature)).map(([word]) => word)
    const natural = budgets.sign === 'natural'
    const isCredit = map.accounts.side ? sql`${of('chart', map.accounts.side)} ilike 'c%'` : sql`${of('chart', map.accounts.type)} = any(${sql.param(arrayText(words))}::text[])`
    const amount = of('plan', budgets.amount)
    const from = sql`${table(budgets.table)} as plan${natural ? sql` join ${table(map.accounts.table)} as chart on ${of('chart', map.accounts.code)} = ${of('plan', budgets.account)}` : sql``}`
    parts.push(part(planned, from, 'plan', budgets.account, budgets.period, undefined, 'plan', version, { branch: budgets.branch },
      natural ? sql`case when ${isCredit} then 0 else ${amount} end` : sql`greatest(${amount}, 0)`, natural ? sql`case when ${isCredit} then ${amount} else 0 end` : sql`greatest(-${amount}, 0)`,
      versions.has(undefined) || !budgets.version ? [] : [sql`${version} = any(${sql.param(arrayText([...versions]))}::text[])`]))
  }
  const { accounts } = map
  const chart = { account: sql`coalesce(${of('chart', accounts.code)}::text, f.account)`, account_type: sql`${of('chart', accounts.type)}::text`, account_class: accounts.class ? sql`${of('chart', accounts.class)}::text` : sql`null::text` }
  const outside = needs.outside(path => chart[path as keyof typeof chart])
  return sql`select ${chart.account} as account, ${of('chart', accounts.name)}::text as account_name, ${chart.account_type} as account_type, ${chart.account_class} as account_class, f.period, f.version, ${units.length ? sql`${sql.join(units.map(name => sql`f.${sql.identifier(name)}`), sql`, `)}, ` : sql``}f.debit, f.credit, f.debit - f.credit as amount from ${table(accounts.table)} as chart full join (${sql.join(parts, sql` union all `)}) as f on f.account = ${of('chart', accounts.code)}::text${outside.length ? sql` where ${sql.join(outside, sql` and `)}` : sql``}`
}
