// the package comes without types, and pages are checked without this folder's
// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./ipp-encoder.d.ts" />
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { mkdirSync } from 'node:fs'
import { readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import ipp from 'ipp-encoder'

const C = ipp.CONSTANTS

/** A job that the stand-in has taken, as its page shows it. */
export interface PrintedJob {
  job: number
  /** ISO 8601 */
  at: string
  name: string
  copies: number
  sides: string
  tray?: string
  /** without paper it waits; with paper it is printed at once */
  state: 'waiting' | 'printed'
}

/** Jobs that are kept at most; the oldest go first. */
const most = 500
/** the largest document that it takes, in bytes */
const largest = 200_000_000

type Attributes = { tag: number; name: string; value: unknown }[]

/**
 * A stand-in for a printer, which ships with the program: it takes jobs by IPP (RFC 8010, 8011) on this machine only, prints nothing, and
 * shows the sheets. It can be out of paper.
 */
export class PrinterStandIn {
  private server: Server | undefined
  private opening: Promise<number> | undefined
  private jobs: Map<number, PrintedJob> | undefined

  constructor(private readonly folder: string) {}

  /** Where it takes jobs. */
  async address(): Promise<string> {
    return `ipp://127.0.0.1:${await (this.opening ??= this.open())}/ipp/print`
  }

  private async open(): Promise<number> {
    await this.known()
    const server = createServer((request, response) => {
      this.answer(request)
        .then(bytes => response.writeHead(200, { 'content-type': 'application/ipp' }).end(bytes))
        .catch(() => refuse(response))
    })
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject)
      server.listen(0, '127.0.0.1', () => resolve())
    })
    this.server = server
    return (server.address() as AddressInfo).port
  }

  private async answer(request: IncomingMessage): Promise<Buffer> {
    const parts: Buffer[] = []
    let length = 0
    for await (const part of request) {
      length += (part as Buffer).length
      if (length > largest) throw new Error('The document is too large.')
      parts.push(part as Buffer)
    }
    const bytes = Buffer.concat(parts)
    const asked = ipp.request.decode(bytes)
    const document = bytes.subarray(ipp.request.decode.bytes)
    const all = asked.groups.flatMap(group => group.attributes)
    const said = (name: string): unknown => {
      const value = all.find(each => each.name === name)?.value
      return Array.isArray(value) ? (value[0] as unknown) : value
    }
    const reply = (statusCode: number, groups: { tag: number; attributes: Attributes }[] = [], message?: string) =>
      encoded({
        version: asked.version,
        statusCode,
        requestId: asked.requestId,
        groups: [
          {
            tag: C.OPERATION_ATTRIBUTES_TAG,
            attributes: [
              { tag: C.CHARSET, name: 'attributes-charset', value: 'utf-8' },
              { tag: C.NATURAL_LANG, name: 'attributes-natural-language', value: 'en' },
              ...(message ? [{ tag: C.TEXT_WITHOUT_LANG, name: 'status-message', value: message }] : []),
            ],
          },
          ...groups,
        ],
      })
    const jobs = await this.known()
    const stateOf = (job: PrintedJob): Attributes => [
      { tag: C.INTEGER, name: 'job-id', value: job.job },
      { tag: C.URI, name: 'job-uri', value: `ipp://127.0.0.1/ipp/print/${job.job}` },
      { tag: C.ENUM, name: 'job-state', value: job.state === 'printed' ? 9 : 6 },
      { tag: C.KEYWORD, name: 'job-state-reasons', value: job.state === 'printed' ? 'job-completed-successfully' : 'printer-stopped' },
      { tag: C.KEYWORD, name: 'printer-state-reasons', value: job.state === 'printed' ? 'none' : 'media-empty' },
    ]
    switch (asked.operationId) {
      case C.PRINT_JOB: {
        if (document.subarray(0, 5).toString('latin1') !== '%PDF-') return reply(0x040a, [], 'This printer takes PDF only.')
        const job: PrintedJob = {
          job: Math.max(0, ...jobs.keys()) + 1,
          at: new Date().toISOString(),
          name: String(said('job-name') ?? 'Untitled'),
          copies: Number(said('copies') ?? 1),
          sides: String(said('sides') ?? 'one-sided'),
          ...(said('media') === undefined ? {} : { tray: String(said('media')) }),
          state: (await this.hasPaper()) ? 'printed' : 'waiting',
        }
        await writeFile(this.sheets(job.job), document)
        await this.keep(job)
        return reply(0, [{ tag: C.JOB_ATTRIBUTES_TAG, attributes: stateOf(job) }])
      }
      case C.GET_JOB_ATTRIBUTES: {
        const job = jobs.get(Number(said('job-id')))
        return job ? reply(0, [{ tag: C.JOB_ATTRIBUTES_TAG, attributes: stateOf(job) }]) : reply(0x0406, [], 'There is no such job.')
      }
      case C.GET_PRINTER_ATTRIBUTES: {
        const paper = await this.hasPaper()
        const attributes = [
          { tag: C.TEXT_WITHOUT_LANG, name: 'printer-info', value: 'Stand-in printer of Estante' },
          { tag: C.ENUM, name: 'printer-state', value: paper ? 3 : 5 },
          { tag: C.KEYWORD, name: 'printer-state-reasons', value: paper ? 'none' : 'media-empty' },
        ]
        return reply(0, [{ tag: C.PRINTER_ATTRIBUTES_TAG, attributes }])
      }
      default:
        return reply(0x0501, [], 'This printer prints, and tells how far it is.')
    }
  }

  /** Where the sheets of a job lie. */
  sheets(job: number): string {
    return join(this.folder, `${job}.pdf`)
  }

  private async known(): Promise<Map<number, PrintedJob>> {
    if (this.jobs) return this.jobs
    mkdirSync(this.folder, { recursive: true })
    const found = new Map<number, PrintedJob>()
    for (const name of await readdir(this.folder))
      if (/^\d+\.json$/.test(name)) {
        const job = JSON.parse(await readFile(join(this.folder, name), 'utf8')) as PrintedJob
        found.set(job.job, job)
      }
    return (this.jobs = found)
  }

  private async keep(job: PrintedJob): Promise<void> {
    const jobs = await this.known()
    jobs.set(job.job, job)
    const file = join(this.folder, `${job.job}.json`)
    await writeFile(`${file}.part`, JSON.stringify(job))
    await rename(`${file}.part`, file)
    for (const each of [...jobs.keys()].sort((a, b) => b - a).slice(most)) {
      jobs.delete(each)
      await Promise.all(['pdf', 'json'].map(ending => rm(join(this.folder, `${each}.${ending}`), { force: true })))
    }
  }

  /** Jobs that it has taken, the newest first. */
  async list(): Promise<PrintedJob[]> {
    return [...(await this.known()).values()].sort((one, other) => other.job - one.job)
  }

  async hasPaper(): Promise<boolean> {
    return (await readFile(join(this.folder, 'paper'), 'utf8').catch(() => 'yes')) !== 'no'
  }

  /** Takes its paper away, or puts some in: what waits is printed then. */
  async paper(there: boolean): Promise<void> {
    const jobs = await this.known()
    await writeFile(join(this.folder, 'paper'), there ? 'yes' : 'no')
    if (there) for (const job of jobs.values()) if (job.state === 'waiting') await this.keep({ ...job, state: 'printed' })
  }

  async close(): Promise<void> {
    await this.opening?.catch(() => {})
    const { server } = this
    this.server = undefined
    this.opening = undefined
    server?.closeAllConnections()
    if (server) await new Promise<void>(resolve => server.close(() => resolve()))
  }
}

const encoded = (message: unknown): Buffer =>
  ipp.response.encode(message as never, Buffer.alloc(ipp.response.encodingLength(message as never)))

function refuse(response: ServerResponse): void {
  if (!response.headersSent) response.writeHead(400)
  response.end()
}
