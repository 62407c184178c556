import { sql, type SQL } from 'drizzle-orm'
import { findTable, readable } from '../../core/catalog/types'
import { assembleReport } from '../../core/compose/assemble'
import { laidStatement } from '../../core/compose/statement/lay'
import { statementAmong } from '../../core/compose/statement/prepare'
import type { LedgerNeeds } from '../../core/sql/ledger'
import type { Query } from '../../core/sql/query'
import { type Fetch, readRecords } from '../../core/read/read'
import type { DataRecords } from '../../core/value/records'
import { valueAt } from '../../core/value/columns'
import type { Value } from '../../core/value/value'
import { layoutOf } from '../../core/definition/walk'
import { findPeriod } from '../../core/books/calendar'
import type { StandingColumn } from '../../core/statement/columns'
import { columnsBehind, type PostingSet, traceFigure } from '../../core/statement/trace'
import { absolute, compareDecimals, type Decimal, decimalText, parseDecimal, trim, zero } from '../../core/value/decimal'
import { dayText } from '../../core/value/date'
import { composerOf, planningOf, planRun } from './execute'
import { RunError } from './input'
import type { ReadyRun } from './ready'
import type { StatementTrace } from '../../core/api/answers'
import { arrayOf, bound } from '../../core/catalog/dialect'
import { ledgerFilters } from '../../core/sql/planner'

/** A figure of a statement: of one of a line's accounts, where that is named. */
export interface FigureWanted {
  statement: string
  line: string
  column: string
  account?: string
}

/** Journal lines shown at a time, the latest first. */
const shownLines = 300

/**
 * `kept` reads the figures that a run has kept; its postings are those of now, and where they come to something else, that is said.
 * @throws RunError where the figure is not there any more
 */
export async function statementTrace(run: ReadyRun, wanted: FigureWanted, fetch: Fetch, kept?: Fetch): Promise<StatementTrace> {
  const layout = layoutOf(run.definition, wanted.statement)?.name
  const { ledger: map, calendar } = run.catalog
  if (layout === undefined || !map || !calendar)
    throw new RunError(['The statement is not on a layout any more, or the source does not say where its books are.'])
  const report = assembleReport(run.definition, run.catalog, 0, layout)
  const plan = planRun({ ...run, report }, 'pages')
  let data: DataRecords | undefined
  for await (const chunk of readRecords(plan, kept ?? fetch, { chunk: Number.MAX_SAFE_INTEGER })) data = chunk.records
  const composer = composerOf({ ...run, report })
  composer.values.use(data!)
  const prepared = statementAmong(report.layout.blocks, wanted.statement)!
  const { shaped, columns, books } = laidStatement(prepared, composer)
  const traced = traceFigure(wanted, prepared.lines, columns, books, calendar, shaped.turned, shaped.addedBy)
  if (!traced) throw new RunError(['This figure is not on the statement any more; read the rows again.'])
  const at = columns.find(each => each.id === wanted.column)!
  const sides =
    at.column.kind === 'difference' || at.column.kind === 'percent'
      ? (at.column.of ?? []).flatMap(id => {
          const side = columns.find(each => each.column.id === id)
          return side ? [{ column: side.id, words: titled(side.column.title) || wordsOf(columnsBehind(side, columns)) }] : []
        })
      : []
  const own = report.model.tables.get(report.tree.levels[prepared.level]!.definition.table)
  const filters =
    own?.kind === 'ledger'
      ? ledgerFilters({ levels: report.tree.levels, used: [], ...planningOf({ ...run, report }) }, own).inside
      : () => []
  const found = traced.sets.length ? await journalLines(run, traced.sets, filters, fetch) : undefined
  return {
    figure: written(traced.sum),
    words: wordsOf(traced.columns),
    ...(sides.length > 1 ? { sides } : {}),
    accounts: traced.accounts.map(({ account, amount }) => ({ code: account.code, name: account.name, amount: written(amount) })),
    columns: found?.columns ?? [],
    document: found?.document ?? -1,
    lines: found?.lines ?? [],
    count: found?.count ?? 0,
    total: found?.total ?? '0',
    ...(kept && found && changedSince(traced, found.total) ? { changed: true } : {}),
  }
}

/** Do the postings come to something else than the figure that they are behind? Debits and credits alone are no balance of theirs. */
function changedSince({ sum, columns }: { sum: Decimal; columns: readonly StandingColumn[] }, total: string): boolean {
  if (columns.some(each => !['activity', 'balance', 'opening'].includes(each.column.kind))) return false
  const now = parseDecimal(total)!
  return compareDecimals(absolute(sum), absolute(now)) !== 0
}

const titled = (title: string | undefined) => (title?.includes('{{') ? '' : (title ?? ''))
/** What some columns hold, in words; of several what they come to together. */
function wordsOf(columns: readonly StandingColumn[]): string {
  return columns.length <= 1 ? (columns[0]?.words ?? '') : `${columns[0]!.words} – ${columns.at(-1)!.words}, together`
}

const written = (value: Decimal) => decimalText(trim(value))

