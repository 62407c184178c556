import { sql, type SQL } from 'drizzle-orm'
import type { Value, ValueType } from '../value/value'
import { addMonths, dateParts, dayOf, monthEnd, monthStart, quarterEnd, weekEnd } from '../value/date'
import { absolute, ceiling, compareDecimals, type Decimal, decimal, floor, round, toNumber } from '../value/decimal'
import { clockParts, dayOfMoment as momentDay, type Moment } from '../value/moment'
import { amountWords } from '../value/amountWords'
import { folded } from '../value/text'
import { creditorReference } from '../payment/reference'
import { raised, lowered, foldedSql } from '../catalog/dialect'

/** A function of single values. Its two back ends must give the same answer for all inputs. */
export interface ScalarFunction {
  /** how it is written, e.g. "round(number, digits)" */
  usage: string
  help: string
  /** types of the arguments; the last one repeats where `many` is set; `optional` counts those that may be left out at the end */
  takes: ValueType[]
  many?: boolean
  optional?: number
  gives: ValueType
  /** an empty argument gives an empty result, unless the function handles empty itself */
  handlesEmpty?: boolean
  evaluate: (...values: Value[]) => Value
  /** absent: only on the page, where the core works it out */
  sql?: (...values: SQL[]) => SQL
}

const number = (value: Value) => value as Decimal
const text = (value: Value) => value as string
const day = (value: Value) => value as number
const whole = (value: number): Decimal => decimal(value, 0)
const int = (value: Value) => Math.trunc(toNumber(round(number(value), 0)))
const sqlInt = (value: SQL) => sql`round(${value})::int`
/** A day that is written with four digits of a year; beyond there is none. */
const dayWithin = (value: number): number | null => (value >= firstDay && value <= lastDay ? value : null)
const [firstDay, lastDay] = [dayOf(1, 1, 1), dayOf(9999, 12, 31)]
const points = (value: Value) => Array.from(text(value))
const clampedLeft = (value: Value, count: Value) =>
  points(value)
    .slice(0, Math.max(0, int(count)))
    .join('')

