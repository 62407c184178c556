import type { H3Event } from 'h3'
import { RequestError } from '../../core/api/requests'

/** Bytes that a request may bring: rows of a file are the most. */
export const mostBytes = 64 * 2 ** 20

/** A request that brings too much. */
export class TooLargeError extends RequestError {
  constructor() {
    super(`The request is larger than ${mostBytes / 2 ** 20} MB, which is the most that is taken; send less at a time.`)
  }
}

/** The JSON that a request brings; what is too much is refused before it is read. @throws RequestError */
export async function jsonOf(event: H3Event): Promise<unknown> {
  const { req } = event.node
  if (Number(req.headers['content-length'] ?? 0) > mostBytes) throw new TooLargeError()
  const parts: Buffer[] = []
  let size = 0
  for await (const part of req as AsyncIterable<Buffer>) {
    size += part.length
    if (size > mostBytes) throw new TooLargeError()
    parts.push(part)
  }
  const bytes = Buffer.concat(parts)
  if (!bytes.length) return undefined
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw new RequestError('The request is not written in UTF-8.')
  }
  try {
    return JSON.parse(text) as unknown
  } catch {
    throw new RequestError('The request is not readable JSON.')
  }
}
