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

/**
 * Reads the rows of a file; `progress` is told the bytes so far. @throws EncodingFault, DelimitedFault, or the signal's reason
 */
export async function readDelimited(
  path: string,
  { encoding, separator }: Written,
  onRow: (cells: string[], line: number) => void,
  more: { progress?: (bytes: number) => void; drained?: () => Promise<void>; signal?: AbortSignal } = {},
): Promise<void> {
  const decoder = decoderOf(encoding)
  const reader = new DelimitedReader(separator, onRow)
  let first = true
  let bytes = 0
  for await (const chunk of createReadStream(path, { highWaterMark: atOnce, ...(more.signal ? { signal: more.signal } : {}) })) {
    let piece = chunk as Buffer
    bytes += piece.length
    if (first) piece = piece.subarray(markedEncoding(piece)?.length ?? 0)
    first = false
    reader.push(decoder.text(piece))
    more.progress?.(bytes)
    await more.drained?.()
  }
  reader.push(decoder.text(new Uint8Array(), true))
  reader.end()
}
