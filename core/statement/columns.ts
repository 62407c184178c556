import type { StatementColumn, StatementSpan } from '../definition/blocks/statement'
import { addPeriods, dayWords, type FiscalCalendar, type FiscalPeriod, findPeriod, monthWords, ordinaryPlace } from '../books/calendar'

/** A column as it stands on the page: repeated ones once per copy. */
export interface StandingColumn {
  /** its own id, with `#n` where it is a copy */
  id: string
  column: StatementColumn
  /** what it holds, in words */
  words: string
  /** codes of the periods whose activity it adds up; of a balance those of which the last one's end counts */
  periods: string[]
  /** only this branch or department: one copy of many */
  branch?: string
  department?: string
}

/** A column that cannot stand: one sentence. */
export class ColumnError extends Error {
  constructor(
    message: string,
    readonly column: string,
  ) {
    super(message)
  }
}

const yearOf = (code: string) => code.slice(0, code.lastIndexOf('-'))
const figureKinds = new Set<string>(['activity', 'balance', 'opening', 'debit', 'credit', 'budget'])
/** Does it hold figures of the books, and not of other columns? */
export const holdsFigures = (column: StatementColumn) => figureKinds.has(column.kind)

/**
 * The ordinary periods of a span, in the order of time; an adjustment period asked for by itself (`alone`, not as one of several) stands
 * alone, and beside the same one of years before. None where the calendar does not reach so far.
 */
function ordinaryPeriods(
  span: StatementSpan,
  anchor: string,
  end: string | undefined,
  calendar: FiscalCalendar,
  alone: boolean,
): FiscalPeriod[] {
  const own = findPeriod(calendar, anchor)
  if (!own) return []
  const ordinary = calendar.periods.filter(period => !period.adjustment)
  const back = span.back ?? 0
  const backBy =
    span.backBy ?? (span.unit === 'quarter' ? 'quarter' : span.unit === 'year' || span.unit === 'yearToDate' ? 'year' : 'period')
  if (own.adjustment && alone && span.unit === 'period' && (!back || backBy === 'year')) {
    const years = [...new Set(calendar.periods.map(period => yearOf(period.code)))]
    const year = years[years.indexOf(yearOf(own.code)) - back]
    return calendar.periods.filter(each => each.adjustment && each.number === own.number && yearOf(each.code) === year)
  }
  const place = ordinaryPlace(calendar, anchor)
  const years = [...new Set(ordinary.map(period => yearOf(period.code)))]
  const at = (moved: number): number => {
    if (backBy === 'period') return moved - back
    if (backBy === 'quarter') return moved - back * 3
    // the same number of the year, or its last where that year has fewer
    const year = years[years.indexOf(yearOf(ordinary[moved]!.code)) - back]
    const same = ordinary.filter(period => yearOf(period.code) === year)
    const found = same.find(period => period.number === ordinary[moved]!.number) ?? same.at(-1)
    return found ? ordinary.indexOf(found) : -1
  }
  const target = at(place)
  const period = ordinary[target]
  if (!period) return []
  const sameYear = ordinary.filter(each => yearOf(each.code) === yearOf(period.code))
  switch (span.unit) {
    case 'period':
      return [period]
    case 'quarter': {
      const quarter = Math.floor((period.number - 1) / 3)
      return sameYear.filter(each => Math.floor((each.number - 1) / 3) === quarter)
    }
    case 'year':
      return sameYear
    case 'yearToDate':
      return sameYear.filter(each => each.number <= period.number)
    case 'last':
      return ordinary.slice(Math.max(0, target - (span.count ?? 12) + 1), target + 1)
    case 'range': {
      const last = ordinaryPlace(calendar, end ?? anchor)
      if (last < 0) return []
      const to = at(last)
      return to < target ? [] : ordinary.slice(target, to + 1)
    }
  }
}

/** With the adjustments that belong to the last ordinary period of their year (rule 28). */
function withAdjustments(periods: readonly FiscalPeriod[], calendar: FiscalCalendar): string[] {
  return periods.flatMap(period => {
    if (period.adjustment) return [period.code]
    const year = yearOf(period.code)
    const last = addPeriods(calendar, period.code, 1)
    const closes = !last || yearOf(last.code) !== year
    return [
      period.code,
      ...(closes ? calendar.periods.filter(each => each.adjustment && yearOf(each.code) === year).map(each => each.code) : []),
    ]
  })
}

/** What people call a stretch of periods: “Oct 2026”, “Q3 2026/27”, “2026/27 to Oct 2026”. */
function spanWords(span: StatementSpan, periods: readonly FiscalPeriod[]): string {
  const [first, last] = [periods[0], periods.at(-1)]
  if (!first || !last) return '–'
  const short = (period: FiscalPeriod) =>
    period.adjustment
      ? period.name
      : /^\d{4}-\d{2}$/.test(period.name)
        ? monthWords(period.start).replace(/^(\p{L}{3})\p{L}*/u, '$1')
        : period.name
  switch (span.unit) {
    case 'period':
      return short(last)
    case 'quarter':
      return `Q${Math.floor((last.number - 1) / 3) + 1} ${last.year}`
    case 'year':
      return last.year
    case 'yearToDate':
      return `${last.year} to ${short(last)}`
    default:
      return first === last ? short(last) : `${short(first)} – ${short(last)}`
  }
}

const titleOfKind: Partial<Record<StatementColumn['kind'], (words: string, version: string | undefined) => string>> = {
  balance: words => words,
  opening: words => `Opening, ${words}`,
  debit: words => `Debit, ${words}`,
  credit: words => `Credit, ${words}`,
  budget: (words, version) => `Budget${version ? ` ${version}` : ''}, ${words}`,
  difference: () => 'Difference',
  percent: () => '%',
  total: () => 'Total',
  average: () => 'Average',
  share: () => '%',
}

