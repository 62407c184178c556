import { sql, type SQL } from 'drizzle-orm'
import type { CatalogColumn } from '../catalog/types'
import type { StatementColumn } from '../definition/blocks/statement'
import { neededPeriods, standingColumns, withVersion } from '../statement/columns'
import { debitNatured, type LedgerMap, type UnitTable } from '../books/ledger'
import { dayText } from '../value/date'
import { type OwnLedger, text } from '../model/ledger'
import { bound, arrayOf } from '../catalog/dialect'

/** The chart of accounts by its codes, as ledgerWords wants it: a statement with its values. */
export function chartQuery(accounts: LedgerMap['accounts'], schema: string): { text: string; values: unknown[] } {
  const of = (name: string) => sql`${sql.identifier(name)}::text`
  const { text, values: params } = bound(
    sql`select ${of(accounts.code)} as code, ${of(accounts.name)} as name, ${of(accounts.type)} as type,
      ${accounts.class ? of(accounts.class) : sql`null::text`} as class from
      ${sql.identifier(schema)}.${sql.identifier(accounts.table)} order by 1`,
  )
  return { text, values: params }
}

/** Codes and names of the branches or departments that there are, in the order of their keys. */
export function unitsQuery(unit: UnitTable, schema: string): { text: string; values: unknown[] } {
  const { text, values: params } = bound(
    sql`select ${sql.identifier(unit.code)}::text as code, ${sql.identifier(unit.name)}::text as name from
      ${sql.identifier(schema)}.${sql.identifier(unit.table)} where ${sql.identifier(unit.code)} is not null order by
      ${sql.identifier(unit.key)} limit 500`,
  )
  return { text, values: params }
}

/** The versions of the budget. */
export function versionsQuery({ table, version }: NonNullable<LedgerMap['budgets']>, schema: string): { text: string; values: unknown[] } {
  const { text, values: params } = bound(
    sql`select distinct ${sql.identifier(version!)}::text as version from ${sql.identifier(schema)}.${sql.identifier(table)} where
      ${sql.identifier(version!)} is not null order by 1 limit 100`,
  )
  return { text, values: params }
}

/** Fields that the filters of a ledger table can speak of. */
export const ledgerFilterColumns: CatalogColumn[] = ['account', 'account_type', 'account_class', 'account_parent', 'branch', 'department']
  .map(name => text(name))
  .concat({ name: 'date', type: 'date', databaseType: 'date', required: true, caption: 'Date of posting' })

const budgetYear = /^(.*)-P(\d+)$/

export interface LedgerNeeds {
  schema: string
  /** gives the code of a period for a column's formula */
  anchor: (formula: string) => string
  /**
   * filters over branches, departments and dates of posting, and those over accounts, with the SQL of their fields put in; those that
   * cannot be said for a table are left out
   */
  inside: (column: (path: string) => SQL | undefined) => SQL[]
  outside: (column: (path: string) => SQL | undefined) => SQL[]
}

/**
 * One statement that adds up the books by account and period (and version, branch, department), each table read once. Every account has
 * a row at least, and so have lines on accounts that do not exist.
 * @throws ColumnError
 */
