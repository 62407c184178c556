import { type Cell, cellText, type ColumnForm, isEmptyWord, isPlainMoment, leadsWithZero, markOf, numberShape } from './cells'
import { allForms, answer, comma, fits, forms, point } from './forms'

/** A column as it was understood. */
export interface ProposedColumn {
  /** as statements call it */
  name: string
  /** as the file calls it */
  title: string
  form: ColumnForm
  /** decimals of a number, the most that any has */
  scale?: number
  /** digits before the mark, the most that any has */
  digits?: number
  /** cells that are empty, or hold a word that stands for it */
  empty: number
  /** what whoever takes the file in should know, in sentences */
  notes: string[]
}

export interface ProposedTable {
  columns: ProposedColumn[]
  rows: number
  /** the titles as the file writes them, where it has any */
  titles?: string[]
  /** rows stand after this line */
  after: number
  /** rows that have fewer or more cells than there are columns */
  ragged: { line: number; cells: number }[]
  /** the line of the titles, where there are any */
  titleLine?: number
  /** every row means what it says, also an empty one, and one that reads like the titles */
  typed: boolean
  /** rows that look like totals of the others, with the words by which they do */
  totals: { line: number; words: string }[]
  /** lines that are left out */
  without: readonly number[]
  notes: string[]
}

/** What is counted of a column. */
export interface Tally {
  /** forms that are still looked for: those that fit nearly everything so far */
  wanted: number
  filled: number
  empty: number
  /** words that stand for an empty cell, other than nothing at all */
  words: number
  fails: number[]
  misfits: ({ line: number; cell: string } | undefined)[]
  scales: [number, number]
  digits: [number, number]
  zeros: number
  marked: boolean
  dotted: boolean
}

/** Forms that a file writes which has but one way for each: 1234.5, 2026-03-31, true. */
const plainForms = point | (1 << 2) | (1 << 6) | answer

/** What is said or known of a table before it is read. */
export interface SaidTable {
  /** has it a row of titles? Found out from its first rows where nothing is said */
  titles?: boolean
  /** the line of its titles, where somebody says so */
  titleLine?: number
  /** lines that are left out, as somebody says: totals at the end */
  without?: readonly number[]
  /** values are written in one way, whatever the language */
  typed?: boolean
  /** rows have only as many cells as are filled */
  padded?: boolean
}

/** Looks at each row of a table and says what its columns are: by all of them, never by a guess from the first. */
export class Understanding {
  private tallies: Tally[] = []
  private titles: string[] | undefined
  private titleLine = 0
  private start: { cells: Cell[]; line: number }[] | undefined = []
  private width = 0
  private rows = 0
  private skipped = 0
  private readonly ragged: { line: number; cells: number }[] = []
  private raggedRows = 0
  private repeated = 0

  /** rows at the end that look like totals */
  private totals: { line: number; words: string }[] = []
  private readonly without: ReadonlySet<number>

  constructor(private readonly said: SaidTable = {}) {
    this.without = new Set(said.without)
  }

  row(cells: Cell[], line: number): void {
    if ((!this.said.typed && isBlank(cells)) || this.without.has(line)) return
    if (this.start) {
      this.start.push({ cells, line })
      if (this.start.length >= 60) this.begin()
    } else this.add(cells, line)
  }

  private lastSkipped = 0

  private begin(): void {
    const first = this.start!
    this.start = undefined
    const counts = new Map<number, number>()
    for (const { cells } of first) counts.set(cells.length, (counts.get(cells.length) ?? 0) + 1)
    this.width = this.said.padded ? Math.max(0, ...counts.keys()) : ([...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0] ?? 0)
    const whole = (cells: readonly Cell[]) => isWhole(cells, this.width, this.said.padded === true)
    // lines above the table have fewer cells, or only their first one is filled
    const { titleLine } = this.said
    let at = 0
    if (titleLine !== undefined) while (at < first.length - 1 && first[at]!.line < titleLine) at++
    else {
      while (at < first.length - 1 && !whole(first[at]!.cells)) at++
      if (!whole(first[at]?.cells ?? [])) at = 0
    }
    this.skipped = at
    this.lastSkipped = at ? first[at - 1]!.line : 0
    const top = first[at]
    if (
      top &&
      (titleLine !== undefined || (this.said.titles ?? areTitles(top.cells, first.slice(at + 1, at + 40), this.said.padded === true)))
    ) {
      this.titles = top.cells.map(cellText)
      this.titleLine = top.line
      at++
    }
    this.tallies = Array.from({ length: this.width }, () => newTally(0))
    for (const { cells, line } of first.slice(at)) this.add(cells, line)
  }

