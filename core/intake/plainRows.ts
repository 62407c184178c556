import { answerFrom, type ColumnForm } from './cells'
import { answer, comma, point } from './forms'
import { plainDay, plainMoment, type Tally, totalWords } from './understand'

/** What the rows of a file are read for: their columns as they are taken, with the digits that there is room for. */
export interface PlainColumn {
  form: ColumnForm
  digits?: number
  scale?: number
}

interface Parts {
  /** the tallies of the columns, in their order: rows that are taken are counted in them as `Understanding` counts them */
  tallies: readonly Tally[]
  columns: readonly PlainColumn[]
  titles: readonly string[] | undefined
  /** one byte */
  separator: string
  /** so many rows were taken, and none of them is a total */
  counted: (rows: number) => void
  /** rows in PostgreSQL's text format for COPY, each with its line of the file in front */
  rows: (bytes: Uint8Array<ArrayBuffer>, rows: number) => void
}

const [quote, backslash, tab, minus, mark, colon, blank] = [34, 92, 9, 45, 46, 58, 32]
const isDigit = (byte: number) => byte >= 48 && byte <= 57
const monthDays = [31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]
const roomAtOnce = 1 << 20

/**
 * Takes rows of separated values byte by byte, where every cell is written as the database writes it, which most of most files are: nothing
 * is made of their cells but the bytes that go into it. Any row that is not is refused, and is read as rows are read.
 */
export class PlainRows {
  private out = new Uint8Array(roomAtOnce)
  private at = 0
  private taken = 0
  private readonly separator: number
  private readonly titled: Uint8Array | undefined
  /** of the row at hand, by columns: digits before and after the mark; −1 where the cell is empty */
  private readonly digits: Int32Array
  private readonly scales: Int32Array
  private readonly answers = new Map<number, number>()

  constructor(private readonly parts: Parts) {
    this.separator = parts.separator.charCodeAt(0)
    this.titled = parts.titles && new TextEncoder().encode(parts.titles[0] ?? '')
    this.digits = new Int32Array(parts.columns.length)
    this.scales = new Int32Array(parts.columns.length)
  }

  /** Can rows of these columns be taken at all? */
  static can(columns: readonly PlainColumn[]): boolean {
    return columns.length > 1 && columns.every(({ form }) => form.type !== 'number' || form.decimal === '.')
  }

  /** Takes the row from `from` up to (not including) `to`, which has no line end in it; false where it is to be read otherwise. */
  take(bytes: Uint8Array, from: number, to: number, line: number): boolean {
    const { tallies, columns } = this.parts
    // every byte may become two, and a number of a line stands in front
    if (this.out.length - this.at < (to - from) * 2 + 24) {
      this.flush()
      if (this.out.length < (to - from) * 2 + 24) return false
    }
    const start = this.at
    this.number(line)
    let at = from
    for (let column = 0; column < columns.length; column++) {
      if (column && (at > to || bytes[at - 1] !== this.separator)) return this.refuse(start)
      this.out[this.at++] = tab
      const next = this.cell(bytes, at, to, column)
      if (next < 0) return this.refuse(start)
      if (column === 0 && this.isSpecial(bytes, at, next)) return this.refuse(start)
      at = next + 1
    }
    if (at !== to + 1) return this.refuse(start)
    this.out[this.at++] = 10
    for (let column = 0; column < columns.length; column++) this.count(tallies[column]!, column)
    this.taken++
    return true
  }

  private refuse(start: number): false {
    this.at = start
    return false
  }

  /** Hands on what has been taken. */
  flush(): void {
    if (!this.taken) return
    this.parts.rows(this.out.slice(0, this.at), this.taken)
    this.parts.counted(this.taken)
    this.at = this.taken = 0
  }

  private count(tally: Tally, column: number): void {
    const digits = this.digits[column]!
    if (digits < 0) {
      tally.empty++
      return
    }
    tally.filled++
    if (this.parts.columns[column]!.form.type !== 'number') return
    const scale = this.scales[column]!
    if (digits > tally.digits[0]) tally.digits[0] = digits
    if (tally.wanted & comma && digits + scale > tally.digits[1]) tally.digits[1] = digits + scale
    if (!scale) return
    if (scale > tally.scales[0]) tally.scales[0] = scale
    tally.marked = tally.dotted = true
  }

  /** Writes a cell, in quotes or not; where it ends (its separator, or the end of the row), or −1 where it is none of these. */
  private cell(bytes: Uint8Array, from: number, to: number, column: number): number {
    let [first, last, end] = [from, from, from]
    let doubled = false
    if (bytes[from] === quote && from < to) {
      first = from + 1
      for (last = first; ; last++) {
        if (last >= to) return -1
        if (bytes[last] !== quote) continue
        if (last + 1 < to && bytes[last + 1] === quote) {
          doubled = true
          last++
        } else break
      }
      end = last + 1
      if (end < to && bytes[end] !== this.separator) return -1
    } else {
      while (end < to && bytes[end] !== this.separator) end++
      last = end
    }
    if (first === last) {
      this.digits[column] = -1
      this.out[this.at++] = backslash
      this.out[this.at++] = 78
      return end
    }
    const { form } = this.parts.columns[column]!
    const { wanted } = this.parts.tallies[column]!
    this.digits[column] = this.scales[column] = 0
    if (form.type === 'text') return wanted === 0 && this.text(bytes, first, last, doubled) ? end : -1
    if (doubled || !this.value(bytes, first, last, column, form, wanted)) return -1
    return end
  }

