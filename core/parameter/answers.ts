import { footnotePrefix } from '../definition/edits/footnotes'
import { type ParameterDefinition, parameterTypes } from '../definition/parameters'
import type { Answer, Value } from '../value/value'
import { checkFormula } from '../formula/check'
import { suggestion } from '../value/suggestion'
import { compileFormula, valueFrom } from '../formula/evaluate'
import { FormulaError } from '../formula/syntax'
import { findPeriod, type FiscalCalendar, monthWords, periodLabel } from '../books/calendar'
import { type Day, dayText, monthStart, parseDay } from '../value/date'
import { dateFormat } from '../value/dateFormat'
import { type Decimal, decimalText, parseDecimal } from '../value/decimal'

/** An answer that cannot be used: one sentence, beside its parameter. */
export interface AnswerProblem {
  parameter: string
  sentence: string
}

/**
 * What answers are read with: the source's clock and fiscal calendar, labels of choices that were looked up, by parameter and value, and
 * the language of the report.
 */
export interface AnswerSurroundings {
  today: Day
  calendar?: FiscalCalendar
  labels?: Readonly<Record<string, Readonly<Record<string, string>>>>
  language?: string
}

/** A range that is open at one end reaches this far. */
const [farPast, farFuture] = [parseDay('0001-01-01')!, parseDay('9999-12-31')!]