export const scalarFunctions: Record<string, ScalarFunction> = {
  upper: {
    usage: 'upper(text)',
    help: 'The text in capitals.',
    takes: ['text'],
    gives: 'text',
    evaluate: a => text(a).toUpperCase(),
    sql: raised,
  },
  lower: {
    usage: 'lower(text)',
    help: 'The text in small letters.',
    takes: ['text'],
    gives: 'text',
    evaluate: a => text(a).toLowerCase(),
    sql: lowered,
  },
  trim: {
    usage: 'trim(text)',
    help: 'The text without spaces at its ends.',
    takes: ['text'],
    gives: 'text',
    evaluate: a => text(a).replace(/^ +| +$/g, ''),
    sql: a => sql`btrim(${a})`,
  },
  left: {
    usage: 'left(text, count)',
    help: 'The first characters of a text.',
    takes: ['text', 'number'],
    gives: 'text',
    evaluate: clampedLeft,
    sql: (a, n) => sql`left(${a}, greatest(0, ${sqlInt(n)}))`,
  },
  right: {
    usage: 'right(text, count)',
    help: 'The last characters of a text.',
    takes: ['text', 'number'],
    gives: 'text',
    evaluate: (a, n) => (int(n) <= 0 ? '' : points(a).slice(-int(n)).join('')),
    sql: (a, n) => sql`right(${a}, greatest(0, ${sqlInt(n)}))`,
  },
  length: {
    usage: 'length(text)',
    help: 'How many characters a text has.',
    takes: ['text'],
    gives: 'number',
    evaluate: a => whole(points(a).length),
    sql: a => sql`length(${a})::numeric`,
  },
  replace: {
    usage: 'replace(text, find, put)',
    help: 'The text with each occurrence of one text changed into another.',
    takes: ['text', 'text', 'text'],
    gives: 'text',
    evaluate: (a, find, put) => (text(find) === '' ? a : text(a).split(text(find)).join(text(put))),
    sql: (a, find, put) => sql`replace(${a}, ${find}, ${put})`,
  },
  contains: {
    usage: 'contains(text, part)',
    help: 'Does the text hold the part? Case and accents do not matter.',
    takes: ['text', 'text'],
    gives: 'boolean',
    handlesEmpty: true,
    evaluate: (a, b) => a !== null && b !== null && folded(text(a)).includes(folded(text(b))),
    sql: (a, b) => sql`coalesce(position(${foldedSql(b)} in ${foldedSql(a)}) > 0, false)`,
  },
  startsWith: {
    usage: 'startsWith(text, part)',
    help: 'Does the text begin with the part? Case and accents do not matter.',
    takes: ['text', 'text'],
    gives: 'boolean',
    handlesEmpty: true,
    evaluate: (a, b) => a !== null && b !== null && folded(text(a)).startsWith(folded(text(b))),
    sql: (a, b) => sql`coalesce(starts_with(${foldedSql(a)}, ${foldedSql(b)}), false)`,
  },
  join: {
    usage: 'join(between, text, text, …)',
    help: 'Texts put together with something between them; empty ones are left out.',
    takes: ['text', 'text', 'text'],
    many: true,
    gives: 'text',
    handlesEmpty: true,
    evaluate: (between, ...parts) => (between === null ? null : parts.filter(part => part !== null).join(text(between))),
    sql: (...parts) => sql`concat_ws(${sql.join(parts, sql`, `)})`,
  },
  round: {
    usage: 'round(number, digits)',
    help: 'Rounded half away from zero; without digits to a whole number.',
    takes: ['number', 'number'],
    optional: 1,
    gives: 'number',
    evaluate: (a, n) => round(number(a), n === undefined ? 0 : int(n)),
    sql: (a, n) => (n ? sql`round(${a}, ${sqlInt(n)})` : sql`round(${a})`),
  },
  abs: {
    usage: 'abs(number)',
    help: 'The size of a number, without its sign.',
    takes: ['number'],
    gives: 'number',
    evaluate: a => absolute(number(a)),
    sql: a => sql`abs(${a})`,
  },
  floor: {
    usage: 'floor(number)',
    help: 'The whole number at or below.',
    takes: ['number'],
    gives: 'number',
    evaluate: a => floor(number(a)),
    sql: a => sql`floor(${a})`,
  },
  ceiling: {
    usage: 'ceiling(number)',
    help: 'The whole number at or above.',
    takes: ['number'],
    gives: 'number',
    evaluate: a => ceiling(number(a)),
    sql: a => sql`ceil(${a})`,
  },
  date: {
    usage: 'date(year, month, day)',
    help: 'A date from its parts; a month or day beyond the end runs on. Of a date with a time, date(it) is its day.',
    takes: ['number', 'number', 'number'],
    gives: 'date',
    evaluate: (y, m, d) => dayWithin(addMonths(dayOf(int(y), 1, 1), int(m) - 1) + int(d) - 1),
    sql: (y, m, d) => sql`((make_date(${sqlInt(y)}, 1, 1) + make_interval(months => ${sqlInt(m)} - 1))::date + (${sqlInt(d)} - 1))`,
  },
  addDays: {
    usage: 'addDays(date, days)',
    help: 'The date so many days later.',
    takes: ['date', 'number'],
    gives: 'date',
    evaluate: (a, n) => dayWithin(day(a) + int(n)),
    sql: (a, n) => sql`(${a} + ${sqlInt(n)})`,
  },
  addMonths: {
    usage: 'addMonths(date, months)',
    help: 'The same day so many months later, or the last day of a shorter month.',
    takes: ['date', 'number'],
    gives: 'date',
    evaluate: (a, n) => dayWithin(addMonths(day(a), int(n))),
    sql: (a, n) => sql`(${a} + make_interval(months => ${sqlInt(n)}))::date`,
  },
  monthStart: {
    usage: 'monthStart(date)',
    help: 'The first day of the date’s month.',
    takes: ['date'],
    gives: 'date',
    evaluate: a => monthStart(day(a)),
    sql: a => sql`date_trunc('month', ${a}::timestamp)::date`,
  },
  monthEnd: {
    usage: 'monthEnd(date)',
    help: 'The last day of the date’s month.',
    takes: ['date'],
    gives: 'date',
    evaluate: a => monthEnd(day(a)),
    sql: a => sql`(date_trunc('month', ${a}::timestamp) + interval '1 month - 1 day')::date`,
  },
  weekEnd: {
    usage: 'weekEnd(date)',
    help: 'The Sunday of the date’s week.',
    takes: ['date'],
    gives: 'date',
    evaluate: a => weekEnd(day(a)),
    sql: a => sql`(date_trunc('week', ${a}::timestamp) + interval '6 days')::date`,
  },
  quarterEnd: {
    usage: 'quarterEnd(date)',
    help: 'The last day of the date’s quarter.',
    takes: ['date'],
    gives: 'date',
    evaluate: a => quarterEnd(day(a)),
    sql: a => sql`(date_trunc('quarter', ${a}::timestamp) + interval '3 months - 1 day')::date`,
  },
  yearEnd: {
    usage: 'yearEnd(date)',
    help: 'The last day of the date’s calendar year.',
    takes: ['date'],
    gives: 'date',
    evaluate: a => dayOf(dateParts(day(a)).year, 12, 31),
    sql: a => sql`(date_trunc('year', ${a}::timestamp) + interval '1 year - 1 day')::date`,
  },
  daysBetween: {
    usage: 'daysBetween(from, to)',
    help: 'How many days lie between two dates; negative when the second is earlier.',
    takes: ['date', 'date'],
    gives: 'number',
    evaluate: (a, b) => whole(day(b) - day(a)),
    sql: (a, b) => sql`(${b} - ${a})::numeric`,
  },
  year: {
    usage: 'year(date)',
    help: 'The year of a date.',
    takes: ['date'],
    gives: 'number',
    evaluate: a => whole(dateParts(day(a)).year),
    sql: a => sql`extract(year from ${a})::numeric`,
  },
  quarter: {
    usage: 'quarter(date)',
    help: 'The quarter of a date, 1 to 4.',
    takes: ['date'],
    gives: 'number',
    evaluate: a => whole(Math.ceil(dateParts(day(a)).month / 3)),
    sql: a => sql`extract(quarter from ${a})::numeric`,
  },
  month: {
    usage: 'month(date)',
    help: 'The month of a date, 1 to 12.',
    takes: ['date'],
    gives: 'number',
    evaluate: a => whole(dateParts(day(a)).month),
    sql: a => sql`extract(month from ${a})::numeric`,
  },
  hour: {
    usage: 'hour(moment)',
    help: 'The hour of a date with a time, 0 to 23.',
    takes: ['moment'],
    gives: 'number',
    evaluate: a => whole(clockParts(a as Moment).hour),
    sql: a => sql`extract(hour from ${a})::numeric`,
  },
  minute: {
    usage: 'minute(moment)',
    help: 'The minute of a date with a time, 0 to 59.',
    takes: ['moment'],
    gives: 'number',
    evaluate: a => whole(clockParts(a as Moment).minute),
    sql: a => sql`extract(minute from ${a})::numeric`,
  },
  words: {
    usage: 'words(amount, currency, language)',
    help: 'An amount in words, in the language of the document.',
    takes: ['number', 'text', 'text'],
    optional: 2,
    gives: 'text',
    evaluate: (a, currency, language) => amountWords(number(a), text(currency ?? ''), text(language ?? 'en')),
  },
  creditorReference: {
    usage: 'creditorReference(number)',
    help: 'The number of a document as a structured creditor reference (ISO 11649), with its check digits: RF18…',
    takes: ['text'],
    gives: 'text',
    evaluate: a => creditorReference(text(a)) ?? null,
  },
  bucket: {
    usage: 'bucket(number, edge, edge, …)',
    help: 'Which stretch a number lies in: 0 up to the first edge, 1 up to the second …; edges belong to the stretch below.',
    takes: ['number', 'number'],
    many: true,
    gives: 'number',
    evaluate: (a, ...edges) => whole(edges.filter(edge => compareDecimals(number(a), number(edge)) > 0).length),
    sql: (a, ...edges) =>
      sql`(${sql.join(
        edges.map(edge => sql`(${a} > ${edge})::int`),
        sql` + `,
      )})::numeric`,
  },
}

