import type { LevelInfo } from '../../../core/formula/typed'
import { valueAt } from '../../../core/value/columns'
import { momentText } from '../../../core/value/moment'
import type { DataRecords } from '../../../core/value/records'
import { cleanFileName, uniqueNamer } from '../../../core/parameter/fileName'
import { outFile } from '../outFile'
import { CsvLines, levelPaths } from './rows'
import type { Writable } from 'node:stream'

/** Types of XML Schema by which a column is read (CSV on the Web: Metadata Vocabulary, 5.11). */
const datatypes = { number: 'decimal', text: 'string', date: 'date', moment: 'dateTime', boolean: 'boolean' } as const

/** A name as it may stand in a URI template, by which columns are named (RFC 6570, 2.3). */
const nameOf = (path: string): string =>
  [...path]
    .map(sign =>
      /[A-Za-z0-9_.]/.test(sign)
        ? sign
        : encodeURIComponent(sign).replace(/[-!~*'()]/g, each => `%${each.charCodeAt(0).toString(16).toUpperCase()}`),
    )
    .join('')

interface LevelFile {
  level: LevelInfo
  /** name of the CSV, and where it is written */
  name: string
  path: string
  paths: string[]
  lines: CsvLines
  out: Writable
}

/**
 * All levels of a data set as CSV on the Web (W3C Recommendation “Model for Tabular Data and Metadata on the Web”): one CSV for each, with
 * the fields that tell its records apart and lead to their parents, and a description of them all in JSON.
 */
export class CsvwRows {
  private files: LevelFile[] = []

  constructor(
    private readonly folder: string,
    private readonly levels: readonly LevelInfo[],
    private readonly title: string,
    private readonly language: string,
  ) {}

  async add(data: DataRecords): Promise<void> {
    if (!this.files.length) this.begin(data)
    for (const { level, paths, lines } of this.files) {
      const records = data.levels[level.index]!
      const columns = paths.map(path => records.columns[path]!)
      for (let row = 0; row < records.count; row++) {
        const values = columns.map(column => valueAt(column, row))
        if (!lines.write(values.map(value => (typeof value === 'bigint' ? momentText(value, 'T') : value)))) await lines.room()
      }
    }
  }

  /** The files by their names in the ZIP, the description first; they are whole. */
  async end(): Promise<{ description: string; files: { name: string; path: string }[] }> {
    // no rows are tables too
    if (!this.files.length) this.begin()
    for (const { lines, out } of this.files) {
      await lines.end()
      await new Promise<void>(resolve => out.end(resolve))
    }
    return { description: `${JSON.stringify(this.description(), null, 2)}\n`, files: this.files.map(({ name, path }) => ({ name, path })) }
  }

  private begin(data?: DataRecords): void {
    const named = uniqueNamer()
    this.files = this.levels.map((level, at) => {
      const columns = data?.levels[level.index]!.columns
      const children = level.children.flatMap(child => this.levels[child]!.definition.on.map(pair => pair.from))
      const paths = [...new Set([...level.key, ...children, ...levelPaths(level)])].filter(path => !columns || columns[path])
      const path = `${this.folder}/${at}.csv`
      const out = outFile(path)
      const lines = new CsvLines(out)
      lines.write(paths)
      return { level, name: `${named(cleanFileName(level.name))}.csv`, path, paths, lines, out }
    })
  }

  private description(): object {
    const columnOf = (path: string): string => nameOf(path)
    return {
      '@context': ['http://www.w3.org/ns/csvw', { '@language': this.language }],
      'dc:title': this.title,
      dialect: { delimiter: ',', quoteChar: '"', header: true, encoding: 'utf-8', lineTerminators: '\r\n' },
      tables: this.files.map(({ level, name, paths }) => {
        const parent = this.files.find(each => each.level.index === level.parent)
        const { on } = level.definition
        return {
          url: name,
          'dc:title': level.caption,
          tableSchema: {
            columns: paths.map(path => {
              const field = level.fields.get(path)
              return {
                name: nameOf(path),
                titles: path,
                ...(field ? { 'dc:description': field.caption } : {}),
                datatype: field?.type === 'boolean' ? { base: 'boolean', format: 'true|false' } : datatypes[field?.type ?? 'text'],
              }
            }),
            ...(level.key.length && level.key.every(path => paths.includes(path)) ? { primaryKey: level.key.map(columnOf) } : {}),
            ...(parent && on.length && on.every(pair => paths.includes(pair.to) && parent.paths.includes(pair.from))
              ? {
                  foreignKeys: [
                    {
                      columnReference: on.map(pair => columnOf(pair.to)),
                      reference: { resource: parent.name, columnReference: on.map(pair => columnOf(pair.from)) },
                    },
                  ],
                }
              : {}),
          },
        }
      }),
    }
  }
}
