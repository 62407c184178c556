/** How the bytes of a text stand for its characters. */
export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252'

/** What a byte order mark says, and how many bytes it takes (Unicode Standard, chapter 23.8); without one, nothing. */
export function markedEncoding(start: Uint8Array): { encoding: Encoding; length: number } | undefined {
  const [a, b, c] = start
  if (a === 0xef && b === 0xbb && c === 0xbf) return { encoding: 'utf-8', length: 3 }
  if (a === 0xff && b === 0xfe) return { encoding: 'utf-16le', length: 2 }
  if (a === 0xfe && b === 0xff) return { encoding: 'utf-16be', length: 2 }
  return undefined
}

/**
 * The encoding of a file from its first bytes: its mark, zero bytes between plain letters, or UTF-8. Where UTF-8 does not explain the
 * bytes (see `decoderOf`), they are Windows-1252, which explains any.
 */
export function likelyEncoding(start: Uint8Array): Encoding {
  const marked = markedEncoding(start)
  if (marked) return marked.encoding
  const pairs = Math.min(start.length >> 1, 200)
  let [even, odd] = [0, 0]
  for (let at = 0; at < pairs * 2; at += 2) {
    if (start[at] === 0) even++
    if (start[at + 1] === 0) odd++
  }
  if (pairs > 1 && odd > pairs * 0.4 && even === 0) return 'utf-16le'
  if (pairs > 1 && even > pairs * 0.4 && odd === 0) return 'utf-16be'
  return 'utf-8'
}

/** Bytes that are no text of the encoding. */
export class EncodingFault extends Error {}

/** Decodes a file piece by piece; its mark is left out. `text` throws EncodingFault where the bytes are none of the encoding. */
export function decoderOf(encoding: Encoding): { text: (bytes: Uint8Array, last?: boolean) => string } {
  const decoder = new TextDecoder(encoding, { fatal: encoding !== 'windows-1252' })
  return {
    text: (bytes, last = false) => {
      try {
        // without `stream`, some engines read 0x80 to 0x9f of Windows-1252 as control characters
        const text = decoder.decode(bytes, { stream: true })
        return last ? text + decoder.decode() : text
      } catch (error) {
        throw new EncodingFault(`The file is not written in ${encoding.toUpperCase()}.`, { cause: error })
      }
    },
  }
}
