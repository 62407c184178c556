import { once } from 'node:events'
import { createWriteStream, type WriteStream } from 'node:fs'
import type { Writable } from 'node:stream'

let fail: ((error: Error) => void) | undefined
let opened: WriteStream[] = []

/** Work that writes files, of one task of this thread: where one of them cannot be written, all of it fails at once, and nothing waits. */
export async function withFiles<T>(work: () => Promise<T>): Promise<T> {
  const failed = new Promise<never>((_, reject) => (fail = reject))
  failed.catch(() => {})
  opened = []
  try {
    return await Promise.race([work(), failed])
  } finally {
    fail = undefined
    // a file that is opened late must not come back after it was taken away
    await Promise.all(opened.map(letGo))
  }
}

/** A file to be written. */
export function outFile(path: string): WriteStream {
  const tell = fail
  const out = createWriteStream(path).on('error', error => tell?.(error))
  opened.push(out)
  return out
}

function letGo(out: WriteStream): Promise<void> {
  if (out.closed) return Promise.resolve()
  return new Promise(resolve => {
    out.once('close', () => resolve())
    out.destroy()
  })
}

/** Waits while a stream is full. @throws what its writing failed of */
export async function room(out: Writable): Promise<void> {
  if (out.errored) throw out.errored
  if (out.writableNeedDrain) await once(out, 'drain')
}

/** Writes to a stream and waits while it is full. */
export async function put(out: Writable, text: string | Buffer): Promise<void> {
  if (out.errored) throw out.errored
  if (!out.write(text)) await room(out)
}