  private add(cells: Cell[], line: number): void {
    if (this.titles && !this.said.typed && areSame(cells, this.titles)) {
      this.repeated++
      return
    }
    if (this.said.padded && cells.length > this.width) {
      while (this.tallies.length < cells.length) this.tallies.push(newTally(this.rows))
      this.width = cells.length
    }
    this.rows++
    const words = totalWords(cells)
    if (words === undefined) this.totals = []
    else if (this.totals.length < 100) this.totals.push({ line, words })
    if (cells.length !== this.width && !this.said.padded) {
      this.raggedRows++
      if (this.ragged.length < 100) this.ragged.push({ line, cells: cells.length })
    }
    for (let at = 0; at < this.width; at++) {
      const tally = this.tallies[at]!
      const cell = cells[at] ?? ''
      if (typeof cell === 'string' && (!cell || isEmptyWord(cell))) {
        tally.empty++
        if (cell.trim()) tally.words++
        continue
      }
      tally.filled++
      if (!tally.wanted || isPlainly(tally, cell)) continue
      const { wanted } = tally
      const found = this.said.typed ? fits(cell, wanted & plainForms) : fits(cell, wanted)
      if (wanted & point && typeof cell === 'string' && leadsWithZero(cell)) tally.zeros++
      if (found !== wanted) missed(tally, wanted & ~found, line, cell)
      for (const form of [0, 1] as const) {
        if (!(found & (1 << form))) continue
        const { digits, scale } = numberShape(cell as string, form ? ',' : '.')!
        if (scale > tally.scales[form]) tally.scales[form] = scale
        if (digits > tally.digits[form]) tally.digits[form] = digits
      }
      if (typeof cell !== 'string') continue
      if (!tally.marked && /[.,]/.test(cell)) tally.marked = true
      if (!tally.dotted && cell.includes('.')) tally.dotted = true
    }
  }

  /** What is counted of the columns, once the first rows have told them: rows that are looked at elsewhere are counted in there. */
  get counts(): readonly Tally[] | undefined {
    return this.start || this.said.typed || this.said.padded || this.without.size ? undefined : this.tallies
  }

  /** So many rows were counted elsewhere, none of which is a total. */
  counted(rows: number): void {
    this.rows += rows
    this.totals = []
  }

