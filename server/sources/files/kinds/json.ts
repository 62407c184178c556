import { fileEndings } from '../../../../core/intake/endings'
import { createReadStream } from 'node:fs'
import type { Cell } from '../../../../core/intake/cells'
import { decimalText, parseDecimal } from '../../../../core/value/decimal'
import { FileFault, type FileKind, type OpenedFile, type Reading, rowsAtOnce } from './kind'

/*
 * JSON (RFC 8259): an array of objects, objects one after another (a line each), or an object with such arrays, each of which is a table.
 * An object inside becomes columns of its own, an array inside a text. Numbers keep the digits with which they are written.
 */

interface Token {
  name: string
  value?: string | boolean | null
}

const mostColumns = 5000

/** Plain digits of a number; one that is too large to be written out stays as it is, as a text. */
const numberText = (text: string): Cell => {
  if (!/[eE+]/.test(text)) return text
  const value = parseDecimal(text)
  return value && decimalText(value).length < 1000 ? decimalText(value) : { text }
}

/**
 * Puts records together from tokens. `each`: every object at the top is a record by itself; without it, one that is there holds tables, as
 * arrays of records.
 */
class Records {
  constructor(
    private readonly file: string,
    private readonly each: boolean,
    private readonly onRecord: (table: string, record: Map<string, Cell>) => void,
  ) {}

  /** objects at the top that were taken to hold tables, and what they hold beside them */
  holders = 0
  readonly beside = new Set<string>()
  private record: Map<string, Cell> | undefined
  /** arrays and objects that are open around records */
  private depth = 0
  private holding = false
  private table = ''
  /** of something that is passed over: how deep it is */
  private passing = 0
  /** of an array within a record, which is kept as a text: what has been read of it */
  private inner: string | undefined
  private innerDepth = 0
  /** names of the objects within a record in which the next value stands */
  private keys: string[] = []
  private key = ''

  take({ name, value }: Token): void {
    if (this.inner !== undefined) return this.takeInner(name, value)
    if (this.record) return this.takeOwn(name, value)
    if (this.passing) {
      if (name.startsWith('start')) this.passing++
      else if (name.startsWith('end')) this.passing--
      return
    }
    const besideTables = this.holding && this.depth === 1
    switch (name) {
      case 'startObject':
        if (this.depth === 0 && !this.each) {
          this.holders++
          this.holding = true
          this.depth++
        } else if (besideTables) {
          this.beside.add(this.key)
          this.passing = 1
        } else {
          this.record = new Map()
          this.keys = []
        }
        break
      case 'startArray':
        if (this.depth > 0 && !besideTables)
          throw new FileFault(`“${this.file}” holds arrays within arrays, which are no records; have it written as an array of objects.`)
        this.table = this.holding ? this.key : ''
        this.depth++
        break
      case 'endObject':
        this.holding = false
        this.depth--
        break
      case 'endArray':
        this.depth--
        break
      case 'keyValue':
        this.key = value as string
        break
      default:
        if (besideTables) this.beside.add(this.key)
        // a value that is no object is a record of one column
        else this.onRecord(this.table, new Map([['value', cellOf(name, value)]]))
    }
  }

  private takeOwn(name: string, value: Token['value']): void {
    switch (name) {
      case 'keyValue':
        this.key = value as string
        break
      case 'startObject':
        this.keys.push(this.key)
        break
      case 'endObject':
        if (this.keys.length) this.keys.pop()
        else {
          const { record } = this
          this.record = undefined
          this.onRecord(this.table, record!)
        }
        break
      case 'startArray':
        this.inner = '['
        this.innerDepth = 1
        break
      default:
        this.record!.set([...this.keys, this.key].join('_'), cellOf(name, value))
    }
  }

  private takeInner(name: string, value: Token['value']): void {
    const before = /[[{:]$/.test(this.inner!) || name.startsWith('end') ? '' : ','
    switch (name) {
      case 'startObject':
      case 'startArray':
        this.innerDepth++
        this.inner += before + (name === 'startArray' ? '[' : '{')
        break
      case 'endObject':
      case 'endArray':
        this.inner += name === 'endArray' ? ']' : '}'
        if (--this.innerDepth === 0) {
          this.record!.set([...this.keys, this.key].join('_'), { text: this.inner! })
          this.inner = undefined
        }
        break
      case 'keyValue':
        this.inner += `${before}${JSON.stringify(value)}:`
        break
      default:
        this.inner += before + (name === 'stringValue' ? JSON.stringify(value) : name === 'numberValue' ? String(value) : String(value))
    }
  }
}

function cellOf(name: string, value: Token['value']): Cell {
  switch (name) {
    case 'stringValue':
      return datedText(value as string)
    case 'numberValue':
      return numberText(value as string)
    case 'trueValue':
      return 'true'
    case 'falseValue':
      return 'false'
    default:
      return ''
  }
}

/** JSON has no dates: a text that is one of ISO 8601 may be it, all others are texts whatever they look like. */
const datedText = (text: string): Cell => (/^\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?)?$/.test(text) ? text : { text })

async function read(path: string, name: string, records: Records, more: Reading): Promise<void> {
  const { parserStream } = await import('stream-json')
  const parser = parserStream({ packKeys: true, packValues: true, streamValues: false, jsonStreaming: true })
  const file = createReadStream(path)
  file.on('error', error => parser.destroy(error))
  let tokens = 0
  try {
    for await (const token of file.pipe(parser) as AsyncIterable<Token>) {
      records.take(token)
      if (++tokens % (rowsAtOnce * 10)) continue
      more.signal?.throwIfAborted()
      more.progress?.(file.bytesRead)
      await more.drained?.()
    }
  } catch (error) {
    if (error instanceof FileFault || more.signal?.aborted) throw error
    throw new FileFault(
      `“${name}” is no JSON that can be read (${error instanceof Error ? error.message : String(error)}); get it once more.`,
    )
  } finally {
    file.destroy()
  }
}

export const json: FileKind = {
  endings: fileEndings.json,
  name: 'JSON',
  open: async (path, name): Promise<OpenedFile> => {
    /** Columns of each table in the order in which they are met. */
    const look = async (each: boolean) => {
      const columns = new Map<string, Set<string>>()
      const records = new Records(name, each, (table, record) => {
        let known = columns.get(table)
        if (!known) columns.set(table, (known = new Set()))
        for (const key of record.keys()) known.add(key)
        if (known.size > mostColumns) throw new FileFault(`“${name}” has more than ${mostColumns.toLocaleString('en')} columns.`)
      })
      await read(path, name, records, {})
      return { each, columns, records }
    }
    const first = await look(!/\.json$/i.test(name))
    // several objects one after another, or one without tables in it, are records themselves
    const again = first.records.holders > 1 || (first.records.holders === 1 && !first.columns.size)
    const { each, columns, records } = again ? await look(true) : first
    const beside = [...records.beside].map(key => `“${key}”`).join(', ')
    return {
      tables: [...columns.keys()].map(own => ({ name: own })),
      written: 'JSON',
      typed: true,
      padded: true,
      rows: async (wanted, onRow, more) => {
        const keys = [...columns.get(wanted)!]
        onRow(keys, 1)
        let line = 1
        const rows = new Records(name, each, (table, record) => {
          if (table !== wanted) return
          line++
          onRow(
            keys.map(key => record.get(key) ?? ''),
            line,
          )
        })
        await read(path, name, rows, more)
      },
      notes: () => (beside ? [`What stands beside the tables is left out: ${beside}.`] : []),
    }
  },
}