/** Several answers as one text: with commas between, those that hold a comma in quotes. */
export function joinSeveral(values: readonly string[]): string {
  return values.map(value => (/[",]|^\s|\s$/.test(value) ? `"${value.replaceAll('"', '""')}"` : value)).join(',')
}

/** Reads what joinSeveral wrote, in one go; what follows the quotes of an answer is left out. */
export function splitSeveral(text: string): string[] {
  const values: string[] = []
  for (let at = 0; at < text.length; at++) {
    while (at < text.length && text[at]!.trim() === '') at++
    let value = ''
    if (text[at] === '"' && text.indexOf('"', at + 1) > 0) {
      for (at++; at < text.length; at++) {
        if (text[at] !== '"') value += text[at]!
        else if (text[at + 1] === '"') value += text[at++]!
        else break
      }
      const end = text.indexOf(',', at)
      at = end < 0 ? text.length : end
    } else {
      const end = text.indexOf(',', at)
      value = text.slice(at, end < 0 ? text.length : end).trim()
      at = end < 0 ? text.length : end
    }
    if (value !== '') values.push(value)
  }
  return values
}

/**
 * Reads answers given as text. One left out takes its default, one given blank is empty (rule 18 of the semantics);
 * months are written `2026-10`, dates `2026-10-31`, ranges `2026-10-01..2026-10-31`, periods `2026-P07`, yes/no `yes` or `no`, several
 * choices with commas between.
 */
export function readAnswers(
  parameters: readonly ParameterDefinition[],
  given: Readonly<Record<string, string | undefined>>,
  around: AnswerSurroundings,
): { values: Record<string, Answer>; problems: AnswerProblem[] } {
  const values: Record<string, Answer> = {}
  const problems: AnswerProblem[] = []
  const asked = parameters.filter(parameter => !parameter.hidden).map(parameter => parameter.name)
  for (const name of Object.keys(given)) {
    // footnotes changed for a run travel with the answers: see withFootnotes
    if (asked.includes(name) || name.startsWith(footnotePrefix)) continue
    problems.push({
      parameter: name,
      sentence: parameters.some(parameter => parameter.name === name)
        ? `“${name}” is not asked and cannot be set; it takes its default.`
        : `There is no parameter “${name}”${suggestion(name, asked) || (asked.length ? `; there are ${asked.join(', ')}` : '')}.`,
    })
  }
  for (const parameter of parameters) {
    const text = parameter.hidden ? undefined : given[parameter.name]
    const read =
      text === undefined ? defaultAnswer(parameter, around) : text.trim() === '' ? null : readAnswer(parameter, text.trim(), around)
    if (typeof read === 'object' && read !== null && 'sentence' in read)
      problems.push({ parameter: parameter.name, sentence: read.sentence })
    else keep(parameter, read, values, around)
    if (parameter.required && read === null) problems.push({ parameter: parameter.name, sentence: `${parameter.label} needs an answer.` })
  }
  return { values, problems }
}

type Range = { from: Day | null; to: Day | null }
type Read = Answer | Range | { sentence: string }

/** Puts an answer where formulas find it. */
function keep(
  parameter: ParameterDefinition,
  read: Exclude<Read, { sentence: string }>,
  values: Record<string, Answer>,
  around: AnswerSurroundings,
): void {
  const { name } = parameter
  const labelled = (text: string) => (values[`${name}.label`] = text)
  const labelOf = (value: string) =>
    around.labels?.[name]?.[value] ?? parameter.choices?.list?.find(each => each.value === value)?.label ?? value
  switch (parameter.kind) {
    case 'dates': {
      const range = (read ?? { from: null, to: null }) as Range
      const open = range.from === null && range.to === null
      values[`${name}.from`] = open ? null : (range.from ?? farPast)
      values[`${name}.to`] = open ? null : (range.to ?? farFuture)
      const print = dateFormat('d MMM y', around.language ?? 'en-GB')
      labelled(
        open
          ? 'all'
          : range.from === null
            ? `up to ${print(range.to!)}`
            : range.to === null
              ? `from ${print(range.from)}`
              : `${print(range.from)} – ${print(range.to)}`,
      )
      return
    }
    case 'period': {
      values[name] = read as Value
      const period = read === null ? undefined : findPeriod(around.calendar, read as string)
      labelled(read === null ? 'all' : period ? periodLabel(period) : (read as string))
      return
    }
    case 'choice':
      values[name] = read as Value
      labelled(read === null ? 'all' : labelOf(answerText(parameter, values)))
      return
    case 'choices': {
      values[name] = read as Answer
      labelled(
        read === null
          ? 'all'
          : new Intl.ListFormat(around.language ?? 'en-GB', { type: 'conjunction' }).format((read as string[]).map(labelOf)),
      )
      return
    }
    default:
      values[name] = read as Value
  }
}

/** How an answer of a kind is written, in the sentence that refuses one. */
export const kindWords: Record<ParameterDefinition['kind'], string> = {
  month: 'month (written like 2026-10)',
  date: 'date (written like 2026-10-31)',
  dates: 'date range (written like 2026-10-01..2026-10-31)',
  period: 'period of the fiscal calendar (written like 2026-P07)',
  text: 'text',
  whole: 'whole number',
  decimal: 'number (written like 12.5)',
  boolean: 'yes or no',
  choice: 'choice',
  choices: 'choice',
}

function readAnswer(parameter: ParameterDefinition, text: string, around: AnswerSurroundings): Read {
  const fault = { sentence: `“${text.slice(0, 60)}” is no ${kindWords[parameter.kind]} for ${parameter.label}.` }
  const day = (each: string) => (/^\d{4}-\d{2}-\d{2}$/.test(each) ? parseDay(each) : undefined)
  const listed = parameter.choices?.list
  const unknown = (values: readonly string[]) => listed && values.find(value => !listed.some(each => each.value === value))
  switch (parameter.kind) {
    case 'month': {
      const found = /^\d{4}-\d{2}(-\d{2})?$/.test(text) ? parseDay(text) : undefined
      return found === undefined ? fault : monthStart(found)
    }
    case 'date':
      return day(text) ?? fault
    case 'dates': {
      const dots = text.indexOf('..')
      const [from, to] =
        dots >= 0
          ? [text.slice(0, dots).trim(), text.slice(dots + 2).trim()].map(each => (each === '' ? null : day(each)))
          : [day(text), day(text)]
      if (from === undefined || to === undefined || (from === null && to === null)) return fault
      if (from !== null && to !== null && from > to) return { sentence: `${parameter.label} ends before it begins; swap the two dates.` }
      return { from, to }
    }
    case 'period': {
      const found = findPeriod(around.calendar, text.toUpperCase())
      return found ? found.code : fault
    }
    case 'whole': {
      const number = parseDecimal(text)
      return number && number.scale === 0 ? number : fault
    }
    case 'decimal':
      return parseDecimal(text) ?? fault
    case 'boolean':
      return /^(yes|true)$/i.test(text) ? true : /^(no|false)$/i.test(text) ? false : fault
    case 'choice':
      return unknown([text]) === undefined
        ? (choiceValue(parameter, text) ?? fault)
        : {
            sentence: `“${text.slice(0, 60)}” is no choice of ${parameter.label}; there are ${listed!.map(each => each.value).join(', ')}.`,
          }
    case 'choices': {
      const several = [...new Set(splitSeveral(text))]
      const wrong = unknown(several)
      if (wrong !== undefined)
        return {
          sentence: `“${wrong.slice(0, 60)}” is no choice of ${parameter.label}; there are ${listed!.map(each => each.value).join(', ')}.`,
        }
      return several.length ? several : null
    }
    default:
      return text
  }
}

/** A chosen value; its text where the choices are texts, undefined where it is none of their type. */
function choiceValue(parameter: ParameterDefinition, text: string): Value | undefined {
  return valueFrom(text, parameter.choices?.type ?? 'text') ?? undefined
}

/** What a parameter's default formulas give; empty where it has none. */
function defaultAnswer(parameter: ParameterDefinition, around: AnswerSurroundings): Read {
  const { kind } = parameter
  const of = (formula: string | undefined, type: string): Value | { sentence: string } => {
    if (!formula?.trim()) return null
    try {
      const typed = checkFormula(formula, { levels: [], level: -1, parameters: {} })
      if (typed.type !== type && typed.type !== 'empty')
        return { sentence: `The default of ${parameter.label}, ${formula}, is no ${kindWords[kind]}.` }
      return compileFormula(typed, {
        levels: [],
        data: { levels: [] },
        parameters: {},
        today: around.today,
        ...(around.calendar ? { calendar: around.calendar } : {}),
      })({ level: -1, from: 0, to: 1 })
    } catch (error) {
      if (error instanceof FormulaError) return { sentence: `The default of ${parameter.label} cannot be worked out: ${error.message}` }
      throw error
    }
  }
  if (kind === 'dates') {
    const [from, to] = [of(parameter.default, 'date'), of(parameter.defaultTo, 'date')]
    for (const end of [from, to]) if (typeof end === 'object' && end !== null && 'sentence' in end) return end
    return from === null && to === null ? null : { from: from as Day | null, to: to as Day | null }
  }
  const types = parameterTypes([parameter])[parameter.name]!
  const value = of(parameter.default, types === 'texts' ? 'text' : types)
  if (kind === 'month' && typeof value === 'number') return monthStart(value)
  return kind === 'choices' && typeof value === 'string' ? splitSeveral(value) : value
}

/** An answer as it is written in an address or after `--set`: the opposite of reading it. */
export function answerText(parameter: ParameterDefinition, values: Readonly<Record<string, Answer>>): string {
  const { name, kind } = parameter
  if (kind === 'dates') {
    const [from, to] = [values[`${name}.from`], values[`${name}.to`]] as (Day | null | undefined)[]
    if (from === null || from === undefined) return ''
    return `${from === farPast ? '' : dayText(from)}..${to === farFuture ? '' : dayText(to!)}`
  }
  const value = values[name]
  if (value === null || value === undefined) return ''
  if (Array.isArray(value)) return joinSeveral(value as string[])
  if (kind === 'month') return dayText(value as Day).slice(0, 7)
  if (typeof value === 'number') return dayText(value)
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return typeof value === 'object' ? decimalText(value as Decimal) : (value as string)
}

/** How an answer reads in a sentence. */
export function answerWords(parameter: ParameterDefinition, values: Readonly<Record<string, Answer>>): string {
  const value = values[parameter.name]
  if (parameter.kind === 'month' && typeof value === 'number') return monthWords(value)
  if (parameter.kind === 'date' && typeof value === 'number') return dateFormat('d MMM y', 'en-GB')(value)
  const label = values[`${parameter.name}.label`]
  return typeof label === 'string' ? label : answerText(parameter, values)
}
