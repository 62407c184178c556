// the package comes without types, and pages are checked without this folder's
// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./ipp-encoder.d.ts" />
import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { request as plainRequest } from 'node:http'
import { request as secureRequest } from 'node:https'
import { pipeline } from 'node:stream/promises'
import ipp from 'ipp-encoder'
import type { PrintSides } from '../../../core/pack/recipients'

const C = ipp.CONSTANTS

/** A printer that the administrator has named. */
export interface Printer {
  id: string
  name: string
  /** where it takes jobs, as ipp://printer.example/ipp/print or ipps:// */
  address: string
}

export interface PrintJob {
  name: string
  file: string
  copies: number
  sides: PrintSides
  tray?: string
}

/** States of a job (RFC 8011, section 5.3.7). */
export const jobStates = { 3: 'pending', 4: 'held', 5: 'processing', 6: 'stopped', 7: 'canceled', 8: 'aborted', 9: 'completed' } as const
export interface JobState {
  state: (typeof jobStates)[keyof typeof jobStates]
  /** keywords such as media-empty, none where it says none */
  reasons: string[]
}

/** What a printer did not take, in its own words; `uncertain` where it may have taken it. */
export class PrintError extends Error {
  constructor(
    message: string,
    readonly uncertain = false,
  ) {
    super(message)
  }
}

/** Longest that a printer is waited for, in milliseconds. */
const patience = 30_000

/** Where a printer is asked: IPP goes over HTTP to port 631, or the one that is said (RFC 8010, section 4). @throws PrintError */
export function addressOf(address: string): URL {
  let url: URL
  try {
    url = new URL(address.trim())
  } catch {
    throw new PrintError(`“${address}” is no address of a printer; write one such as ipp://printer.example/ipp/print.`)
  }
  const secure = url.protocol === 'ipps:' || url.protocol === 'https:'
  if (!secure && url.protocol !== 'ipp:' && url.protocol !== 'http:')
    throw new PrintError(`“${address}” is no address of a printer; write one such as ipp://printer.example/ipp/print.`)
  const ported = new URL(`${secure ? 'https' : 'http'}://${url.host}${url.pathname}${url.search}`)
  if (url.protocol.startsWith('ipp') && !url.port) ported.port = '631'
  return ported
}

interface Attribute {
  tag: number
  name: string
  value: unknown
}

/** An operation of RFC 8011 with its attributes, and a document behind it. */
async function ask(address: string, operationId: number, operation: Attribute[], job: Attribute[] = [], file?: string) {
  const url = addressOf(address)
  const message = {
    version: { major: 1, minor: 1 },
    operationId,
    requestId: 1,
    groups: [
      {
        tag: C.OPERATION_ATTRIBUTES_TAG,
        attributes: [
          { tag: C.CHARSET, name: 'attributes-charset', value: 'utf-8' },
          { tag: C.NATURAL_LANG, name: 'attributes-natural-language', value: 'en' },
          { tag: C.URI, name: 'printer-uri', value: address.replace(/^http/, 'ipp') },
          ...operation,
        ],
      },
      ...(job.length ? [{ tag: C.JOB_ATTRIBUTES_TAG, attributes: job }] : []),
    ],
  }
  const head = ipp.request.encode(message as never, Buffer.alloc(ipp.request.encodingLength(message as never)))
  const length = head.length + (file ? (await stat(file)).size : 0)
  let handed = false
  const answer = await new Promise<Buffer>((resolve, reject) => {
    const send = url.protocol === 'https:' ? secureRequest : plainRequest
    const request = send(
      url,
      { method: 'POST', timeout: patience, headers: { 'content-type': 'application/ipp', 'content-length': length } },
      response => {
        const parts: Buffer[] = []
        response.on('data', (part: Buffer) => parts.push(part))
        response.on('end', () =>
          response.statusCode === 200
            ? resolve(Buffer.concat(parts))
            : reject(new PrintError(`The printer answers ${response.statusCode}.`)),
        )
        response.on('error', reject)
      },
    )
    request.on('timeout', () => request.destroy(new Error('The printer does not answer.')))
    request.on('error', error => reject(error instanceof PrintError ? error : new PrintError(error.message, handed)))
    request.write(head)
    // before somebody has answered at the other end, nothing can have been taken
    request.on('socket', socket => socket.once('connect', () => (handed = operationId === C.PRINT_JOB)))
    if (file) pipeline(createReadStream(file), request).catch(() => {})
    else request.end()
  })
  let decoded: ReturnType<typeof ipp.response.decode>
  try {
    decoded = ipp.response.decode(answer)
  } catch {
    throw new PrintError('What answers is no printer.', handed)
  }
  const all = decoded.groups.flatMap(group => group.attributes)
  const valueOf = (name: string): unknown[] => {
    const value = all.find(each => each.name === name)?.value
    return Array.isArray(value) ? value : value === undefined ? [] : [value]
  }
  // successful ones are below 0x0100 (RFC 8011, appendix B)
  if (decoded.statusCode >= 0x0100)
    throw new PrintError(String(valueOf('status-message')[0] ?? ipp.STATUS_CODES[decoded.statusCode] ?? decoded.statusCode))
  return valueOf
}