/** How a formula that has been checked calls the day of a date with a time; nobody can write it so. */
export const dayOfMoment = 'day of'

/** All that a checked formula may call. */
export const callable: Record<string, ScalarFunction> = {
  ...scalarFunctions,
  [dayOfMoment]: {
    usage: 'date(moment)',
    help: 'The day of a date with a time.',
    takes: ['moment'],
    gives: 'date',
    evaluate: a => momentDay(a as Moment),
    sql: a => sql`(${a})::date`,
  },
}

/** Functions of the source's fiscal calendar. Periods are texts like "2026-P07". */
export const periodFunctions: Record<string, { usage: string; help: string; takes: ValueType[]; gives: ValueType }> = {
  period: { usage: 'period(date)', help: 'The fiscal period that holds a date.', takes: ['date'], gives: 'text' },
  periodStart: { usage: 'periodStart(period)', help: 'The first day of a fiscal period.', takes: ['text'], gives: 'date' },
  periodEnd: { usage: 'periodEnd(period)', help: 'The last day of a fiscal period.', takes: ['text'], gives: 'date' },
  yearStart: { usage: 'yearStart(period)', help: 'The first day of the fiscal year of a period.', takes: ['text'], gives: 'date' },
  addPeriods: {
    usage: 'addPeriods(period, count)',
    help: 'The fiscal period so many places later, across years; negative counts go back.',
    takes: ['text', 'number'],
    gives: 'text',
  },
}

