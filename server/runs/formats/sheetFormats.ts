/** Unicode patterns (TR 35) as number formats of a workbook (ECMA-376, 18.8.31). */

/** Literals stand between double quotes there, single ones here. */
const quoted = (text: string) => (text === '' ? '' : `"${text.replaceAll('"', '""')}"`)

const numberPart = /^((?:'(?:[^']|'')*'|[^#0,.'])*)([#0,]*(?:\.[0#]*)?)((?:'(?:[^']|'')*'|[^#0,.'])*)$/u

/** `#,##0.00;−#,##0.00;–` → `#,##0.00;"−"#,##0.00;"–"`. */
export function numberFormatOf(pattern: string): string {
  const parts = pattern.split(/;(?=(?:[^']*'[^']*')*[^']*$)/)
  return parts
    .map(part => {
      const match = numberPart.exec(part)
      if (!match) return quoted(plain(part))
      const [, before, digits, after] = match
      const marked = (text: string) =>
        text
          .split(/%(?=(?:[^']*'[^']*')*[^']*$)/)
          .map(piece => quoted(plain(piece)))
          .join('%')
      return `${marked(before!)}${digits}${marked(after!)}`
    })
    .join(';')
}

const plain = (text: string) => text.replace(/'((?:[^']|'')*)'/g, (_, inner: string) => (inner === '' ? "'" : inner.replaceAll("''", "'")))

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
    text
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
