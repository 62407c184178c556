import { absolute, round, type Decimal, decimalText, multiply } from './decimal'

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

/** A text of a pattern without its quotes; '' is a quote. */
const literalText = (part: string) =>
  part.replace(/'((?:[^']|'')*)'/g, (_, inner: string) => (inner === '' ? "'" : inner.replaceAll("''", "'")))

function readHalf(text: string, whole: string): Half {
  const literal = "(?:'(?:[^']|'')*'|[^#0,.'])*"
  const match = new RegExp(`^(${literal})([#,]*[0,]*)(?:\\.(0*)(#*))?(${literal})$`, 'u').exec(text)
  if (!match || !/[#0]/.test(match[2]! + (match[3] ?? '')))
    throw new PatternError(`“${whole}” is not a number pattern; write it like #,##0.00 or #,##0.00;(#,##0.00).`)
  const [, prefix, digits, zeros = '', hashes = '', suffix] = match
  return {
    prefix: literalText(prefix!),
    suffix: literalText(suffix!),
    whole: digits!.replace(/[^0]/g, '').length,
    least: zeros.length,
    most: zeros.length + hashes.length,
    grouped: digits!.includes(','),
    percent: /%/.test((prefix! + suffix!).replace(/'(?:[^']|'')*'/g, '')),
  }
}

/**
 * Compiles a number pattern of Unicode TR 35 (the subset `# 0 , . % ;` and quoted literals) for a language. A third part, as
 * spreadsheets know it (ECMA-376, 18.8.31), is a text that stands for zero.
 * The result rounds half away from zero to the pattern's digits and never prints a negative zero.
 * @throws PatternError
 */
export function numberFormat(pattern: string, language: string): (value: Decimal) => string {
  const halves = pattern.split(/;(?=(?:[^']*'[^']*')*[^']*$)/)
  if (halves.length > 3) throw new PatternError(`“${pattern}” has more than three parts; a pattern is positive;negative;zero.`)
  const positive = readHalf(halves[0]!, pattern)
  const zero = halves.length === 3 ? literalText(halves[2]!) : undefined
  const negative =
    halves.length > 1
      ? { ...positive, prefix: readHalf(halves[1]!, pattern).prefix, suffix: readHalf(halves[1]!, pattern).suffix }
      : undefined
  const marks = numberMarks(language)
  return value => {
    const scaled = positive.percent ? multiply(value, { units: 100, scale: 0 }) : value
    const rounded = round(scaled, positive.most)
    if (zero !== undefined && !rounded.units) return zero
    const below = rounded.units < 0
    const half = below && negative ? negative : positive
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
    return half.prefix + (below && !negative ? marks.minus : '') + whole + (fraction ? marks.decimal + fraction : '') + half.suffix
  }
}
