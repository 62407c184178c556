import { fileEndings } from '../../../../core/intake/endings'
import type { Readable } from 'node:stream'
import { SaxesParser, type SaxesTagPlain } from 'saxes'
import { type Cell, cellText } from '../../../../core/intake/cells'
import { numberCell, serialCell } from '../../../../core/intake/spreadsheet'
import { type Entry, openArchive } from './archive'
import { FileFault, type FileKind, type OpenedFile } from './kind'

/*
 * Workbooks of spreadsheets (ECMA-376, SpreadsheetML): sheets are read row by row, so that a large one takes no more memory than a small
 * one; only its shared texts are held. Values are those that the program kept with a formula when it was saved.
 */

/** Hears the parts of an XML document, as they come. */
interface Hearing {
  open?: (name: string, attributes: Record<string, string>) => void
  text?: (text: string) => void
  close?: (name: string) => void
}

const plainName = (name: string) => name.slice(name.indexOf(':') + 1)

/** @throws FileFault where it is no XML */
async function hear(stream: Readable, file: string, hearing: Hearing, drained?: () => Promise<void> | undefined): Promise<void> {
  const parser = new SaxesParser()
  let fault: Error | undefined
  parser.on('error', error => (fault ??= error))
  parser.on('opentag', (tag: SaxesTagPlain) => hearing.open?.(plainName(tag.name), tag.attributes))
  parser.on('text', text => hearing.text?.(text))
  parser.on('cdata', text => hearing.text?.(text))
  parser.on('closetag', tag => hearing.close?.(plainName(tag.name)))
  const decoder = new TextDecoder()
  for await (const chunk of stream) {
    parser.write(decoder.decode(chunk as Buffer, { stream: true }))
    if (fault) break
    await drained?.()
  }
  if (!fault) parser.write(decoder.decode()).close()
  if (fault) throw new FileFault(`“${file}” cannot be read: it is damaged inside; open it in a spreadsheet, save it again, and bring that.`)
}

/** 'AB12' → column 27, row 12. */
function placeOf(reference: string): { column: number; row: number } {
  let column = 0
  let at = 0
  for (; at < reference.length; at++) {
    const code = reference.charCodeAt(at)
    if (code < 65 || code > 90) break
    column = column * 26 + code - 64
  }
  return { column: column - 1, row: Number(reference.slice(at)) }
}

/** Built-in formats of dates and times (ECMA-376, 18.8.30), those of other languages among them. */
const datedIds = (id: number) => (id >= 14 && id <= 22) || (id >= 27 && id <= 36) || (id >= 45 && id <= 47) || (id >= 50 && id <= 58)

