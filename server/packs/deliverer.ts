import { copyFile, mkdir, readFile, rename, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { Context } from '../access/context'
import { machineSentence } from '../failures'
import type { RunFolder } from '../runs/runFolder'
import type { DeliveryRow, DeliveryRows, NewDelivery } from '../store/deliveryRows'
import type { PackRunRow } from '../store/packRunRows'
import { withText } from './letterPages'
import { MailLine, type MailServer } from './mail'
import { goesOut, type PreparingParts } from './prepare'
import { Pace, pause } from './pace'
import type { Printer } from './print/ipp'
import { PrintJobs } from './print/jobs'
import type { FileContent, MailContent, ToSend } from './toSend'

/** How often a letter that was not taken is tried again, and how long is waited before each, in milliseconds. */
const waits = [1000, 5000, 30_000]
/** Letters on their way at once: connections to the mail server. */
const lines = 4
/** Rows that are written down or read at a time. */
const atOnce = 500

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
  private readonly jobs: PrintJobs

  constructor(
    private readonly rows: DeliveryRows,
    private readonly folder: RunFolder,
    private readonly parts: DelivererParts,
    /** there is news of a run of a pack */
    tell: () => void = () => {},
  ) {
    this.jobs = new PrintJobs(rows, folder, parts.printerOf, tell)
  }

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
        else await this.jobs.print(run, next.value)
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
    const html = content.html === undefined ? undefined : await readFile(join(this.folder.of(run.id), content.html), 'utf8')
    for (let attempt = 0; ; attempt++) {
      if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending', attempts: attempt + 1 }))) return
      const sent = await line.send({
        to: row.to as string[],
        subject: content.subject,
        body: content.body,
        ...(html === undefined ? {} : { html: withText(html, content.body) }),
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

  /** Asks printers how far their jobs are, as long as there are any. */
  follow(): void {
    this.jobs.follow()
  }

  close(): void {
    this.jobs.close()
  }
}
