/** A file that cannot be read as rows: one sentence with its place. */
export class DelimitedFault extends Error {}

/** Cells of a row that are handed on at most, and characters of a cell. */
const mostCells = 5000
const mostLetters = 10_000_000

/**
 * Reads rows of separated values (RFC 4180, and what is met beside it: other separators, any line ends, quotes that stand inside a cell)
 * from stretches of text that may end anywhere.
 */
export class DelimitedReader {
  private cells: string[] = []
  /** of a cell that is not at its end: what has been read of it */
  private held = ''
  private quoted = false
  /** a quote has just closed the cell, or is the first half of a doubled one */
  private closed = false
  /** a carriage return was the last character: a line feed after it is its second half */
  private returned = false
  private begun = false
  private line = 1
  private quotedFrom = 1

  constructor(
    private readonly separator: string,
    /** the cells of a row, and the line of the file on which it begins, from 1 */
    private readonly onRow: (cells: string[], line: number) => void,
  ) {}

  private rowLine = 1

  /** Does a row begin with what comes next? */
  get between(): boolean {
    return !this.held && !this.begun && !this.quoted && !this.returned && !this.cells.length
  }

  /** The line on which that row begins. */
  get next(): number {
    return this.rowLine
  }

  /** A row of one line was read elsewhere. */
  pass(): void {
    this.rowLine = ++this.line
  }

  /** @throws DelimitedFault */
  push(text: string): void {
    const separator = this.separator.charCodeAt(0)
    let at = 0
    if (this.returned && text.length) {
      if (text.charCodeAt(0) === 10) at = 1
      this.returned = false
    }
    let from = at
    while (at < text.length) {
      if (this.quoted && !this.closed) {
        const quote = text.indexOf('"', at)
        const end = quote < 0 ? text.length : quote
        for (let line = text.indexOf('\n', at); line >= 0 && line < end; line = text.indexOf('\n', line + 1)) this.line++
        if (this.held.length + end - from > mostLetters)
          throw new DelimitedFault(
            `A quote that opens on line ${this.quotedFrom.toLocaleString('en')} is not closed within ten million letters; close it there.`,
          )
        if (quote < 0) break
        this.held += text.slice(from, quote)
        this.closed = true
        at = from = quote + 1
        continue
      }
      const code = text.charCodeAt(at)
      if (this.closed) {
        this.closed = false
        if (code === 34) {
          // a doubled quote is one quote of the cell
          this.held += '"'
          at = from = at + 1
          continue
        }
        this.quoted = false
        from = at
      }
      if (code === separator) {
        this.take(text.slice(from, at))
        from = ++at
      } else if (code === 10 || code === 13) {
        this.endRow(text.slice(from, at))
        at++
        if (code === 13) {
          if (at >= text.length) this.returned = true
          else if (text.charCodeAt(at) === 10) at++
        }
        from = at
      } else if (code === 34 && at === from && !this.held) {
        this.quoted = this.begun = true
        this.quotedFrom = this.line
        from = ++at
      } else {
        at++
        this.begun = true
      }
    }
    this.held += text.slice(from)
    if (this.held.length > mostLetters)
      throw new DelimitedFault(
        `A cell on line ${this.rowLine.toLocaleString('en')} has more than ${mostLetters.toLocaleString('en')} characters; say which ` +
          `separator the file has, or end its lines.`,
      )
  }

  /** The file is at its end. @throws DelimitedFault */
  end(): void {
    if (this.quoted && !this.closed)
      throw new DelimitedFault(
        `A quote that opens on line ${this.quotedFrom.toLocaleString('en')} is never closed; close it there, or double it ` +
          `where it belongs to the text.`,
      )
    if (this.cells.length || this.held || this.begun) this.endRow('')
  }

  private take(rest: string): void {
    this.cells.push(this.held ? this.held + rest : rest)
    this.held = ''
    this.quoted = this.closed = false
    this.begun = true
    if (this.cells.length > mostCells)
      throw new DelimitedFault(
        `Line ${this.rowLine.toLocaleString('en')} has more than ${mostCells.toLocaleString('en')} cells; say which separator the file ` +
          `has.`,
      )
  }

  private endRow(rest: string): void {
    this.take(rest)
    this.onRow(this.cells, this.rowLine)
    this.cells = []
    this.begun = false
    this.rowLine = ++this.line
  }
}

const separators = [',', ';', '\t', '|'] as const

/** The separator that cuts the first lines of a file into as many cells each; a comma where none does. */
export function likelySeparator(start: string): string {
  let best: { separator: string; rank: number } = { separator: ',', rank: 0 }
  for (const separator of separators) {
    const counts = new Map<number, number>()
    let rows = 0
    try {
      // the last row may be cut off
      const reader = new DelimitedReader(separator, cells => {
        if (rows++ >= 50 || (cells.length === 1 && !cells[0])) return
        counts.set(cells.length, (counts.get(cells.length) ?? 0) + 1)
      })
      reader.push(start)
    } catch {
      continue
    }
    const [cells, times] = [...counts].filter(([count]) => count > 1).sort((a, b) => b[1] - a[1] || b[0] - a[0])[0] ?? [1, 0]
    // rows that agree count most; of two that agree, the one that gives more cells
    const rank =
      (times /
        Math.max(
          1,
          [...counts.values()].reduce((sum, each) => sum + each, 0),
        )) *
        1000 +
      Math.min(cells, 500)
    if (cells > 1 && rank > best.rank) best = { separator, rank }
  }
  return best.separator
}