  private text(bytes: Uint8Array, from: number, to: number, doubled: boolean): boolean {
    // words that stand for empty ones begin with these, or with white space
    const first = bytes[from]!
    const letter = (first > 57 && first < 92 && first !== 78) || (first > 92 && first < 128 && first !== 110) || isDigit(first)
    const beyond = first >= 128 && first !== 0xc2 && first !== 0xe2 && first !== 0xe3 && first !== 0xef
    if (to - from < 24 && !letter && !beyond) return false
    const { out } = this
    let own = this.at
    for (let at = from; at < to; at++) {
      const byte = bytes[at]!
      if (byte < 32) {
        if (byte !== tab) return false
        out[own++] = backslash
        out[own++] = 116
      } else if (byte === backslash) {
        out[own++] = backslash
        out[own++] = backslash
      } else {
        out[own++] = byte
        if (doubled && byte === quote) at++
      }
    }
    this.at = own
    return true
  }

  private value(bytes: Uint8Array, from: number, to: number, column: number, form: ColumnForm, wanted: number): boolean {
    switch (form.type) {
      case 'number':
        if ((wanted !== point && wanted !== (point | comma)) || !this.isNumber(bytes, from, to, column, wanted)) return false
        break
      case 'date':
        if (form.order !== 'ymd' || wanted !== plainDay || to - from !== 10 || !isDay(bytes, from)) return false
        break
      case 'moment':
        if (form.order !== 'ymd' || wanted !== plainMoment || to - from !== 19 || !isDay(bytes, from) || !isTime(bytes, from + 10))
          return false
        break
      case 'boolean': {
        const written = wanted === answer ? this.answer(bytes, from, to) : 0
        if (written) this.out[this.at++] = written
        return written !== 0
      }
      default:
        return false
    }
    const { out } = this
    let own = this.at
    for (let at = from; at < to; at++) out[own++] = bytes[at]!
    this.at = own
    return true
  }

  private isNumber(bytes: Uint8Array, from: number, to: number, column: number, wanted: number): boolean {
    const start = bytes[from] === minus ? from + 1 : from
    // a zero that leads would be lost
    if (bytes[from] === 48 && to - from > 1 && bytes[from + 1] !== mark) return false
    let found = -1
    for (let at = start; at < to; at++) {
      const byte = bytes[at]!
      if (isDigit(byte)) continue
      if (byte !== mark || found >= 0 || at === start || at === to - 1) return false
      found = at
    }
    const digits = (found < 0 ? to : found) - start
    const scale = found < 0 ? 0 : to - found - 1
    if (!digits || to - from >= 1000) return false
    // what stands behind the point may be a group of thousands too
    if (wanted & comma && scale && (scale !== 3 || digits > 3)) return false
    const room = this.parts.columns[column]!
    if (digits > (room.digits ?? Infinity) || scale > (room.scale ?? Infinity)) return false
    this.digits[column] = digits
    this.scales[column] = scale
    return true
  }

  /** What yes or no is written as, by its letters; 0 where it is neither. */
  private answer(bytes: Uint8Array, from: number, to: number): number {
    if (to - from > 5) return 0
    let packed = 0
    for (let at = from; at < to; at++) packed = packed * 256 + bytes[at]!
    let found = this.answers.get(packed)
    if (found === undefined) {
      const said = answerFrom(String.fromCharCode(...bytes.subarray(from, to)))
      this.answers.set(packed, (found = said === undefined ? 0 : said ? 116 : 102))
    }
    return found
  }

  /** Is it a row of titles once more, or one that says to be a total? Its first cell does. */
  private isSpecial(bytes: Uint8Array, from: number, to: number): boolean {
    const { titled } = this
    if (from === to) return true
    const first = bytes[from] === quote ? from + 1 : from
    const byte = bytes[first]!
    if (titled && byte === titled[0] && titled.every((each, at) => bytes[first + at] === each)) return true
    // totals begin with one of four letters, after white space
    const small = byte | 32
    if (byte > blank && small !== 103 && small !== 115 && small !== 116 && small !== 122) return false
    return byte <= blank || totalWords([new TextDecoder().decode(bytes.subarray(first, to))]) !== undefined
  }

  private number(value: number): void {
    const text = String(value)
    for (let at = 0; at < text.length; at++) this.out[this.at++] = text.charCodeAt(at)
  }
}

/** Is it a day of the calendar, written YYYY-MM-DD? */
function isDay(bytes: Uint8Array, from: number): boolean {
  for (let at = 0; at < 10; at++) if (at === 4 || at === 7 ? bytes[from + at] !== minus : !isDigit(bytes[from + at]!)) return false
  const two = (at: number) => (bytes[from + at]! - 48) * 10 + bytes[from + at + 1]! - 48
  const year = two(0) * 100 + two(2)
  const [month, day] = [two(5), two(8)]
  if (year < 1 || month < 1 || month > 12 || day < 1 || day > monthDays[month - 1]!) return false
  return month !== 2 || day < 29 || (year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0))
}

/** Is it a blank and a time, written HH:MM:SS? */
function isTime(bytes: Uint8Array, from: number): boolean {
  for (let at = 0; at < 9; at++) {
    const byte = bytes[from + at]!
    if (at === 0 ? byte !== blank : at === 3 || at === 6 ? byte !== colon : !isDigit(byte)) return false
  }
  const two = (at: number) => (bytes[from + at]! - 48) * 10 + bytes[from + at + 1]! - 48
  return two(1) < 24 && two(4) < 60 && two(7) < 60
}
