import { fileEndings } from '../../../../core/intake/endings'
import { open as openHandle } from 'node:fs/promises'
import type { AsyncBuffer, FileMetaData, SchemaElement } from 'hyparquet'
import type { Cell } from '../../../../core/intake/cells'
import { dayText } from '../../../../core/value/date'
import { decimal, decimalText, parseDecimal } from '../../../../core/value/decimal'
import { momentText } from '../../../../core/value/moment'
import { FileFault, type FileKind, type OpenedFile } from './kind'

/** Rows that are read at a time: of a group of rows, which may hold millions. */
const atOnce = 50_000

/** Values by what the file says of them, before the library would make numbers of them that lose digits. */
const parsers = {
  dateFromDays: (days: number) => new Plain(dayText(days)),
  timestampFromMilliseconds: (value: bigint) => new Plain(momentText(BigInt(value) * 1000n)),
  timestampFromMicroseconds: (value: bigint) => new Plain(momentText(BigInt(value))),
  timestampFromNanoseconds: (value: bigint) => nanoseconds(BigInt(value)),
} as never

/** A value that is written already. */
class Plain {
  constructor(readonly text: string) {}
}

/** Parts of a microsecond have no place in a moment: one that has them stays a text with all of its digits. */
function nanoseconds(value: bigint): Plain | string {
  const micro = value / 1000n - (value % 1000n < 0n ? 1n : 0n)
  const rest = value - micro * 1000n
  const text = momentText(micro)
  return rest ? `${text.includes('.') ? text.padEnd(26, '0') : `${text}.000000`}${String(rest).padStart(3, '0')}` : new Plain(text)
}

/** Decimals are read as whole numbers, and get their mark here. */
function takeScales(metadata: FileMetaData): Map<string, number> {
  const scales = new Map<string, number>()
  for (const element of metadata.schema)
    if (element.converted_type === 'DECIMAL' || element.logical_type?.type === 'DECIMAL') {
      scales.set(element.name, element.scale ?? (element.logical_type as { scale?: number } | undefined)?.scale ?? 0)
      delete element.converted_type
      delete element.logical_type
    }
  return scales
}

function wholeOf(value: unknown): bigint | number {
  if (!(value instanceof Uint8Array)) return value as bigint | number
  let units = 0n
  for (const byte of value) units = units * 256n + BigInt(byte)
  const bits = BigInt(value.length * 8)
  return value.length && value[0]! >= 128 ? units - (1n << bits) : units
}

function cellOf(value: unknown, scale: number | undefined, element: SchemaElement): Cell {
  if (value === null || value === undefined) return ''
  if (value instanceof Plain) return value.text
  if (scale !== undefined) return decimalText(decimal(wholeOf(value), scale))
  switch (typeof value) {
    case 'bigint':
      return String(value)
    case 'number': {
      // a number of four bytes by the shortest text that gives those four again
      const text = element.type === 'FLOAT' ? shortFloat(value) : String(value)
      const exact = parseDecimal(text)
      return exact ? decimalText(exact) : { text }
    }
    case 'boolean':
      return value ? 'true' : 'false'
    case 'string':
      return { text: value }
    default:
      if (value instanceof Uint8Array) return { text: `\\x${Buffer.from(value).toString('hex')}` }
      return { text: JSON.stringify(value, (_, each: unknown) => (typeof each === 'bigint' ? String(each) : each)) }
  }
}

function shortFloat(value: number): string {
  for (let digits = 1; digits < 9; digits++) {
    const text = value.toPrecision(digits)
    if (Math.fround(Number(text)) === value) return text
  }
  return String(value)
}

/** Columns in a file of Apache Parquet. */
export const parquet: FileKind = {
  endings: fileEndings.parquet,
  name: 'Parquet',
  open: async (path, name): Promise<OpenedFile> => {
    const handle = await openHandle(path, 'r')
    const fail = () => new FileFault(`“${name}” is no Parquet file that can be read, or it is cut off; get it once more.`)
    try {
      // large, and rarely wanted
      const [{ parquetMetadataAsync, parquetReadObjects, parquetSchema }, { compressors }] = await Promise.all([
        import('hyparquet'),
        import('hyparquet-compressors'),
      ])
      const { size } = await handle.stat()
      const file: AsyncBuffer = {
        byteLength: size,
        slice: async (from, to = size) => {
          const { buffer, bytesRead } = await handle.read({ buffer: Buffer.alloc(to - from), position: from })
          if (bytesRead < to - from) throw fail()
          return buffer.buffer.slice(buffer.byteOffset, buffer.byteOffset + bytesRead) as ArrayBuffer
        },
      }
      const metadata = await parquetMetadataAsync(file)
      const scales = takeScales(metadata)
      const columns = parquetSchema(metadata).children.map(child => child.element)
      const count = Number(metadata.num_rows)
      return {
        tables: [{ name: '' }],
        written: 'Parquet',
        typed: true,
        rows: async (_, onRow, more) => {
          onRow(
            columns.map(each => each.name),
            1,
          )
          for (let from = 0; from < count; from += atOnce) {
            const rows = await parquetReadObjects({
              file,
              metadata,
              compressors,
              parsers,
              utf8: false,
              rowStart: from,
              rowEnd: Math.min(count, from + atOnce),
            }).catch((error: unknown) => {
              throw error instanceof FileFault ? error : fail()
            })
            rows.forEach((row, at) =>
              onRow(
                columns.map(element => cellOf(row[element.name], scales.get(element.name), element)),
                from + at + 2,
              ),
            )
            more.signal?.throwIfAborted()
            more.progress?.(Math.round((size * (from + rows.length)) / Math.max(1, count)))
            await more.drained?.()
          }
        },
        close: () => void handle.close(),
      }
    } catch (error) {
      await handle.close()
      throw error instanceof FileFault ? error : fail()
    }
  },
}
