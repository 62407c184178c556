import { numberParts } from '../../../core/value/patternText'
import { allowed } from './xml'

/** Unicode patterns (TR 35) as number formats of a workbook (ECMA-376, 18.8.31). */

/** Literals stand between double quotes there, single ones here. */
const quoted = (text: string) => (text === '' ? '' : `"${text.replaceAll('"', '""')}"`)

/** `#,##0.00;−#,##0.00;–` → `#,##0.00;"−"#,##0.00;"–"`. */
export function numberFormatOf(pattern: string): string {
  const parts = numberParts(pattern)
  if (!parts) return quoted(pattern)
  return parts
    .map(({ part, text }) => {
      if (!part) return quoted(text)
      // per cent signs scale the number; all else of the texts stands for itself
      const marked = (own: string, signs: readonly number[]) =>
        [...signs, own.length].map((sign, at) => quoted(own.slice(at ? signs[at - 1]! + 1 : 0, sign))).join('%')
      const digits = part.whole + (part.fraction ? `.${part.fraction}` : '')
      return `${marked(part.prefix, part.signs.prefix)}${digits}${marked(part.suffix, part.signs.suffix)}`
    })
    .join(';')
}

const dateWords: Record<string, string> = {
  d: 'd',
  dd: 'dd',
  M: 'm',
  MM: 'mm',
  MMM: 'mmm',
  MMMM: 'mmmm',
  y: 'yyyy',
  yy: 'yy',
  yyyy: 'yyyy',
  EEE: 'ddd',
  EEEE: 'dddd',
  E: 'ddd',
  LLL: 'mmm',
  LLLL: 'mmmm',
}

/** `d MMM y` → `d mmm yyyy`; a part that a workbook does not know makes it an ISO date. */
export function dateFormatOf(pattern: string): string {
  let out = ''
  for (const match of pattern.matchAll(/'((?:[^']|'')*)'|([A-Za-z])\2*|[^A-Za-z']+/g)) {
    if (match[1] !== undefined) out += quoted(match[1] === '' ? "'" : match[1].replaceAll("''", "'"))
    else if (match[2]) {
      const word = dateWords[match[0]]
      if (!word) return 'yyyy-mm-dd'
      out += word
    } else out += /^[\s./,-]+$/.test(match[0]) ? match[0].replaceAll('/', '\\/') : quoted(match[0])
  }
  return out || 'yyyy-mm-dd'
}

/** A name that a sheet can have: at most 31 characters, none of `[]:*?/\`, no quote at its ends, and not taken yet. */
export function sheetName(text: string, taken: ReadonlySet<string>): string {
  const clean =
    allowed(text)
      // eslint-disable-next-line no-control-regex
      .replace(/[[\]:*?/\\\u0000-\u001f]+/g, ' ')
      .replace(/\s+/g, ' ')
      .trim()
      .replace(/^'+|'+$/g, '')
      .trim() || 'Sheet'
  const cut = (most: number) =>
    Array.from(clean)
      .reduce((name, char) => (name.length + char.length > most ? name : name + char), '')
      .trim()
  let name = cut(31)
  for (let again = 2; taken.has(name.toLowerCase()); again++) name = `${cut(31 - String(again).length - 3)} (${again})`
  return name
}
