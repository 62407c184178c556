import type { Writable } from 'node:stream'
import type { CsvOptions } from '../../../core/api/outputs'
import type { GridEvent } from '../../../core/compose/gridRows'
import { put } from '../outFile'
import { CsvLines, json } from './rows'

/** The rows of a layout as CSV, each cell as it is printed; a cell over several columns stands in the first of them. */
export class CsvPrinted {
  private readonly lines: CsvLines
  constructor(
    out: Writable,
    private readonly columns: number,
    options: CsvOptions = {},
    /** id of the one block whose rows are wanted */
    private readonly block?: string,
  ) {
    this.lines = new CsvLines(out, options)
  }

  async add(event: GridEvent): Promise<void> {
    const rows = 'row' in event ? [event.row] : 'picture' in event ? event.rows : []
    for (const { cells, table } of rows) {
      if (this.block !== undefined && table !== this.block) continue
      const count = Math.max(this.block === undefined ? this.columns : 0, ...cells.map(cell => cell.column + 1))
      const texts = Array.from({ length: count }, () => '')
      for (const { column, text } of cells) texts[column] = texts[column] ? `${texts[column]} ${text}` : text
      if (!this.lines.write(texts)) await this.lines.room()
    }
  }

  end(): Promise<void> {
    return this.lines.end()
  }
}

/** The cells of a crosstab, a line of CSV each: the groups of both its axes, and what its measures come to. */
export class CsvCells {
  private readonly lines: CsvLines
  private begun = false
  constructor(
    out: Writable,
    private readonly block: string,
    options: CsvOptions = {},
  ) {
    this.lines = new CsvLines(out, options)
  }

  async add(event: GridEvent): Promise<void> {
    if (!('cells' in event) || event.cells.block !== this.block) return
    if (!this.begun) this.lines.write(event.cells.titles)
    this.begun = true
    for (const values of event.cells.rows()) if (!this.lines.write(values)) await this.lines.room()
  }

  end(): Promise<void> {
    return this.lines.end()
  }
}

/** The cells of a crosstab as a JSON array of objects. */
export class JsonCells {
  private first = true
  constructor(
    private readonly out: Writable,
    private readonly block: string,
  ) {}

  async add(event: GridEvent): Promise<void> {
    if (!('cells' in event) || event.cells.block !== this.block) return
    // members of one name would be lost
    const names = new Set<string>()
    for (const title of event.cells.titles) {
      let name = title
      for (let again = 2; names.has(name); again++) name = `${title} ${again}`
      names.add(name)
    }
    const keys = [...names].map(name => JSON.stringify(name))
    for (const values of event.cells.rows()) {
      const members = values.map((value, at) => `${keys[at]}:${json(value)}`)
      await put(this.out, `${this.first ? '[\n' : ',\n'}{${members.join(',')}}`)
      this.first = false
    }
  }

  async end(): Promise<void> {
    await put(this.out, this.first ? '[]\n' : '\n]\n')
  }
}
