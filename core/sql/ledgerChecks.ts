import { sql, type SQL } from 'drizzle-orm'
import { readable } from '../catalog/types'
import type { LedgerMap } from '../books/ledger'
import type { FiscalCalendar } from '../books/calendar'
import { dayText } from '../value/date'
import { type Decimal, toNumber } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import type { Query, Rows } from './query'
import { valueAt } from '../value/columns'
import { bound, arrayOf } from '../catalog/dialect'

/** What was found out about the books of a source: one sentence, and whether it is as it should be. */
export interface LedgerCheck {
  holds: boolean
  sentence: string
}

/**
 * Checks the books against the data: do journals balance, and do lines find their account, their period and a type that is known? Each is
 * one statement.
 */
export async function checkLedger(
  map: LedgerMap,
  schema: string,
  fetch: (query: Query) => Promise<Rows>,
  calendar?: FiscalCalendar,
): Promise<LedgerCheck[]> {
  const table = (name: string) => sql`${sql.identifier(schema)}.${sql.identifier(name)}`
  const of = (alias: string, name: string) => sql`${sql.identifier(alias)}.${sql.identifier(name)}`
  const numbers = async (statement: SQL, count: number): Promise<Decimal[]> => {
    const { text, values: params } = bound(statement)
    const rows = await fetch({
      text,
      values: params,
      columns: Array.from({ length: count }, (_, index) => ({ path: `n${index}`, type: 'number' as const })),
    })
    return rows.columns.map(column => valueAt(column, 0) as Decimal)
  }
  const { lines, journals, accounts, types } = map
  const amount = lines.debit && lines.credit ? sql`${of('line', lines.debit)} - ${of('line', lines.credit)}` : of('line', lines.amount!)
  const key = journals
    ? sql.join(
        journals.on.map(pair => of('line', pair.from)),
        sql`, `,
      )
    : of('line', map.date)
  const print = numberFormat('#,##0.##', 'en-GB')
  const counted = (value: Decimal, one: string, many: string) => `${print(value)} ${toNumber(value) === 1 ? one : many}`
  const group = journals ? (['journal', 'journals'] as const) : (['day of postings', 'days of postings'] as const)
  const [all, off] = await numbers(
    sql`select count(*)::numeric, count(*) filter (where out <> 0)::numeric from (select sum(${amount}) as out from
      ${table(lines.table)} as line group by ${key}) as journal`,
    2,
  )
  const branch = lines.branch
    ? await numbers(
        sql`select count(*)::numeric from (select 1 from ${table(lines.table)} as line group by ${key}, ${of('line', lines.branch)}
          having sum(${amount}) <> 0) as journal`,
        1,
      )
    : undefined
  const [without] = await numbers(
    sql`select count(*)::numeric from ${table(lines.table)} as line where not exists (select 1 from ${table(accounts.table)} as
      chart where ${of('chart', accounts.code)} = ${of('line', lines.account)})`,
    1,
  )
  const words = Object.keys(types)
  const [strange, known] = await numbers(
    sql`select count(*) filter (where ${of('chart', accounts.type)}::text <> all(${arrayOf(words, 'text')}) or
      ${of('chart', accounts.type)} is null)::numeric, count(*)::numeric from ${table(accounts.table)} as chart`,
    2,
  )
  const [retained] = await numbers(
    sql`select count(*)::numeric from ${table(accounts.table)} as chart where ${of('chart', accounts.code)}::text =
      ${map.retainedEarnings}`,
    1,
  )
  const [outside] = calendar ? await numbers(outsidePeriods(map, calendar, table, of), 1) : [undefined]
  const [unplanned] = map.budgets
    ? await numbers(
        sql`select count(*)::numeric from ${table(map.budgets.table)} as plan where not exists (select 1 from
          ${table(accounts.table)} as chart where ${of('chart', accounts.code)} = ${of('plan', map.budgets.account)})`,
        1,
      )
    : [undefined]
  const none = (value: Decimal | undefined) => !value || toNumber(value) === 0
  return [
    {
      holds: none(off),
      sentence: none(off)
        ? `All ${counted(all!, group[0], group[1])} balance.`
        : `${counted(off!, `${group[0]} does`, `${group[1]} do`)} not balance, of ${print(all!)}.`,
    },
    ...(branch
      ? [
          {
            holds: none(branch[0]),
            sentence: none(branch[0])
              ? 'They balance within each branch too.'
              : `${counted(branch[0]!, `${group[0]} does`, `${group[1]} do`)} not balance within a branch.`,
          },
        ]
      : []),
    {
      holds: none(without),
      sentence: none(without)
        ? `Every line of ${readable(lines.table).toLowerCase()} finds its account.`
        : `${counted(without!, 'line is', 'lines are')} on an account that does not exist.`,
    },
    {
      holds: none(strange),
      sentence: none(strange)
        ? `All ${counted(known!, 'account has', 'accounts have')} a type that is known: ${words.join(', ')}.`
        : `${counted(strange!, 'account has', 'accounts have')} a type that is not known; ` +
          `${toNumber(strange!) === 1 ? 'it stands' : 'they stand'} in no line by type.`,
    },
    ...(calendar
      ? [
          {
            holds: none(outside),
            sentence: none(outside)
              ? `All of them lie in a period, from ${calendar.periods[0]?.year ?? ''} to ${calendar.periods.at(-1)?.year ?? ''}.`
              : `${counted(outside!, `${group[0]} lies`, `${group[1]} lie`)} in no period of the fiscal calendar, and in no statement.`,
          },
        ]
      : [{ holds: false, sentence: 'There is no table of periods; say how fiscal years are cut.' }]),
    ...(map.budgets
      ? [
          {
            holds: none(unplanned),
            sentence: none(unplanned)
              ? 'Every budget finds its account.'
              : `${counted(unplanned!, 'budget is', 'budgets are')} for an account that does not exist.`,
          },
        ]
      : []),
    {
      holds: !none(retained),
      sentence: none(retained)
        ? `The account of retained earnings, ${map.retainedEarnings}, does not exist.`
        : `Results are kept in account ${map.retainedEarnings}.`,
    },
  ]
}

/** Counts journals (days, where lines stand by themselves) whose period is none of the calendar. */
function outsidePeriods(
  { lines, journals, period, date }: LedgerMap,
  { periods }: FiscalCalendar,
  table: (name: string) => SQL,
  of: (alias: string, name: string) => SQL,
): SQL {
  const from = sql`${table(journals?.table ?? lines.table)} as head`
  if (!period)
    return sql`select count(distinct ${of('head', date)})::numeric from ${from} where not exists (select 1 from unnest(${arrayOf(
      periods.map(each => dayText(each.start)),
      'date',
    )}, ${arrayOf(
      periods.map(each => dayText(each.end)),
      'date',
    )}) as own(first, last) where ${of('head', date)} between own.first and own.last)`
  const parts = periods.map(each => /^(.*)-P(\d+)$/.exec(each.code)!)
  return sql`select count(*)::numeric from ${from} where not exists (select 1 from unnest(${arrayOf(
    parts.map(part => Number(part[1])),
    'integer',
  )}, ${arrayOf(parts.map(part => part[2]).map(Number), 'integer')}) as own(year, number) where own.year = ${of('head', period.year)}
  and own.number = ${of('head', period.number)})`
}