const measureWords = {
  activity: 'Actual',
  balance: 'Balance',
  opening: 'Opening balance',
  debit: 'Debits',
  credit: 'Credits',
  budget: 'Budget',
  difference: 'Difference',
  percent: 'Per cent of difference',
  total: 'Total',
  average: 'Average',
  share: 'Per cent of a line',
} as const
const unitWords = {
  period: 'the period',
  quarter: 'its quarter',
  year: 'its year',
  yearToDate: 'year to date',
  last: 'last periods',
  range: 'a range',
} as const

/**
 * What people call a column before its periods are known: its title, or what it holds over which stretch; `say` says the words of ours in
 * another language.
 */
export function columnName({ title, kind, span, repeat }: StatementColumn, say: (ours: string) => string = ours => ours): string {
  if (title) return title.split('\n')[0]!
  const by = span?.backBy ?? 'period'
  const back = span?.back ? `, ${say(span.back === 1 ? `a ${by} before` : `${span.back} ${by}s before`)}` : ''
  const stretch =
    span && !((kind === 'balance' || kind === 'opening') && span.unit === 'period' && !repeat)
      ? repeat
        ? `, ${say(`each ${repeat.over}`)}`
        : `, ${say(span.unit === 'last' ? `last ${span.count ?? 12} periods` : unitWords[span.unit])}`
      : ''
  return `${say(measureWords[kind])}${stretch}${back}`
}

export interface ColumnSurroundings {
  calendar: FiscalCalendar
  /** the text that a formula of a column gives (its period's code, its version), empty where it gives none */
  anchor: (formula: string) => string
  /** codes and names of branches and departments that the books hold, in order */
  branches: readonly { code: string; name: string }[]
  departments: readonly { code: string; name: string }[]
}

/** A column whose version a formula says, with the version that it says. */
export function withVersion(column: StatementColumn, answer: (formula: string) => string): StatementColumn {
  const version = column.versionFrom === undefined ? '' : answer(column.versionFrom)
  return version ? { ...column, version } : column
}

/** The columns of a statement as they stand, copies of repeated ones among them. @throws ColumnError */
export function standingColumns(columns: readonly StatementColumn[], around: ColumnSurroundings): StandingColumn[] {
  return columns.flatMap((own): StandingColumn[] => {
    const column = withVersion(own, around.anchor)
    const { repeat, span } = column
    if (!holdsFigures(column) || !span)
      return [{ id: column.id, column, words: titleOfKind[column.kind]?.('', undefined) ?? '', periods: [] }]
    const anchor = around.anchor(span.anchor)
    const end = span.to === undefined ? undefined : around.anchor(span.to)
    if (!anchor)
      throw new ColumnError(
        `The column “${column.title ?? column.id}” has no period to stand on; answer the parameter that gives it.`,
        column.id,
      )
    const single = (own: StatementSpan, id: string, more: { branch?: string; department?: string } = {}, name?: string): StandingColumn => {
      const alone = !repeat || repeat.over === 'branch' || repeat.over === 'department'
      const found = ordinaryPeriods(own, anchor, end, around.calendar, alone)
      const words = name ?? (column.kind === 'balance' && found.length ? dayWords(found.at(-1)!.end) : spanWords(own, found))
      return {
        id,
        column,
        words: titleOfKind[column.kind]?.(words, column.version) ?? words,
        periods: withAdjustments(found, around.calendar),
        ...more,
      }
    }
    if (!repeat) return [single(span, column.id)]
    if (repeat.over === 'branch')
      return around.branches.map(({ code, name }, index) => single(span, `${column.id}#${index + 1}`, { branch: code }, name))
    if (repeat.over === 'department')
      return around.departments.map(({ code, name }, index) => single(span, `${column.id}#${index + 1}`, { department: code }, name))
    const { over } = repeat
    const count = Math.max(1, repeat.count ?? (over === 'period' ? 12 : over === 'quarter' ? 4 : 3))
    return Array.from({ length: count }, (_, index) => {
      const back = count - 1 - index
      // a span that has steps of its own earlier goes on from there
      const moved: StatementSpan =
        span.backBy === over || !span.back
          ? { ...span, back: (span.back ?? 0) + back, backBy: over }
          : { ...span, back: span.back + back * (over === 'quarter' && span.backBy === 'period' ? 3 : 1) }
      return single(moved, `${column.id}#${index + 1}`)
    })
  })
}

/**
 * Periods that the figures of some columns need: the first one that has to stand by itself, and whether all before it are needed. Codes
 * sort in the order of time.
 */
export function neededPeriods(columns: readonly StandingColumn[], calendar: FiscalCalendar): { periods: string[]; before: string[] } {
  const held = columns.filter(each => holdsFigures(each.column) && each.periods.length)
  const balances = held.filter(each => each.column.kind === 'balance' || each.column.kind === 'opening')
  const all = [...new Set(held.flatMap(each => each.periods))].sort()
  if (!all.length) return { periods: [], before: [] }
  // income starts at zero each year, so a balance looks at its year from the beginning
  const firsts = balances.map(each => `${yearOf(each.periods[0]!)}-`).sort()
  const first = firsts[0] !== undefined && firsts[0] < all[0]! ? firsts[0] : all[0]!
  const last = all.at(-1)!
  const codes = calendar.periods.map(period => period.code).sort()
  return balances.length
    ? { periods: codes.filter(code => code >= first && code <= last), before: codes.filter(code => code < first) }
    : { periods: all, before: [] }
}
