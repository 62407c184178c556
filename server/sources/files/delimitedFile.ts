import { isUtf8 } from 'node:buffer'
import { createReadStream } from 'node:fs'
import { open } from 'node:fs/promises'
import { DelimitedReader, likelySeparator } from '../../../core/intake/delimited'
import { decoderOf, type Encoding, likelyEncoding, markedEncoding } from '../../../core/intake/encoding'

/** Bytes that are looked at to tell how a file is written, and that are read at a time. */
const lookedAt = 256 * 1024
const atOnce = 1024 * 1024

/** How a file of separated values is written. */
export interface Written {
  encoding: Encoding
  separator: string
}

/** Tells from its first bytes how a file is written; whether the encoding explains all of it, only reading it does. */
export async function writtenAs(path: string): Promise<Written> {
  const handle = await open(path, 'r')
  try {
    const { buffer, bytesRead } = await handle.read({ buffer: Buffer.alloc(lookedAt), position: 0 })
    const start = buffer.subarray(0, bytesRead)
    const encoding = likelyEncoding(start)
    // the last character may be cut off; a file that is no UTF-8 has the same separators
    const text = new TextDecoder(encoding).decode(start)
    return { encoding, separator: likelySeparator(text) }
  } finally {
    await handle.close()
  }
}

/** Takes rows by their bytes, where it can: see `PlainRows`. */
export interface RowBytes {
  take: (bytes: Uint8Array, from: number, to: number, line: number) => boolean
  /** what has been taken is handed on */
  flush: () => void
}

/** Rows after which it is seen whether taking them by their bytes is worth it: half of them are, at least. */
const tried = 5000
/** Bytes without a line end that are read as they are. */
const longLine = 8 * 1024 * 1024

/**
 * Reads the rows of a file; `progress` is told the bytes so far. @throws EncodingFault, DelimitedFault, or the signal's reason
 */
export async function readDelimited(
  path: string,
  { encoding, separator }: Written,
  onRow: (cells: string[], line: number) => void,
  more: {
    progress?: (bytes: number) => void
    drained?: () => Promise<void>
    signal?: AbortSignal
    /** asked for each piece: nothing as long as rows are to be read one by one */
    bytes?: () => RowBytes | undefined
  } = {},
): Promise<void> {
  const decoder = decoderOf(encoding)
  const reader = new DelimitedReader(separator, onRow)
  let first = true
  let bytes = 0
  let rest: Buffer = Buffer.alloc(0)
  let [lines, refused] = [0, 0]
  const worth = () => lines < tried || refused * 2 < lines
  for await (const chunk of createReadStream(path, { highWaterMark: atOnce, ...(more.signal ? { signal: more.signal } : {}) })) {
    let piece = chunk as Buffer
    bytes += piece.length
    if (first) piece = piece.subarray(markedEncoding(piece)?.length ?? 0)
    first = false
    if (encoding === 'utf-8' && more.bytes) {
      const whole = rest.length ? Buffer.concat([rest, piece]) : piece
      const end = whole.length < longLine ? whole.lastIndexOf(10) + 1 : whole.length
      rest = whole.subarray(end)
      piece = whole.subarray(0, end)
      const taker = worth() ? more.bytes() : undefined
      if (taker && isUtf8(piece)) takeLines(piece, taker)
      else reader.push(decoder.text(piece))
    } else reader.push(decoder.text(piece))
    more.progress?.(bytes)
    await more.drained?.()
  }
  reader.push(decoder.text(rest))
  reader.push(decoder.text(new Uint8Array(), true))
  reader.end()

  /** Whole lines: those that can be taken by their bytes are, and the others are read one by one. */
  function takeLines(piece: Buffer, taker: RowBytes): void {
    for (let from = 0; from < piece.length;) {
      const found = piece.indexOf(10, from)
      const end = found < 0 ? piece.length : found
      const to = end > from && piece[end - 1] === 13 ? end - 1 : end
      lines++
      if (found >= 0 && reader.between && taker.take(piece, from, to, reader.next)) reader.pass()
      else {
        refused++
        reader.push(decoder.text(piece.subarray(from, end + 1)))
      }
      from = end + 1
    }
    taker.flush()
  }
}