/** Does a pattern print dates? What is quoted, escaped, or a colour or a language says nothing of it. */
const datedPattern = (pattern: string) => /[dmyhs]/i.test(pattern.replace(/"[^"]*"|\\.|\[[^\]]*\]|_.|\*./g, ''))

/** Columns of a sheet that become columns of a table (PostgreSQL manual, appendix K: 1,600). */
const mostColumns = 1500

interface Sheet {
  name: string
  hidden: boolean
  entry: Entry
}

class Workbook {
  readonly sheets: Sheet[] = []
  private readonly shared: string[] = []
  private readonly dated: boolean[] = []
  private from1904 = false
  private readonly told = new Map<string, string[]>()

  private constructor(
    private readonly file: string,
    private readonly entries: ReadonlyMap<string, Entry>,
  ) {}

  static async open(file: string, entries: readonly Entry[]): Promise<Workbook> {
    const book = new Workbook(file, new Map(entries.map(entry => [entry.name.replace(/^\//, ''), entry])))
    await book.begin()
    return book
  }

  private async part(name: string, hearing: Hearing): Promise<boolean> {
    const entry = this.entries.get(name)
    if (entry) await hear(await entry.open(), this.file, hearing)
    return entry !== undefined
  }

  private async begin(): Promise<void> {
    const targets = new Map<string, string>()
    const listed: { name: string; hidden: boolean; relation: string }[] = []
    const there = await this.part('xl/workbook.xml', {
      open: (name, attributes) => {
        if (name === 'workbookPr') this.from1904 = /^(1|true)$/.test(attributes.date1904 ?? '')
        if (name === 'sheet')
          listed.push({ name: attributes.name ?? '', hidden: /hidden/i.test(attributes.state ?? ''), relation: relationOf(attributes) })
      },
    })
    if (!there)
      throw new FileFault(`“${this.file}” is no workbook that can be read; save it as an Excel workbook (.xlsx), without a password.`)
    await this.part('xl/_rels/workbook.xml.rels', {
      open: (name, { Id, Target = '' }) => {
        if (name === 'Relationship' && Id) targets.set(Id, Target.startsWith('/') ? Target.slice(1) : `xl/${Target}`)
      },
    })
    for (const { name, hidden, relation } of listed) {
      const entry = this.entries.get(targets.get(relation) ?? '')
      // a sheet of a chart has no rows
      if (entry && !/chartsheets/.test(entry.name)) this.sheets.push({ name, hidden, entry })
    }
    let text = ''
    let depth = 0
    await this.part('xl/sharedStrings.xml', {
      open: name => {
        if (name === 'si') text = ''
        // how a text is spoken stands beside it
        if (name === 'rPh') depth++
        if (name === 't') this.reading = !depth
      },
      text: piece => {
        if (this.reading) text += piece
      },
      close: name => {
        if (name === 't') this.reading = false
        if (name === 'rPh') depth--
        if (name === 'si') this.shared.push(unescaped(text))
      },
    })
    const patterns = new Map<number, string>()
    let cells = false
    await this.part('xl/styles.xml', {
      open: (name, attributes) => {
        if (name === 'numFmt') patterns.set(Number(attributes.numFmtId), attributes.formatCode ?? '')
        if (name === 'cellXfs') cells = true
        if (name === 'xf' && cells) {
          const id = Number(attributes.numFmtId ?? 0)
          const own = patterns.get(id)
          this.dated.push(own === undefined ? datedIds(id) : datedPattern(own))
        }
      },
      close: name => {
        if (name === 'cellXfs') cells = false
      },
    })
  }
  private reading = false

  notes(sheet: string): string[] {
    return this.told.get(sheet) ?? []
  }

  /** Rows of a sheet, each as wide as it is filled. */
  async rows(name: string, onRow: (cells: Cell[], line: number) => void, drained: () => Promise<void> | undefined): Promise<void> {
    const sheet = this.sheets.find(each => each.name === name)!
    let row: Cell[] = []
    let line = 0
    let column = -1
    let [kind, style, value, inline] = ['', 0, '', '']
    let [reading, phonetic] = [0, 0]
    let merged = 0
    let errors = 0
    let firstError = ''
    await hear(
      await sheet.entry.open(),
      this.file,
      {
        open: (tag, attributes) => {
          switch (tag) {
            case 'row':
              line = Number(attributes.r ?? line + 1)
              row = []
              column = -1
              break
            case 'c':
              column = attributes.r ? placeOf(attributes.r).column : column + 1
              kind = attributes.t ?? 'n'
              style = Number(attributes.s ?? 0)
              value = inline = ''
              break
            case 'v':
              reading = 1
              break
            case 'rPh':
              phonetic++
              break
            case 't':
              if (!phonetic) reading = 2
              break
            case 'mergeCell':
              merged++
          }
        },
        text: text => {
          if (reading === 1) value += text
          else if (reading === 2) inline += text
        },
        close: tag => {
          switch (tag) {
            case 'v':
            case 't':
              reading = 0
              break
            case 'rPh':
              phonetic--
              break
            case 'c':
              this.put(row, column, this.cell(kind, style, value, inline))
              if (kind === 'e') {
                errors++
                firstError ||= `line ${line.toLocaleString('en')}: ${value}`
              }
              break
            case 'row':
              onRow(row, line)
          }
        },
      },
      drained,
    )
    this.told.set(name, [
      ...(errors
        ? [
            `${errors === 1 ? 'One cell holds' : `${errors.toLocaleString('en')} cells hold`} an error of a formula (${firstError}); ${
              errors === 1 ? 'it is' : 'they are'
            } taken as empty.`,
          ]
        : []),
      ...(merged
        ? [
            `${merged === 1 ? 'One group of cells is' : `${merged.toLocaleString('en')} groups of cells are`} merged; the first ` +
              `of them has the value.`,
          ]
        : []),
    ])
  }
  /** Cells that are empty at the end of a row are none. */
  private put(row: Cell[], column: number, cell: Cell): void {
    if (cellText(cell) === '') return
    if (column >= mostColumns) throw new FileFault(`A sheet of “${this.file}” has more than ${mostColumns} columns; leave some out.`)
    while (row.length < column) row.push('')
    row[column] = cell
  }

  private cell(kind: string, style: number, value: string, inline: string): Cell {
    switch (kind) {
      case 's':
        return { text: this.shared[Number(value)] ?? '' }
      case 'inlineStr':
        return inline === '' ? '' : { text: unescaped(inline) }
      case 'str':
        return value === '' ? '' : { text: unescaped(value) }
      case 'b':
        return value === '1' || value === 'true' ? 'true' : 'false'
      case 'e':
        return ''
      case 'd':
        return value.replace('T', ' ').replace(/Z$/, '')
      default:
        if (value === '') return ''
        return this.dated[style] ? serialCell(value, this.from1904) : numberCell(value)
    }
  }
}

const relationOf = (attributes: Record<string, string>) =>
  Object.entries(attributes).find(([name]) => plainName(name) === 'id' && name !== 'id')?.[1] ?? ''

/** Signs that XML cannot hold are written as _x000D_ (ECMA-376, 22.9.2.19). */
const unescaped = (text: string) =>
  text.includes('_x') ? text.replace(/_x([0-9A-Fa-f]{4})_/g, (_, code: string) => String.fromCharCode(parseInt(code, 16))) : text

export const workbook: FileKind = {
  endings: fileEndings.workbook,
  name: 'workbook',
  open: async (path, name): Promise<OpenedFile> => {
    const { entries, close } = await openArchive(path, name).catch((error: unknown) => {
      // a workbook with a password, and one of before 2007, is no archive but a compound file
      throw error instanceof FileFault && !/archive at all/.test(error.message)
        ? error
        : new FileFault(`“${name}” is no workbook that can be read; save it as an Excel workbook (.xlsx), without a password.`)
    })
    try {
      const book = await Workbook.open(name, entries)
      return {
        tables: book.sheets.map(({ name: own, hidden }) => ({ name: own, ...(hidden ? { hidden } : {}) })),
        written: 'a sheet of a workbook',
        typed: false,
        padded: true,
        rows: async (table, onRow, { progress, drained, signal }) => {
          let rows = 0
          await book.rows(
            table,
            (cells, line) => {
              rows++
              onRow(cells, line)
            },
            () => {
              signal?.throwIfAborted()
              progress?.(rows)
              return drained?.()
            },
          )
        },
        notes: table => book.notes(table),
        close,
      }
    } catch (error) {
      close()
      throw error
    }
  },
}
