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

/** Puts records together from tokens: paths of their values in the order in which they were first met. */
class Records {
  /** whose records are wanted; undefined while it is only looked which there are */
  constructor(
    private readonly wanted: string | undefined,
    private readonly onRecord: (record: Map<string, Cell>) => void,
  ) {}

  readonly found = new Map<string, number>()
  private readonly path: (string | number)[] = []
  private record: Map<string, Cell> | undefined
  private depth = 0
  /** of an array or object within a record that is kept as a text: what has been read of it */
  private inner: string | undefined
  private innerDepth = 0
  private keys: string[] = []
  private key = ''

  take({ name, value }: Token): void {
    if (this.inner !== undefined) return this.takeInner(name, value)
    if (this.record) return this.takeOwn(name, value)
    switch (name) {
      case 'startObject':
        // the third level of arrays and objects is a record at the latest
        if (this.path.length === 0 && this.depth === 0) {
          // an object at the top: a record, or one that holds tables; the first array of objects in it tells
          this.path.push('{')
          this.top = new Map()
        } else this.begin()
        this.depth++
        break
      case 'endObject':
        this.depth--
        if (this.path[0] === '{' && this.depth === 0) {
          this.path.length = 0
          if (this.top?.size && !this.found.size) this.single(this.top)
          this.top = undefined
        }
        break
      case 'startArray':
        this.depth++
        this.table = this.path[0] === '{' ? this.key : ''
        if (!this.found.has(this.table)) this.found.set(this.table, 0)
        break
      case 'endArray':
        this.depth--
        break
      case 'keyValue':
        this.key = value as string
        break
      default:
        if (this.path[0] === '{' && this.depth === 1) this.top?.set(this.key, cellOf(name, value))
        // a value that is no object makes a record of one column
        else if (this.depth >= 1) this.finish(new Map([['value', cellOf(name, value)]]))
    }
  }
  private table = ''
  private top: Map<string, Cell> | undefined

  private single(record: Map<string, Cell>): void {
    this.table = ''
    this.finish(record)
  }

  private begin(): void {
    this.record = new Map()
    this.keys = []
  }

  private finish(record: Map<string, Cell>): void {
    this.found.set(this.table, (this.found.get(this.table) ?? 0) + 1)
    if (this.wanted === this.table) this.onRecord(record)
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
          this.depth--
          this.finish(record!)
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
  endings: ['.json', '.jsonl', '.ndjson'],
  name: 'JSON',
  open: async (path, name): Promise<OpenedFile> => {
    const looking = new Records(undefined, () => {})
    await read(path, name, looking, {})
    /** columns of each table in the order in which they are met, known once it was read */
    const columns = new Map([...looking.found.keys()].map(table => [table, new Map<string, number>()]))
    return {
      tables: [...looking.found].filter(([, count]) => count > 0).map(([own]) => ({ name: own })),
      written: 'JSON',
      typed: true,
      padded: true,
      rows: async (table, onRow, more) => {
        const known = columns.get(table)!
        if (!known.size)
          await read(
            path,
            name,
            new Records(table, record => {
              for (const key of record.keys())
                if (!known.has(key)) {
                  known.set(key, known.size)
                  if (known.size > mostColumns) throw new FileFault(`“${name}” has more than ${mostColumns.toLocaleString('en')} columns.`)
                }
            }),
            more,
          )
        onRow([...known.keys()], 1)
        let line = 1
        await read(
          path,
          name,
          new Records(table, record =>
            onRow(
              [...known.keys()].map(key => record.get(key) ?? ''),
              ++line,
            ),
          ),
          more,
        )
      },
    }
  },
}
