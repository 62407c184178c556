import { copyFile, mkdir, rename, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { Context } from '../access/context'
import { machineSentence } from '../failures'
import type { RunFolder } from '../runs/runFolder'
import type { DeliveryRow, NewDelivery, PackRows, PackRunRow } from '../store/packRows'
import { MailLine, type MailServer } from './mail'
import { goesOut, type PreparingParts } from './prepare'
import { jobState, PrintError, printJob, type Printer } from './print/ipp'
import type { FileContent, MailContent, PrintContent, ToSend } from './toSend'

/** How often a letter that was not taken is tried again, and how long is waited before each, in milliseconds. */
const waits = [1000, 5000, 30_000]
/** Letters on their way at once: connections to the mail server. */
const lines = 4
/** Rows that are written down or read at a time. */
const atOnce = 500
/** How often printers are asked how far their jobs are, in milliseconds. */
const look = 3000

export interface DelivererParts extends PreparingParts {
  /** the mail server that letters go to, as it is set now, and how many of them a minute it takes at most */
  mailServer: () => Promise<MailServer & { perMinute?: number }>
  printerOf: (id: string) => Promise<Printer | undefined>
}

/**
 * What goes out of runs of packs. All of it is written down before any of it goes, and the state of each before and after: what was
 * interrupted in between is uncertain, and is not sent again without somebody's word.
 */
export class Deliverer {
  private timer: NodeJS.Timeout | undefined
  private closed = false

  constructor(
    private readonly rows: PackRows,
    private readonly folder: RunFolder,
    private readonly parts: DelivererParts,
    /** there is news of a run of a pack */
    private readonly tell: () => void = () => {},
  ) {}

  /** Writes down all that is to go. @throws RunError where a text or a folder cannot be used */
  async prepare(_: Context, run: PackRunRow, send: ToSend): Promise<void> {
    let batch: NewDelivery[] = []
    let place = 0
    for await (const row of goesOut(run, send, this.parts)) {
      batch.push({ ...row, place: place++ })
      if (batch.length < atOnce) continue
      await this.rows.prepare(batch)
      batch = []
    }
    await this.rows.prepare(batch)
  }

  /** Sends what is ready. What is refused is written down with the server's words; the rest goes on. */
  async send(run: PackRunRow, signal: AbortSignal, told: (done: number, of: number) => void): Promise<void> {
    await this.rows.doubt(run.id)
    const of = await this.rows.readyCount(run.id)
    let done = 0
    told(done, of)
    const server = await this.parts.mailServer()
    const pace = new Pace(server.perMinute)
    const open: MailLine[] = []
    const free: MailLine[] = []
    /** Those ready, in their order, some at a time. */
    const ready = this.ready(run.id)
    const worker = async (): Promise<void> => {
      for (;;) {
        if (signal.aborted) throw signal.reason as Error
        const next = await ready.next()
        if (next.done) return
        if (next.value.kind === 'mail') {
          await pace.turn(signal)
          let line = free.pop()
          if (!line) open.push((line = new MailLine(server)))
          await this.post(line, run, next.value, signal)
          free.push(line)
        } else if (next.value.kind === 'file') await this.put(run, next.value)
        else await this.print(run, next.value)
        told(++done, of)
      }
    }
    try {
      await Promise.all(Array.from({ length: Math.max(1, Math.min(lines, of)) }, worker))
    } finally {
      for (const line of open) line.close()
    }
  }

  /** What is ready of a run. Several may ask: each row goes to one of them. */
  private async *ready(run: string): AsyncGenerator<DeliveryRow, undefined> {
    for (let after = -1; ;) {
      const rows = await this.rows.readyAfter(run, after, atOnce)
      if (!rows.length) return undefined
      yield* rows
      after = rows.at(-1)!.place
    }
  }

  private async post(line: MailLine, run: PackRunRow, row: DeliveryRow, signal: AbortSignal): Promise<void> {
    const content = row.content as MailContent
    for (let attempt = 0; ; attempt++) {
      if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending', attempts: attempt + 1 }))) return
      const sent = await line.send({
        to: row.to as string[],
        subject: content.subject,
        body: content.body,
        messageId: row.messageId,
        attachments: content.files.map(({ name, file }) => ({ name, path: join(this.folder.of(run.id), file) })),
        ...(content.language === undefined ? {} : { language: content.language }),
        ...(content.replyTo ? { replyTo: content.replyTo } : {}),
      })
      if (sent.is !== 'again') return void (await this.rows.mark(row.id, ['sending'], { state: sent.is, said: sent.said }))
      const wait = waits[attempt]
      if (wait === undefined) return void (await this.rows.mark(row.id, ['sending'], { state: 'refused', said: sent.said }))
      await this.rows.mark(row.id, ['sending'], { state: 'ready', said: sent.said })
      await pause(wait, signal)
    }
  }

  /** Puts a file where it goes: whole, or not at all. */
  private async put(run: PackRunRow, row: DeliveryRow): Promise<void> {
    const { folder, replace, file } = row.content as FileContent
    const to = join(folder, file.name)
    const beside = `${to}.${row.id.slice(0, 8)}.part`
    if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending' }))) return
    try {
      await mkdir(folder, { recursive: true })
      const there = await stat(to).catch(() => undefined)
      if (there && !replace) {
        await this.rows.mark(row.id, ['sending'], {
          state: 'refused',
          said: `There is a file “${file.name}” in the folder already; it was left as it is.`,
        })
        return
      }
      await copyFile(join(this.folder.of(run.id), file.file), beside)
      await rename(beside, to)
      await this.rows.mark(row.id, ['sending'], { state: 'sent', said: to })
    } catch (error) {
      await rm(beside, { force: true }).catch(() => {})
      await this.rows.mark(row.id, ['sending'], { state: 'refused', said: machineSentence(error) ?? (error as Error).message })
    }
  }

  /** Hands a file to a printer; how far it is there is followed from then on. */
  private async print(run: PackRunRow, row: DeliveryRow): Promise<void> {
    const content = row.content as PrintContent
    if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending' }))) return
    const printer = await this.parts.printerOf(content.printer)
    if (!printer)
      return void (await this.rows.mark(row.id, ['sending'], {
        state: 'refused',
        said: 'This printer is not in the settings any more; choose another in the pack.',
      }))
    try {
      const { name, file } = content.file
      const job = await printJob(printer, { ...content, name, file: join(this.folder.of(run.id), file) })
      await this.rows.mark(row.id, ['sending'], { content: { ...content, job } satisfies PrintContent, said: `Job ${job} waits.` })
      this.follow(0)
    } catch (error) {
      const uncertain = error instanceof PrintError && error.uncertain
      const said = machineSentence(error) ?? (error as Error).message
      await this.rows.mark(row.id, ['sending'], { state: uncertain ? 'uncertain' : 'refused', said })
    }
  }

  /** Asks printers how far their jobs are, as long as there are any. */
  follow(wait = look): void {
    if (this.closed) return
    clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      this.jobs()
        .then(left => left && this.follow())
        .catch(() => this.follow())
    }, wait)
    this.timer.unref()
  }

  /** How many jobs are not printed yet. */
  private async jobs(): Promise<number> {
    const open = (await this.rows.printing()).filter(each => (each.content as PrintContent).job !== undefined)
    let left = 0
    for (const row of open) {
      const { printer: id, job } = row.content as PrintContent
      const printer = await this.parts.printerOf(id)
      const found = printer
        ? await jobState(printer, job!).catch((error: Error) => error)
        : new Error('This printer is not in the settings any more.')
      const change = found instanceof Error ? { said: found.message } : jobChange(job!, found)
      if (!('state' in change)) left++
      if (change.said !== row.said || 'state' in change) {
        await this.rows.mark(row.id, ['sending'], change)
        this.tell()
      }
    }
    return left
  }

  /** Somebody's word on one that is uncertain, was refused or has no address: it is sent once more, or let be. False where it is none */
  decide(id: string, again: boolean, to?: string): Promise<boolean> {
    return this.rows.mark(id, ['uncertain', 'refused', 'unaddressed'], {
      state: again ? 'ready' : 'dropped',
      ...(to === undefined ? {} : { to: [to] }),
      said: null,
    })
  }

  /** Nothing of a run that was dropped goes out. */
  async drop(packRunId: string): Promise<void> {
    await this.rows.dropReady(packRunId)
  }

  close(): void {
    this.closed = true
    clearTimeout(this.timer)
  }
}

/** What a job's state says of a delivery. */
function jobChange(job: number, { state, reasons }: { state: string; reasons: string[] }): Partial<NewDelivery> & { said: string } {
  const why = reasons.length ? ` (${reasons.join(', ')})` : ''
  if (state === 'completed') return { state: 'sent', said: `Job ${job} is printed.` }
  if (state === 'canceled' || state === 'aborted') return { state: 'refused', said: `Job ${job} was ${state} at the printer${why}.` }
  return { said: `Job ${job} waits at the printer${why}.` }
}

/** So many a minute at most, evenly. */
class Pace {
  private next = 0

  constructor(private readonly perMinute: number | undefined) {}

  async turn(signal: AbortSignal): Promise<void> {
    if (!this.perMinute) return
    const now = Date.now()
    const at = Math.max(now, this.next)
    this.next = at + 60_000 / this.perMinute
    if (at > now) await pause(at - now, signal)
  }
}

function pause(milliseconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) return reject(signal.reason as Error)
    const stop = () => {
      clearTimeout(timer)
      reject(signal.reason as Error)
    }
    const timer = setTimeout(() => {
      signal.removeEventListener('abort', stop)
      resolve()
    }, milliseconds)
    signal.addEventListener('abort', stop, { once: true })
  })
}