  /** What all rows said. */
  result(): ProposedTable {
    if (this.start) this.begin()
    const fit = (tally: Tally, form: number) => tally.filled > 0 && tally.fails[form] === 0
    // columns that can be read one way only speak for those that can be read both ways
    const votes = (one: number, other: number) =>
      Math.sign(
        this.tallies.filter(each => fit(each, one) && !fit(each, other)).length -
          this.tallies.filter(each => fit(each, other) && !fit(each, one)).length,
      )
    const decimal = votes(0, 1)
    // a date alone fits both ways or one, whether others of its column have a time or not
    const dayFirst = votes(7, 8)
    /** A form of dates, or of dates with times, by the places of its three orders. */
    const dated = (tally: Tally, [year, day, month]: readonly [number, number, number], notes: string[]): number | undefined => {
      if (fit(tally, year)) return year
      const [first, second] = [fit(tally, day), fit(tally, month)]
      if (!first && !second) return undefined
      if (first && second && !dayFirst && !tally.dotted)
        notes.push('Its dates can be read with the day or the month first; the day first is taken.')
      return first && second ? (dayFirst < 0 ? month : day) : first ? day : month
    }
    const names = namesFor(this.titles ?? Array.from({ length: this.width }, (_, at) => `Column ${at + 1}`))
    const columns = this.tallies.map((tally, at): ProposedColumn => {
      const notes: string[] = []
      const [asPoint, asComma] = [fit(tally, 0), fit(tally, 1)]
      let form: number | undefined
      if (asPoint || asComma) {
        form = asPoint && asComma ? (tally.marked && decimal < 0 ? 1 : 0) : asPoint ? 0 : 1
        if (asPoint && asComma && tally.marked && tally.scales[0] !== tally.scales[1])
          notes.push(
            `Its numbers can be read with a decimal ${form ? 'comma' : 'point'} or a decimal ${form ? 'point' : 'comma'}; the ` +
              `${form ? 'comma' : 'point'} is taken.`,
          )
      } else form = dated(tally, [2, 3, 4], notes) ?? dated(tally, [6, 7, 8], notes) ?? (fit(tally, 5) ? 5 : undefined)
      if (form === undefined && tally.filled) {
        // nearly all of them fit: what keeps the column a text is worth a look
        const least = Math.min(...tally.fails)
        const near = tally.fails.indexOf(least)
        const found = tally.misfits[near]
        if (tally.zeros && tally.fails[0] === tally.zeros) notes.push('Its numbers lead with zeros, so it stays a text.')
        else if (found && least <= Math.max(1, tally.filled * 0.05) && tally.filled > 3)
          notes.push(
            `${least === 1 ? 'One of its cells is' : `${least.toLocaleString('en')} of its cells are`} no ${words[forms[near]!.type]} ` +
              `(line ${found.line.toLocaleString('en')}: “${found.cell.slice(0, 40)}”), so it stays a text.`,
          )
      }
      const own = form === undefined ? ({ type: 'text' } as const) : forms[form]!
      return {
        name: names[at]!,
        title: (this.titles?.[at] ?? '').trim() || `Column ${at + 1}`,
        form: own,
        ...(own.type === 'number' ? { scale: tally.scales[form as 0 | 1], digits: tally.digits[form as 0 | 1] } : {}),
        // a word that stands for empty is a text like any other in a column of texts
        empty: own.type === 'text' ? tally.empty - tally.words : tally.empty,
        notes,
      }
    })
    const notes = [
      ...(this.skipped ? [`${counted(this.skipped, 'line')} above the table ${this.skipped === 1 ? 'is' : 'are'} left out.`] : []),
      ...(this.repeated ? [`The titles stand ${counted(this.repeated, 'time')} more among the rows; those rows are left out.`] : []),
      ...(this.raggedRows
        ? [
            `${counted(this.raggedRows, 'row')} ${this.raggedRows === 1 ? 'has' : 'have'} not ${counted(this.width, 'cell')} (line ` +
              `${this.ragged[0]!.line.toLocaleString('en')} has ${this.ragged[0]!.cells}).`,
          ]
        : []),
    ]
    return {
      columns,
      rows: this.rows,
      ...(this.titles ? { titles: this.titles } : {}),
      after: Math.max(this.titleLine, this.lastSkipped),
      ...(this.titles ? { titleLine: this.titleLine } : {}),
      ragged: this.ragged,
      typed: this.said.typed === true,
      totals: this.totals,
      without: this.said.without ?? [],
      notes,
    }
  }
}

/** The forms of a column of which every cell is a day, or a moment, as the database writes it. */
export const [plainDay, plainMoment] = [(1 << 2) | (1 << 6), 1 << 6] as const
/**
 * Is a cell written as most of its column are, so that it fits just the forms that are looked for? A number is measured. What is not, is
 * looked at form by form.
 */
function isPlainly(tally: Tally, cell: Cell): boolean {
  if (typeof cell !== 'string') return false
  switch (tally.wanted) {
    case point:
    case point | comma: {
      const { length } = cell
      const first = cell.charCodeAt(0)
      if (first === 48 && length > 1 && cell.charCodeAt(1) !== 46) return false
      const mark = markOf(cell, 46)
      const digits = first === 45 ? mark - 1 : mark
      const scale = mark === length ? 0 : length - mark - 1
      const both = tally.wanted !== point
      // what stands behind the point may be a group of thousands too
      if (mark < 0 || (both && scale && (scale !== 3 || digits > 3))) return false
      if (digits > tally.digits[0]) tally.digits[0] = digits
      if (both && digits + scale > tally.digits[1]) tally.digits[1] = digits + scale
      if (scale) {
        if (scale > tally.scales[0]) tally.scales[0] = scale
        tally.marked = tally.dotted = true
      }
      return true
    }
    case plainDay:
      return isPlainMoment(cell, 'date')
    case plainMoment:
      return isPlainMoment(cell, 'moment')
    default:
      return false
  }
}