/** Functions over many records, and what they are written with. */
export const totalFunctions: Record<string, { usage: string; help: string }> = {
  sum: { usage: 'sum(number, where: …, over: …)', help: 'Adds up a number once for each record that the row covers.' },
  count: {
    usage: 'count(field, where: …, over: …)',
    help: 'Counts the records in which the field is not empty; a level’s name counts its records.',
  },
  distinct: { usage: 'distinct(field, where: …, over: …)', help: 'Counts the different values.' },
  min: { usage: 'min(value, where: …, over: …)', help: 'The lowest value.' },
  max: { usage: 'max(value, where: …, over: …)', help: 'The highest value.' },
  average: { usage: 'average(number, where: …, over: …)', help: 'The sum divided by the count.' },
  median: { usage: 'median(number, where: …, over: …)', help: 'The middle value; between two, their mean.' },
  mode: { usage: 'mode(value, where: …, over: …)', help: 'The value that occurs most often; of several the lowest.' },
  largest: { usage: 'largest(number, n, where: …, over: …)', help: 'The n-th largest value.' },
  smallest: { usage: 'smallest(number, n, where: …, over: …)', help: 'The n-th smallest value.' },
  share: { usage: 'share(number, where: …, over: …)', help: 'What the row’s sum is of the sum of the table, a group or the report.' },
  rank: { usage: 'rank(number, over: …)', help: 'The row’s place among its neighbours, the highest first.' },
  has: { usage: 'has(level, test)', help: 'Is there such a record in a level below? In a filter: only records that have one.' },
  running: { usage: 'running(number, where: …, over: …)', help: 'Adds up a number from the first record to this one, in printed order.' },
  first: { usage: 'first(value, where: …, over: …)', help: 'The value of the first record.' },
  last: { usage: 'last(value, where: …, over: …)', help: 'The value of the last record.' },
  listed: { usage: 'listed(text, where: …, over: …)', help: 'The different texts in printed order, with commas between them.' },
}
