import { momentText } from '../../../core/value/moment'
import { stringify } from 'csv-stringify'
import type { Writable } from 'node:stream'
import type { LevelInfo } from '../../../core/formula/typed'
import { tickedFields } from '../../../core/model/levels'
import type { DataRecords } from '../../../core/value/records'
import { valueAt } from '../../../core/value/columns'
import type { Value } from '../../../core/value/value'
import { plainText } from '../../../core/value/plain'
import { dayText } from '../../../core/value/date'
import { decimalText } from '../../../core/value/decimal'
import { put, room } from '../outFile'
import { type CsvOptions, csvSeparators } from '../../../core/api/outputs'

/** JSON text of a value: numbers with all their digits, dates as ISO 8601 text. */
export function json(value: Value): string {
  if (value === null) return 'null'
  if (typeof value === 'object') return decimalText(value)
  if (typeof value === 'bigint') return JSON.stringify(momentText(value, 'T'))
  return typeof value === 'number' ? JSON.stringify(dayText(value)) : JSON.stringify(value)
}

/** Records of a data set as a JSON array: an object per root with its ticked fields, its detail levels as arrays of objects. */
export class JsonRows {
  private first = true
  constructor(
    private readonly out: Writable,
    private readonly levels: readonly LevelInfo[],
  ) {}

  async add(data: DataRecords): Promise<void> {
    for (let row = 0; row < data.levels[0]!.count; row++) {
      await put(this.out, `${this.first ? '[\n' : ',\n'}${this.record(data, 0, row)}`)
      this.first = false
    }
  }

  async end(): Promise<void> {
    await put(this.out, this.first ? '[]\n' : '\n]\n')
  }

  private record(data: DataRecords, level: number, row: number): string {
    const info = this.levels[level]!
    const records = data.levels[level]!
    const parts = tickedFields(info.definition).map(path => `${JSON.stringify(path)}:${json(valueAt(records.columns[path]!, row))}`)
    for (const child of info.children) {
      const { starts } = data.levels[child]!
      const rows: string[] = []
      for (let inner = starts[row]!; inner < starts[row + 1]!; inner++) rows.push(this.record(data, child, inner))
      parts.push(`${JSON.stringify(this.levels[child]!.name)}:[${rows.join(',')}]`)
    }
    return `{${parts.join(',')}}`
  }
}

/** Records of one level as a JSON array of flat objects, each with the columns that link it to its parent. */
export class JsonLevel {
  private first = true
  private readonly paths: string[]
  constructor(
    private readonly out: Writable,
    private readonly level: LevelInfo,
  ) {
    this.paths = levelPaths(level)
  }

  async add(data: DataRecords): Promise<void> {
    const records = data.levels[this.level.index]!
    const columns = this.paths.map(path => records.columns[path]!)
    for (let row = 0; row < records.count; row++) {
      const members = this.paths.map((path, index) => `${JSON.stringify(path)}:${json(valueAt(columns[index]!, row))}`)
      await put(this.out, `${this.first ? '[\n' : ',\n'}{${members.join(',')}}`)
      this.first = false
    }
  }

  async end(): Promise<void> {
    await put(this.out, this.first ? '[]\n' : '\n]\n')
  }
}

/** Ticked fields of a level; a detail level's begin with the columns that link them to their parent. */
export const levelPaths = (level: LevelInfo): string[] => [
  ...new Set([...level.definition.on.map(pair => pair.to), ...tickedFields(level.definition)]),
]

/**
 * Would a spreadsheet take a text for a formula? (OWASP: =, +, -, @, tab and carriage return at its beginning, and their full-width
 * forms; also at the beginning of a line in it, where a reader that does not know quotes begins a cell)
 */
export const guarded = (text: string) => text.replace(/(^|[\r\n])(?=[=+\-@\t\r\uff1d\uff0b\uff0d\uff20])/g, "$1'")

/** Lines of CSV (RFC 4180), some of whose fields are values. */
export class CsvLines {
  private readonly lines
  private readonly finished: Promise<void>
  constructor(
    out: Writable,
    private readonly options: CsvOptions = {},
  ) {
    this.lines = stringify({
      record_delimiter: '\r\n',
      delimiter: csvSeparators[options.separator ?? 'comma'],
      bom: options.mark ?? false,
      highWaterMark: 256,
      // a carriage return or line feed by itself ends a record for some readers too
      quoted_match: /[\r\n]/,
    })
    this.finished = new Promise((resolve, reject) => this.lines.on('end', resolve).on('error', reject))
    this.lines.pipe(out, { end: false })
  }

  /** Where it says false, whoever writes is to wait for `room`. */
  write(values: readonly Value[]): boolean {
    const { decimal, guard } = this.options
    return this.lines.write(
      values.map(value => {
        if (typeof value === 'string') return guard ? guarded(value) : value
        if (value === null || typeof value !== 'object') return plainText(value, dayText)
        return decimal === 'comma' ? decimalText(value).replace('.', ',') : decimalText(value)
      }),
    )
  }

  room(): Promise<void> {
    return room(this.lines)
  }

  async end(): Promise<void> {
    this.lines.end()
    await this.finished
  }
}

/** Ticked fields of one level as CSV with a line of titles. */
export class CsvRows {
  private readonly lines: CsvLines
  private readonly paths: string[]
  constructor(
    out: Writable,
    private readonly level: LevelInfo,
    options: CsvOptions = {},
  ) {
    this.paths = levelPaths(level)
    this.lines = new CsvLines(out, options)
    this.lines.write(this.paths)
  }

  async add(data: DataRecords): Promise<void> {
    const records = data.levels[this.level.index]!
    const columns = this.paths.map(path => records.columns[path]!)
    for (let row = 0; row < records.count; row++)
      if (!this.lines.write(columns.map(column => valueAt(column, row)))) await this.lines.room()
  }

  end(): Promise<void> {
    return this.lines.end()
  }
}