async function journalLines(
  run: ReadyRun,
  sets: readonly PostingSet[],
  filters: LedgerNeeds['inside'],
  fetch: Fetch,
): Promise<Pick<StatementTrace, 'columns' | 'document' | 'lines' | 'count' | 'total'>> {
  const map = run.catalog.ledger!
  const calendar = run.catalog.calendar!
  const table = (name: string) => sql`${sql.identifier(run.schema)}.${sql.identifier(name)}`
  const head = map.journals ? 'head' : 'line'
  const of = (alias: string, name: string) => sql`${sql.identifier(alias)}.${sql.identifier(name)}`
  const inPeriods = (codes: readonly string[]): SQL => {
    if (map.period) {
      const parts = codes.map(code => /^(.*)-P(\d+)$/.exec(code)!)
      return sql`(${of(head, map.period.year)}, ${of(head, map.period.number)}) in (select * from unnest(${arrayOf(
        parts.map(part => Number(part[1])),
        'integer',
      )}, ${arrayOf(
        parts.map(part => Number(part[2])),
        'integer',
      )}))`
    }
    const own = codes.map(code => findPeriod(calendar, code)!)
    return sql`exists (select 1 from unnest(${arrayOf(
      own.map(each => dayText(each.start)),
      'date',
    )}, ${arrayOf(
      own.map(each => dayText(each.end)),
      'date',
    )}) as p(first, last) where ${of(head, map.date)} between p.first and p.last)`
  }
  // branches and departments by their codes
  const units = (['branch', 'department'] as const).flatMap(name => {
    const [column, unit] = [map.lines[name], name === 'branch' ? map.branches : map.departments]
    if (!column) return []
    return [
      {
        name,
        code: unit ? sql`${of(name, unit.code)}::text` : sql`${of('line', column)}::text`,
        join: unit
          ? sql` left join ${table(unit.table)} as ${sql.identifier(name)} on ${of(name, unit.key)} = ${of('line', column)}`
          : sql``,
      },
    ]
  })
  const codeOf = (name: string) => units.find(unit => unit.name === name)?.code
  const within = (name: string, lists: readonly (readonly string[])[]) =>
    lists.flatMap(list => (codeOf(name) ? [sql`${codeOf(name)!} = any(${arrayOf(list, 'text')})`] : []))
  // a posting stands once for each set that it counts in; what counts the other way than the first set has its sides turned
  const counted = sql` cross join lateral (${sql.join(
    sets.map(
      set =>
        sql`select ${sql.raw(String(set.by * sets[0]!.by))} as by where ${sql.join(
          [
            sql`${of('line', map.lines.account)}::text = any(${arrayOf(set.accounts, 'text')})`,
            inPeriods(set.periods),
            ...within('branch', set.branches),
            ...within('department', set.departments),
          ],
          sql` and `,
        )}`,
    ),
    sql` union all `,
  )}) as counted`
  const conditions = [
    ...(map.closing ? [sql`not ${of(head, map.closing)}`] : []),
    ...filters(name => (name === 'date' ? of(head, map.date) : codeOf(name))),
  ]
  const from = sql`${table(map.lines.table)} as line${
    map.journals
      ? sql` join ${table(map.journals.table)} as head on ${sql.join(
          map.journals.on.map(pair => sql`${of('head', pair.to)} = ${of('line', pair.from)}`),
          sql` and `,
        )}`
      : sql``
  }${sql.join(
    units.map(unit => unit.join),
    sql``,
  )}${counted}${conditions.length ? sql` where ${sql.join(conditions, sql` and `)}` : sql``}`
  const words = (findTable(run.catalog, map.journals?.table ?? map.lines.table)?.columns ?? [])
    .filter(column => column.type === 'text')
    .slice(0, 4)
  const documents = words.findIndex(column => /document|voucher|reference/i.test(column.name))
  const sides =
    map.lines.debit && map.lines.credit
      ? ([of('line', map.lines.debit), of('line', map.lines.credit)] as const)
      : ([sql`greatest(${of('line', map.lines.amount!)}, 0)`, sql`greatest(-${of('line', map.lines.amount!)}, 0)`] as const)
  const [debit, credit] = [0, 1].map(
    at => sql`case when ${of('counted', 'by')} = 1 then ${sides[at as 0]} else ${sides[(1 - at) as 0]} end`,
  ) as [SQL, SQL]
  const query = (statement: SQL, described: Query['columns']): Query => {
    const { text, values: params } = bound(statement)
    return { text, values: params, columns: described }
  }
  const money = (path: string) => ({ path, type: 'number' as const })
  const whole = await fetch(
    query(sql`select count(*)::numeric, coalesce(sum(${debit} - ${credit}), 0) from ${from}`, [
      { path: 'count', type: 'number', scale: 0 },
      money('total'),
    ]),
  )
  const rows = await fetch(
    query(
      sql`select ${of(head, map.date)}, ${of('line', map.lines.account)}::text${sql.join(
        words.map(column => sql`, ${of(head, column.name)}::text`),
        sql``,
      )}, ${debit}, ${credit} from ${from} order by ${of(head, map.date)} desc, 2 limit ${shownLines}`,
      [
        { path: 'date', type: 'date' },
        { path: 'account', type: 'text' },
        ...words.map(column => ({ path: column.name, type: 'text' as const })),
        money('debit'),
        money('credit'),
      ],
    ),
  )
  const cell = (column: number, row: number): Value => valueAt(rows.columns[column]!, row)
  const figure = (column: number, row: number) => written((cell(column, row) as Decimal | null) ?? zero)
  return {
    columns: ['Date', 'Account', ...words.map(column => readable(column.name))],
    document: documents < 0 ? -1 : documents + 2,
    lines: Array.from({ length: rows.count }, (_, row) => ({
      cells: [dayText(cell(0, row) as number), ...Array.from({ length: words.length + 1 }, (__, at) => String(cell(at + 1, row) ?? ''))],
      debit: figure(words.length + 2, row),
      credit: figure(words.length + 3, row),
    })),
    count: Number((valueAt(whole.columns[0]!, 0) as Decimal).units),
    total: written((valueAt(whole.columns[1]!, 0) as Decimal | null) ?? zero),
  }
}