/** Rows after which a form that many cells did not fit is not looked for any more. */
const enough = 1000

/** A cell does not fit some of the forms that are looked for. */
function missed(tally: Tally, forms: number, line: number, cell: Cell): void {
  for (let form = 0; 1 << form <= forms; form++) {
    if (!(forms & (1 << form))) continue
    tally.fails[form]!++
    tally.misfits[form] ??= { line, cell: cellText(cell) }
    // far more than the few by which it could still be said that nearly all of them fit
    if (tally.filled > enough && tally.fails[form]! > tally.filled / 4) tally.wanted &= ~(1 << form)
  }
}

const newTally = (empty: number): Tally => ({
  wanted: allForms,
  filled: 0,
  empty,
  words: 0,
  fails: forms.map(() => 0),
  misfits: forms.map(() => undefined),
  scales: [0, 0],
  digits: [0, 0],
  zeros: 0,
  marked: false,
  dotted: false,
})

const isBlank = (cells: readonly Cell[]) => cells.length === 0 || (cells.length === 1 && !cellText(cells[0]).trim())

/** The words of a row that says to be a total of those above it: its first text does. */
export function totalWords(cells: readonly Cell[]): string | undefined {
  const first = cells.find(cell => cell !== '')
  const text = first === undefined ? '' : cellText(first).trim()
  // all of these words begin with one of four letters
  if (!/^[gstz]/i.test(text)) return undefined
  return text.length < 40 && /^(grand |sub)?(total|totals|sum|summe|gesamt|gesamtsumme|soma|suma|totale|somme|zwischensumme)\b/i.test(text)
    ? text
    : undefined
}

const areSame = (cells: readonly Cell[], titles: readonly string[]) =>
  cells.length === titles.length && cells.every((cell, at) => cellText(cell) === titles[at])

/** Is it a row of the table, and not what stands above it, an empty line, or its titles once more? */
export function isRow(
  { titles, after, without, typed }: Pick<ProposedTable, 'titles' | 'after' | 'without' | 'typed'>,
  cells: readonly Cell[],
  line: number,
): boolean {
  if (line <= after || without.includes(line)) return false
  return typed || !(isBlank(cells) || (titles && areSame(cells, titles)))
}

const words = { number: 'number', date: 'date', moment: 'date with a time', boolean: 'yes or no', text: 'text' } as const
const counted = (count: number, word: string) => `${count.toLocaleString('en')} ${word}${count === 1 ? '' : 's'}`

const isWhole = (cells: readonly Cell[], width: number, padded: boolean) =>
  (padded || cells.length === width) && (width === 1 || cells.filter(cell => cellText(cell).trim()).length > width / 2)

/** Are these the titles of the rows under them: all filled, each another, none a number or a date where those under it are? */
function areTitles(given: readonly Cell[], rows: readonly { cells: readonly Cell[] }[], padded: boolean): boolean {
  const cells = given.map(cellText)
  const own = cells.map(cell => cell.trim().toLowerCase())
  const filled = own.filter(Boolean)
  // columns of a sheet may go without a title
  if ((!padded && filled.length < own.length) || new Set(filled).size !== filled.length) return false
  if (given.some(cell => fits(cell) & ~answer) || cells.some(cell => fits(cell) & ~answer)) return false
  if (!rows.length) return true
  // texts only: titles are not among the values under them
  return cells.some(
    (_, at) => rows.some(row => fits(row.cells[at] ?? '')) || !rows.some(row => cellText(row.cells[at]).trim().toLowerCase() === own[at]),
  )
}

/** Names that statements can use, made of titles, each another. */
export function namesFor(titles: readonly string[]): string[] {
  const taken = new Set<string>()
  return titles.map((title, at) => {
    const plain = title
      .normalize('NFD')
      .replace(/[\u0300-\u036f]/g, '')
      .replace(/ß/g, 'ss')
      .replace(/([a-z])([A-Z])/g, '$1_$2')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
      .slice(0, 55)
    const base = !plain ? `column_${at + 1}` : /^\d/.test(plain) ? `_${plain}` : plain
    let name = base
    for (let number = 2; taken.has(name); number++) name = `${base}_${number}`
    taken.add(name)
    return name
  })
}