export function ledgerSql(own: OwnLedger, needs: LedgerNeeds): SQL {
  const { map, calendar } = own
  const table = (name: string) => sql`${sql.identifier(needs.schema)}.${sql.identifier(name)}`
  const of = (alias: string, column: string) => sql`${sql.identifier(alias)}.${sql.identifier(column)}`
  // branches and departments that repeat columns do not change which periods are needed
  const standing = standingColumns(
    own.columns.map(column =>
      column.repeat && (column.repeat.over === 'branch' || column.repeat.over === 'department')
        ? ({ ...column, repeat: undefined } as StatementColumn)
        : column,
    ),
    { calendar, anchor: needs.anchor, branches: [], departments: [] },
  )
  const posted = neededPeriods(
    standing.filter(each => each.column.kind !== 'budget'),
    calendar,
  )
  const planned = neededPeriods(
    standing.filter(each => each.column.kind === 'budget'),
    calendar,
  )
  const units = [...(own.branch ? ['branch'] : []), ...(own.department ? ['department'] : [])]
  const head = map.journals ? 'head' : 'line'

  /** Periods of the calendar numbered from 1, all before the first as 0, joined to a table that names its period or its date. */
  const slots = (
    wanted: { periods: string[]; before: string[] },
    alias: string,
    period: LedgerMap['period'],
    date: string | undefined,
  ): { join: SQL; where: SQL[]; period: SQL } => {
    const codes = [...wanted.before.map(code => [code, 0] as const), ...wanted.periods.map((code, index) => [code, index + 1] as const)]
    const label = sql`case when slot.place = 0 then '' else (${arrayOf(wanted.periods, 'text')})[slot.place] end`
    if (period) {
      // the place of a period is looked up in a list by its year and number: a join to a few periods would make the planner expect few
      // journals
      const parts = codes.map(([code, place]) => ({
        year: Number(budgetYear.exec(code)![1]),
        number: Number(budgetYear.exec(code)![2]),
        place,
      }))
      const [first, last] = [Math.min(...parts.map(part => part.year)), Math.max(...parts.map(part => part.year))]
      const wide = Math.max(0, ...parts.map(part => part.number)) + 1
      const places = parts.length ? new Array<number | null>((last - first + 1) * wide).fill(null) : []
      for (const { year, number, place } of parts) places[(year - first) * wide + number] = place
      const [year, number] = [of(alias, period.year), of(alias, period.number)]
      if (!parts.length)
        return { join: sql`cross join lateral (select null::integer as place) as slot`, where: [sql`false`], period: label }
      return {
        join: sql`cross join lateral (select (${arrayOf(places, 'integer')})[((${year} - ${first}::integer) * ${wide}::integer +
          ${number} + 1)::integer] as place) as slot`,
        where: [
          sql`${year} between ${first}::integer and ${last}::integer`,
          sql`${number} < ${wide}::integer`,
          sql`slot.place is not null`,
        ],
        period: label,
      }
    }
    // by date: the place of each day in a list of days
    const dated = codes.flatMap(([code, place]) => {
      const found = calendar.periods.find(each => each.code === code)!
      return found.adjustment ? [] : [{ start: found.start, end: found.end, place }]
    })
    if (!dated.length) return { join: sql`cross join lateral (select null::integer as place) as slot`, where: [sql`false`], period: label }
    const [first, last] = [Math.min(...dated.map(each => each.start)), Math.max(...dated.map(each => each.end))]
    const days = new Array<number>(last - first + 1).fill(-1)
    for (const { start, end, place } of dated) days.fill(place, start - first, end - first + 1)
    const day = of(alias, date!)
    return {
      join: sql`cross join lateral (select (${arrayOf(days, 'integer')})[${day} - ${dayText(first)}::date + 1] as place) as slot`,
      where: [sql`${day} between ${dayText(first)}::date and ${dayText(last)}::date`, sql`slot.place >= 0`],
      period: label,
    }
  }
  const unitSql = (name: string, alias: string, column: string | undefined): { join: SQL; code: SQL } | undefined => {
    const unit = name === 'branch' ? map.branches : map.departments
    if (!column) return undefined
    if (!unit || unit.code === unit.key) return { join: sql``, code: sql`${of(alias, column)}::text` }
    return {
      join: sql` left join ${table(unit.table)} as ${sql.identifier(name)} on ${of(name, unit.key)} = ${of(alias, column)}`,
      code: sql`${of(name, unit.code)}::text`,
    }
  }
  const part = (
    wanted: { periods: string[]; before: string[] },
    from: SQL,
    alias: string,
    account: string,
    period: LedgerMap['period'],
    date: string | undefined,
    periodAlias: string,
    version: SQL,
    columns: { branch?: string | undefined; department?: string | undefined },
    debit: SQL,
    credit: SQL,
    conditions: SQL[],
  ): SQL => {
    const slot = slots(wanted, periodAlias, period, date)
    const found: Partial<Record<string, { join: SQL; code: SQL }>> = {
      branch: unitSql('branch', alias, columns.branch),
      department: unitSql('department', alias, columns.department),
      ...(date ? { date: { join: sql``, code: of(periodAlias, date) } } : {}),
    }
    const filters = needs.inside(path => found[path]?.code)
    const filtered = new Set<string>()
    needs.inside(path => (filtered.add(path), found[path]?.code))
    const joins = (['branch', 'department'] as const).filter(name => filtered.has(name)).map(name => found[name]?.join ?? sql``)
    const where = [...slot.where, ...conditions, ...filters]
    // rows are added up by keys, whole numbers mostly; names of periods, branches and departments come to the few rows that are left
    const keys = units.map(name => (columns[name as 'branch'] ? of(alias, columns[name as 'branch']!) : sql`null::text`))
    const grouped = [
      of(alias, account),
      sql`slot.place`,
      ...(version === posting ? [] : [version]),
      ...keys.filter((_, index) => columns[units[index] as 'branch']),
    ]
    const added = sql`select ${of(alias, account)}::text as account, slot.place, ${version} as version, ${
      keys.length
        ? sql`${sql.join(
            keys.map((key, index) => sql`${key} as ${sql.identifier(units[index]!)}`),
            sql`, `,
          )}, `
        : sql``
    }sum(${debit}) as debit, sum(${credit}) as credit from ${from}
    ${slot.join}${sql.join(joins, sql``)}${where.length ? sql` where ${sql.join(where, sql` and `)}` : sql``} group by
    ${sql.join(grouped, sql`, `)}`
    const named = units.map(name => unitSql(name, 'slot', columns[name as 'branch'] && name) ?? { join: sql``, code: of('slot', name) })
    return sql`select slot.account, ${slot.period} as period, slot.version, ${
      named.length
        ? sql`${sql.join(
            named.map(({ code }, index) => sql`${code} as ${sql.identifier(units[index]!)}`),
            sql`, `,
          )}, `
        : sql``
    }slot.debit, slot.credit from (${added}) as slot${sql.join(
      named.map(({ join }) => join),
      sql``,
    )}`
  }
  const posting = sql`''::text`
  const only = (alias: string, account: string): SQL[] =>
    own.types
      ? [
          sql`${of(alias, account)} in (select ${sql.identifier(map.accounts.code)} from ${table(map.accounts.table)} where
            ${sql.identifier(map.accounts.type)}::text = any(${arrayOf(own.types, 'text')}))`,
        ]
      : []
  const { lines, journals, budgets } = map
  const linesFrom = sql`${table(lines.table)} as line${
    journals
      ? sql` join ${table(journals.table)} as head on ${sql.join(
          journals.on.map(pair => sql`${of('head', pair.to)} = ${of('line', pair.from)}`),
          sql` and `,
        )}`
      : sql``
  }`
  const [debit, credit] =
    lines.debit && lines.credit
      ? [of('line', lines.debit), of('line', lines.credit)]
      : [sql`greatest(${of('line', lines.amount!)}, 0)`, sql`greatest(-${of('line', lines.amount!)}, 0)`]
  const parts = [
    part(posted, linesFrom, 'line', lines.account, map.period, map.date, head, posting, lines, debit, credit, [
      ...(map.closing ? [sql`not ${of(head, map.closing)}`] : []),
      ...only('line', lines.account),
    ]),
  ]
  if (budgets && planned.periods.length) {
    const versions = new Set(own.columns.flatMap(column => (column.kind === 'budget' ? [withVersion(column, needs.anchor).version] : [])))
    const version = budgets.version ? sql`${of('plan', budgets.version)}::text` : sql`'budget'::text`
    const words = Object.entries(map.types)
      .filter(([, nature]) => !debitNatured(nature))
      .map(([word]) => word)
    const natural = budgets.sign === 'natural'
    const isCredit = map.accounts.side
      ? sql`${of('chart', map.accounts.side)} ilike 'c%'`
      : sql`${of('chart', map.accounts.type)} = any(${arrayOf(words, 'text')})`
    const amount = of('plan', budgets.amount)
    const from = sql`${table(budgets.table)} as
      plan${
        natural
          ? sql` join ${table(map.accounts.table)} as chart on ${of('chart', map.accounts.code)} =
        ${of('plan', budgets.account)}`
          : sql``
      }`
    parts.push(
      part(
        planned,
        from,
        'plan',
        budgets.account,
        budgets.period,
        undefined,
        'plan',
        version,
        { branch: budgets.branch },
        natural ? sql`case when ${isCredit} then 0 else ${amount} end` : sql`greatest(${amount}, 0)`,
        natural ? sql`case when ${isCredit} then ${amount} else 0 end` : sql`greatest(-${amount}, 0)`,
        versions.has(undefined) || !budgets.version ? [] : [sql`${version} = any(${arrayOf([...versions], 'text')})`],
      ),
    )
  }
  // branches and departments without any posting stand there too
  for (const name of units) {
    const unit = name === 'branch' ? map.branches : map.departments
    if (!unit) continue
    const code = sql`${of('unit', unit.code)}::text`
    const where = needs.inside(path => (path === name ? code : undefined))
    parts.push(
      sql`select ${map.retainedEarnings}::text as account, null::text as period, ''::text as version, ${sql.join(
        units.map(own => sql`${own === name ? code : sql`null::text`} as ${sql.identifier(own)}`),
        sql`, `,
      )}, null::numeric as debit, null::numeric as credit from ${table(unit.table)} as
      unit${where.length ? sql` where ${sql.join(where, sql` and `)}` : sql``}`,
    )
  }
  const { accounts } = map
  const chart = {
    account_parent: accounts.parent ? sql`${of('chart', accounts.parent)}::text` : sql`null::text`,
    account: sql`coalesce(${of('chart', accounts.code)}::text, f.account)`,
    account_type: sql`${of('chart', accounts.type)}::text`,
    account_class: accounts.class ? sql`${of('chart', accounts.class)}::text` : sql`null::text`,
  }
  const outside = needs.outside(path => chart[path as keyof typeof chart])
  const unitColumns = units.map(name => sql`f.${sql.identifier(name)}`)
  const figures = own.results ? sql`figures` : sql`(${sql.join(parts, sql` union all `)})`
  const columns = (amounts: SQL) =>
    sql`select ${sql.join(
      [
        sql`${chart.account} as account`,
        sql`${of('chart', accounts.name)}::text as account_name`,
        sql`${chart.account_type} as account_type`,
        sql`${chart.account_class} as account_class`,
        sql`${chart.account_parent} as account_parent`,
        sql`f.period`,
        sql`f.version`,
        ...unitColumns,
        amounts,
      ],
      sql`, `,
    )}`
  const filtered = outside.length ? sql` where ${sql.join(outside, sql` and `)}` : sql``
  const main = sql`${columns(
    sql`f.debit, f.credit, f.debit - f.credit as amount${
      own.results
        ? sql`, null::numeric as results, null::text as
    result_of`
        : sql``
    }`,
  )} from ${table(accounts.table)} as chart full join ${figures} as f on f.account =
    ${of('chart', accounts.code)}::text${filtered}`
  if (!own.results) return main
  // results of years before go into retained earnings, whatever accounts are left out (rule 27): they stand in rows of that account
  const results = Object.entries(map.types)
    .filter(([, nature]) => nature === 'income' || nature === 'expense')
    .map(([word]) => word)
  return sql`with figures as materialized (${sql.join(parts, sql` union all `)}) ${main} union all
    ${columns(sql`null::numeric, null::numeric, null::numeric, f.debit - f.credit, f.account`)} from figures as f join
    ${table(accounts.table)} as result on ${of('result', accounts.code)}::text = f.account and ${of('result', accounts.type)}::text =
    any(${arrayOf(results, 'text')}) join ${table(accounts.table)} as chart on ${of('chart', accounts.code)}::text =
    ${map.retainedEarnings} where ${sql.join([sql`f.version = ''`, sql`f.debit is not null`, ...outside], sql` and `)}`
}
