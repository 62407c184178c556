import { absolute, round, type Decimal, decimalText, multiply } from './decimal'
import { type NumberPart, numberParts } from './patternText'

/** How numbers are marked in a language. */
export interface NumberMarks {
  decimal: string
  group: string
  minus: string
}

const known = new Map<string, NumberMarks>()

/** Decimal, group and minus marks of a language tag, from the platform's CLDR data. */
export function numberMarks(language: string): NumberMarks {
  let marks = known.get(language)
  if (!marks) {
    const parts = new Intl.NumberFormat(language, { useGrouping: true, minimumFractionDigits: 1 }).formatToParts(-1234567.5)
    const of = (type: string, otherwise: string) => parts.find(part => part.type === type)?.value ?? otherwise
    marks = { decimal: of('decimal', '.'), group: of('group', ','), minus: of('minusSign', '-') === '-' ? '−' : of('minusSign', '−') }
    known.set(language, marks)
  }
  return marks
}

interface Half {
  prefix: string
  suffix: string
  whole: number
  least: number
  most: number
  grouped: boolean
  percent: boolean
}

/** A pattern that cannot be read; its message is one sentence. */
export class PatternError extends Error {}

function halfOf(part: NumberPart | undefined, pattern: string): Half {
  if (!part) throw new PatternError(`“${shortened(pattern)}” is not a number pattern; write it like #,##0.00 or #,##0.00;(#,##0.00).`)
  const { prefix, suffix, whole, fraction, percent } = part
  return {
    prefix,
    suffix,
    whole: whole.replace(/[^0]/g, '').length,
    least: fraction.replace(/#/g, '').length,
    most: fraction.length,
    grouped: whole.includes(','),
    percent,
  }
}

const shortened = (pattern: string) => (pattern.length > 60 ? `${pattern.slice(0, 60)}…` : pattern)
/** Digits that a pattern may ask for. */
const mostDigits = 100
/** Letters of a pattern: far more than any column is wide. */
const mostLetters = 500

/**
 * Compiles a number pattern of Unicode TR 35 (the subset `# 0 , . % ;` and quoted literals) for a language. A third part, as
 * spreadsheets know it (ECMA-376, 18.8.31), is a text that stands for zero.
 * The result rounds half away from zero to the pattern's digits and never prints a negative zero.
 * @throws PatternError
 */
export function numberFormat(pattern: string, language: string): (value: Decimal) => string {
  if (pattern.length > mostLetters)
    throw new PatternError(`“${shortened(pattern)}” has ${pattern.length} letters; a number pattern has at most ${mostLetters}.`)
  const halves = numberParts(pattern)
  if (!halves) throw new PatternError(`“${shortened(pattern)}” has a quote that does not end; write '' for a quote itself.`)
  if (halves.length > 3) throw new PatternError(`“${shortened(pattern)}” has more than three parts; a pattern is positive;negative;zero.`)
  const positive = halfOf(halves[0]!.part, pattern)
  if (positive.most > mostDigits || positive.whole > mostDigits)
    throw new PatternError(`“${shortened(pattern)}” asks for more than ${mostDigits} digits; write fewer.`)
  const zero = halves.length === 3 ? halves[2]!.text : undefined
  const below = halves.length > 1 ? halfOf(halves[1]!.part, pattern) : undefined
  const negative = below && { ...positive, prefix: withMinus(below.prefix), suffix: withMinus(below.suffix) }
  const marks = numberMarks(language)
  /** one minus sign everywhere, however a pattern writes it */
  function withMinus(text: string): string {
    return text.replace('-', numberMarks(language).minus)
  }
  return value => {
    const scaled = positive.percent ? multiply(value, { units: 100, scale: 0 }) : value
    const rounded = round(scaled, positive.most)
    if (zero !== undefined && !rounded.units) return zero
    const isBelow = rounded.units < 0
    const half = isBelow && negative ? negative : positive
    const text = decimalText(absolute(rounded))
    const mark = text.indexOf('.')
    let whole = mark < 0 ? text : text.slice(0, mark)
    let fraction = mark < 0 ? '' : text.slice(mark + 1)
    while (fraction.length > positive.least && fraction.endsWith('0')) fraction = fraction.slice(0, -1)
    while (fraction.length < positive.least) fraction += '0'
    if (whole === '0' && positive.whole === 0 && fraction) whole = ''
    while (whole.length < positive.whole) whole = `0${whole}`
    if (positive.grouped && whole.length > 3) {
      let grouped = whole.slice(-3)
      for (let end = whole.length - 3; end > 0; end -= 3) grouped = whole.slice(Math.max(0, end - 3), end) + marks.group + grouped
      whole = grouped
    }
    return half.prefix + (isBelow && !negative ? marks.minus : '') + whole + (fraction ? marks.decimal + fraction : '') + half.suffix
  }
}