/** Attributes that are asked for: printers have many, of kinds that nobody here needs. */
const wanted = (...names: string[]): Attribute => ({ tag: C.KEYWORD, name: 'requested-attributes', value: names })
const user: Attribute = { tag: C.NAME_WITHOUT_LANG, name: 'requesting-user-name', value: 'estante' }

/** Hands a PDF to a printer; the number of the job. @throws PrintError */
export async function printJob({ address }: Pick<Printer, 'address'>, { name, file, copies, sides, tray }: PrintJob): Promise<number> {
  const valueOf = await ask(
    address,
    C.PRINT_JOB,
    [
      user,
      { tag: C.NAME_WITHOUT_LANG, name: 'job-name', value: name.slice(0, 200) },
      { tag: C.MIME_MEDIA_TYPE, name: 'document-format', value: 'application/pdf' },
    ],
    [
      { tag: C.INTEGER, name: 'copies', value: copies },
      { tag: C.KEYWORD, name: 'sides', value: sides },
      ...(tray ? [{ tag: C.KEYWORD, name: 'media', value: tray }] : []),
    ],
    file,
  )
  const job = Number(valueOf('job-id')[0])
  if (!Number.isInteger(job)) throw new PrintError('The printer took the job and gave it no number.', true)
  return job
}

/** How far a job is. @throws PrintError */
export async function jobState({ address }: Pick<Printer, 'address'>, job: number): Promise<JobState> {
  const valueOf = await ask(address, C.GET_JOB_ATTRIBUTES, [
    { tag: C.INTEGER, name: 'job-id', value: job },
    user,
    wanted('job-state', 'job-state-reasons'),
  ])
  const state = jobStates[Number(valueOf('job-state')[0]) as keyof typeof jobStates]
  if (!state) throw new PrintError('The printer does not say how far the job is.')
  return {
    state,
    reasons: valueOf('job-state-reasons')
      .concat(valueOf('printer-state-reasons'))
      .map(String)
      .filter(each => each !== 'none'),
  }
}

/** What a printer calls itself, and what it can do. @throws PrintError */
export async function printerSays({ address }: Pick<Printer, 'address'>): Promise<{ name: string; state: string; reasons: string[] }> {
  const valueOf = await ask(address, C.GET_PRINTER_ATTRIBUTES, [
    user,
    wanted('printer-info', 'printer-name', 'printer-state', 'printer-state-reasons'),
  ])
  const states = { 3: 'idle', 4: 'processing', 5: 'stopped' } as Record<number, string>
  return {
    name: String(valueOf('printer-info')[0] ?? valueOf('printer-name')[0] ?? ''),
    state: states[Number(valueOf('printer-state')[0])] ?? 'idle',
    reasons: valueOf('printer-state-reasons')
      .map(String)
      .filter(each => each !== 'none'),
  }
}
