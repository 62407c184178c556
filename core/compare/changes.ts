import { literalPattern } from '../value/text'
import { add, type Decimal, isZero, negate, parseDecimal, subtract, trim, decimalText, zero } from '../value/decimal'
import { numberMarks } from '../value/numberFormat'
import type { Place, PrintedRow } from './rows'

/** A cell that says something else than before. `difference` is now − before, a number as text, where both are numbers. */
export interface CellChange {
  cell: string
  before: string
  now: string
  difference?: string
}

/** A row that is new, gone or changed. Places are those on the pages of the run before and of the one now, pages from 0. */
export interface RowChange {
  kind: 'new' | 'gone' | 'changed'
  block: string
  part: string
  /** what it prints as text, to know it by */
  label: string
  before?: { page: number; place: Place }
  now?: { page: number; place: Place }
  cells: (CellChange & { placeBefore?: Place; placeNow?: Place })[]
}

/** What two runs of a report differ in. */
export interface Changes {
  counts: { new: number; gone: number; changed: number; same: number }
  /** in the order of the pages; the first of them, where there are very many */
  rows: RowChange[]
  /** by how much the lines of a table come to more or less, column by column: numbers as text */
  sums: { block: string; column: string; difference: string }[]
}

export interface ComparedReport {
  /** the language of its numbers */
  language: string
  /** does a cell print a number and nothing else? */
  isNumber: (block: string, row: string, cell: string) => boolean
  /** lines of this block are records, which can be added up; those of a statement are sums of one another */
  addsUp: (block: string) => boolean
  /** most rows that are told one by one */
  most: number
}

/**
 * Reads a number as it is printed: marks of the language, a minus or parentheses, with whatever stands around its digits. Nothing where
 * it is no number.
 */
export function printedNumber(text: string, language: string): Decimal | undefined {
  const marks = numberMarks(language)
  const own = text.trim()
  const first = own.search(/\d/)
  if (first < 0) return undefined
  let last = own.length
  while (!/\d/.test(own[last - 1]!)) last--
  const [before, digits, after] = [own.slice(0, first), own.slice(first, last), own.slice(last)]
  if (!/^(?:\p{Lu}{3}\s)?[^\d\p{L}]*$/u.test(before) || !/^[\d\s.,'’\u00a0\u202f]*$/u.test(digits)) return undefined
  const group = /\s/u.test(marks.group) ? '[\\s\\u00a0\\u202f]' : literalPattern(marks.group)
  if (!new RegExp(`^(?:\\d+|\\d{1,3}(?:${group}\\d{3})+)(?:${literalPattern(marks.decimal)}\\d+)?$`, 'u').test(digits.trim()))
    return undefined
  const value = parseDecimal(digits.trim().replace(new RegExp(group, 'gu'), '').replace(marks.decimal, '.'))
  if (!value) return undefined
  return /[-−]/.test(before) || (before.includes('(') && after.includes(')')) ? negate(value) : value
}

/**
 * Holds the printed rows of two runs against one another, by what tells rows apart; rows that are printed several times are compared in
 * their order.
 */
export function compareRows(before: readonly PrintedRow[], now: readonly PrintedRow[], report: ComparedReport): Changes {
  const named = (rows: readonly PrintedRow[]) => {
    const seen = new Map<string, number>()
    return rows.map(row => {
      const plain = `${row.block}\u0000${row.row}\u0000${row.key}`
      const count = (seen.get(plain) ?? 0) + 1
      seen.set(plain, count)
      return [`${plain}\u0000${count}`, row] as const
    })
  }
  const [older, newer] = [named(before), named(now)]
  const [known, standing] = [new Map(older), new Map(newer)]
  // what is gone stands in the list after what it came after
  const gone = new Map<string, PrintedRow[]>()
  let after = ''
  for (const [name, row] of older) {
    if (standing.has(name)) after = name
    else gone.set(after, [...(gone.get(after) ?? []), row])
  }
  const counts = { new: 0, gone: 0, changed: 0, same: 0 }
  const rows: RowChange[] = []
  const sums = new Map<string, { block: string; column: string; difference: Decimal }>()
  const number = (row: PrintedRow, cell: string, text: string | undefined) =>
    !text ? undefined : report.isNumber(row.block, row.row, cell) ? printedNumber(text, report.language) : undefined
  const count = (row: PrintedRow, cell: string, difference: Decimal) => {
    if (row.part !== 'line' || !report.addsUp(row.block) || isZero(difference)) return
    const key = `${row.block}\u0000${cell}`
    const found = sums.get(key)
    if (found) found.difference = add(found.difference, difference)
    else sums.set(key, { block: row.block, column: cell, difference })
  }
  const tell = (change: RowChange) => {
    counts[change.kind]++
    if (rows.length < report.most) rows.push(change)
  }
  const placed = ({ page, place }: { page: number; place: Place }) => ({ page, place })
  const single = (kind: 'new' | 'gone', row: PrintedRow) => {
    for (const [cell, { text }] of row.cells) {
      const value = number(row, cell, text)
      if (value) count(row, cell, kind === 'new' ? value : negate(value))
    }
    tell({
      kind,
      block: row.block,
      part: row.part,
      label: labelOf(row, report),
      ...(kind === 'new' ? { now: placed(row) } : { before: placed(row) }),
      cells: [],
    })
  }
  const tellGone = (name: string) => gone.get(name)?.forEach(row => single('gone', row))
  tellGone('')
  for (const [name, row] of newer) {
    const old = known.get(name)
    if (!old) single('new', row)
    else {
      const cells = [...new Set([...old.cells.keys(), ...row.cells.keys()])].flatMap((cell): RowChange['cells'] => {
        const [was, is] = [old.cells.get(cell), row.cells.get(cell)]
        if ((was?.text ?? '') === (is?.text ?? '')) return []
        const [a, b] = [number(old, cell, was?.text), number(row, cell, is?.text)]
        const difference = a || b ? subtract(b ?? zero, a ?? zero) : undefined
        if (difference) count(row, cell, difference)
        return [
          {
            cell,
            before: was?.text ?? '',
            now: is?.text ?? '',
            ...(difference ? { difference: decimalText(difference) } : {}),
            ...(was ? { placeBefore: was.place } : {}),
            ...(is ? { placeNow: is.place } : {}),
          },
        ]
      })
      if (cells.length)
        tell({
          kind: 'changed',
          block: row.block,
          part: row.part,
          label: labelOf(row, report),
          before: placed(old),
          now: placed(row),
          cells,
        })
      else counts.same++
    }
    tellGone(name)
  }
  return {
    counts,
    rows,
    sums: [...sums.values()]
      .filter(each => !isZero(each.difference))
      .map(each => ({ ...each, difference: decimalText(trim(each.difference)) })),
  }
}

/** The first texts of a row that are no numbers. */
function labelOf(row: PrintedRow, report: ComparedReport): string {
  const texts = [...row.cells].filter(([cell, { text }]) => text && !report.isNumber(row.block, row.row, cell)).map(([, { text }]) => text)
  return (
    texts.length
      ? texts.slice(0, 3)
      : [...row.cells.values()]
          .map(each => each.text)
          .filter(Boolean)
          .slice(0, 2)
  )
    .join(' · ')
    .slice(0, 120)
}
