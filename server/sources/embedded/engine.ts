import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { MessageChannel, Worker } from 'node:worker_threads'
import type { Catalog } from '../../../core/books/catalog'
import type { TableColumn } from '../../../core/definition/tables'
import type { Query, Rows } from '../../../core/sql/query'
import { joinRows, type PackedRows } from '../../../core/value/packed'
import type { Context } from '../../access/context'
import { defaultLimits, type QueryOptions, type Snapshot, SourceError, type SourceState } from '../contract'
import { Turns } from './turns'

export interface EngineOptions {
  /** folder of its database */
  folder: string
  schema: string
  /** file of the thread that opens it: see runEngine */
  thread: string
  /** handed to that thread */
  data?: Record<string, unknown>
}

type Request =
  | { kind: 'query'; query: Query; rowLimit: number; port?: number }
  | { kind: 'catalog' }
  | { kind: 'describe'; text: string; guard?: readonly string[] }
  | { kind: 'write'; command: unknown }

interface Job {
  request: Request
  timeLimit: number
  onPart: (rows: PackedRows) => void
  onAnswer?: (answer: Answer) => void
  finish: (count: number, parts: number) => void
  fail: (error: Error) => void
}

type Answer =
  | { kind: 'open' }
  | { id: number; kind: 'rows'; rows: PackedRows }
  | { id: number; kind: 'done'; count: number; /** sent to a port of its own */ parts: number }
  | { id: number; kind: 'catalog'; catalog: Catalog }
  | { id: number; kind: 'described'; columns: TableColumn[] }
  | { id: number; kind: 'written'; outcome: string }
  | {
      id: number
      kind: 'error'
      message: string
      position?: number
      unsound?: boolean
      /** the message is a sentence of ours */ refused?: boolean
    }

/**
 * How long a statement that nobody waits for any more may go on, in milliseconds: opening the engine anew takes as long, and keeps all
 * others waiting too.
 */
const patience = 2000

/**
 * The embedded engine: a PGlite of its own in a worker thread. It answers one query at a time. A running query can only be
 * stopped by ending
 * the thread; it is then opened again and the waiting queries go on as if nothing had happened.
 */
export class EmbeddedEngine {
  private worker: Worker | undefined
  private ready: Promise<void> | undefined
  private readonly waiting = new Turns<Job>()
  private running: { id: number; job: Job; timer: NodeJS.Timeout; unwanted?: boolean } | undefined
  private lastId = 0
  private closed = false
  private away: SourceState['away']
  /** ports that the present thread knows */
  private readonly ports = new Set<number>()
  private lastPort = 0
  private snapshots = 0
  private readonly writers: (() => void)[] = []
  /** readings that hold moments, and how many each */
  private readonly holders = new Map<string, number>()
  private writing = 0

  private readonly there: boolean
  /** the number of a question that nobody waits for any more: its thread looks between parts */
  private readonly unwanted = new Int32Array(new SharedArrayBuffer(Int32Array.BYTES_PER_ELEMENT))

  constructor(private readonly options: EngineOptions) {
    this.there = existsSync(join(options.folder, 'PG_VERSION'))
  }

  /** Opens the engine; its thread makes what is missing. */
  open(): Promise<void> {
    return (this.ready ??= new Promise<void>((resolve, reject) => {
      const worker = new Worker(this.options.thread, {
        workerData: { folder: this.options.folder, schema: this.options.schema, unwanted: this.unwanted, ...this.options.data },
      })
      this.worker = worker
      worker.on('message', (answer: Answer) => (answer.kind === 'open' ? resolve() : this.answered(answer)))
      worker.on('error', error => {
        reject(error)
        if (worker === this.worker) this.stopped(error.message)
      })
      worker.on('exit', () => {
        if (worker === this.worker && !this.closed) this.stopped('its thread ended')
      })
    }).then(
      () => {
        this.away = undefined
      },
      (error: Error) => {
        this.away ??= { since: Date.now(), why: `The source could not be opened: ${error.message}` }
        throw error
      },
    ))
  }

  /** Its database is there. */
  made(): boolean {
    return this.there
  }

  state(): SourceState {
    return this.away ? { away: this.away } : {}
  }

  /**
   * A moment of the source. Nothing is written while one is open, so that all that is read through it belongs together; one that is wanted
   * while somebody waits to write comes after that, but for a reading that holds one already: it would wait for itself.
   */
  async snapshot(context: Context): Promise<Snapshot> {
    const { within } = context
    const holds = within !== undefined && this.holders.has(within)
    while (!holds && (this.writing || this.writers.length)) await new Promise<void>(resolve => this.writers.push(resolve))
    this.snapshots++
    if (within !== undefined) this.holders.set(within, (this.holders.get(within) ?? 0) + 1)
    let open = true
    const numbers: number[] = []
    return {
      moment: Date.now(),
      guardsTexts: true,
      query: (query, options) => this.query(context, query, options),
      describe: (text, options) => this.describe(context, text, options),
      queryTo: (port, query, options) => this.queryTo(context, port, query, options),
      port: () => {
        const number = ++this.lastPort
        const { port1, port2 } = new MessageChannel()
        numbers.push(number)
        if (this.worker) {
          this.ports.add(number)
          this.worker.postMessage({ id: number, kind: 'port', port: port1 }, [port1])
        }
        return { number, port: port2 }
      },
      close: () => {
        if (!open) return
        open = false
        for (const number of numbers) {
          this.ports.delete(number)
          this.worker?.postMessage({ id: number, kind: 'portClosed' })
        }
        this.snapshots--
        if (within !== undefined) this.letGo(within)
        if (!this.snapshots) this.writers.splice(0).forEach(tell => tell())
      },
    }
  }

  private letGo(within: string): void {
    const left = (this.holders.get(within) ?? 1) - 1
    if (left) this.holders.set(within, left)
    else this.holders.delete(within)
  }

  /** Runs a statement. @throws SourceError, or the signal's reason */
  async query(context: Context, query: Query, options: QueryOptions = {}): Promise<Rows> {
    const parts: PackedRows[] = []
    const request: Request = { kind: 'query', query, rowLimit: options.rowLimit ?? defaultLimits.rows }
    await this.ask(context, request, options, options.onPart ?? (rows => parts.push(rows)))
    return options.onPart ? { count: 0, columns: [] } : joinRows(parts)
  }

  /** Runs a statement whose rows go to a port of the snapshot, in so many parts; where the port is gone, they come to `onPart`. */
  async queryTo(context: Context, port: number, query: Query, options: QueryOptions): Promise<{ parts: number }> {
    const rowLimit = options.rowLimit ?? defaultLimits.rows
    const answer = await this.ask(context, { kind: 'query', query, rowLimit, port }, options, options.onPart ?? (() => {}))
    return { parts: answer.parts }
  }

  async catalog(context: Context): Promise<Catalog> {
    let found: Catalog | undefined
    await this.ask(
      context,
      { kind: 'catalog' },
      {},
      () => {},
      answer => (found = answer.kind === 'catalog' ? answer.catalog : undefined),
    )
    return found!
  }

  async describe(context: Context, text: string, options: QueryOptions = {}): Promise<TableColumn[]> {
    let found: TableColumn[] = []
    await this.ask(
      context,
      { kind: 'describe', text, ...(options.guard ? { guard: options.guard } : {}) },
      options,
      () => {},
      answer => (found = answer.kind === 'described' ? answer.columns : []),
    )
    return found
  }

  /**
   * Something that the thread writes by a role of its own; it waits until no snapshot is open, and is never cut off. @throws
   * SourceError
   */
  async write(context: Context, command: unknown): Promise<string> {
    this.writing++
    try {
      while (this.snapshots) await new Promise<void>(resolve => this.writers.push(resolve))
      let outcome = ''
      await this.ask(
        { person: context.person, task: 'write' },
        { kind: 'write', command },
        {},
        () => {},
        answer => (outcome = answer.kind === 'written' ? answer.outcome : ''),
      )
      return outcome
    } finally {
      this.writing--
      this.writers.splice(0).forEach(tell => tell())
    }
  }

  async close(): Promise<void> {
    this.closed = true
    await this.ready?.catch(() => {})
    await this.worker?.terminate()
  }

  private ask(
    context: Context,
    request: Request,
    options: QueryOptions,
    onPart: Job['onPart'],
    onAnswer?: Job['onAnswer'],
  ): Promise<{ count: number; parts: number }> {
    return new Promise((resolve, reject) => {
      const signal = options.signal ?? context.signal
      if (signal?.aborted) return reject(signal.reason as Error)
      const job: Job = {
        request,
        timeLimit: Math.min(
          options.timeLimit ?? defaultLimits.milliseconds,
          isAuthored(request) ? defaultLimits.authored : defaultLimits.milliseconds,
        ),
        onPart,
        onAnswer,
        finish: (count, parts) => {
          signal?.removeEventListener('abort', cancel)
          resolve({ count, parts })
        },
        fail: error => {
          signal?.removeEventListener('abort', cancel)
          reject(error)
        },
      }
      const cancel = () => this.cancel(job, signal!.reason as Error)
      signal?.addEventListener('abort', cancel, { once: true })
      this.waiting.add(job, context.person, options.task ?? context.task ?? '')
      void this.next()
    })
  }

  private async next(): Promise<void> {
    try {
      await this.open()
    } catch (error) {
      const why = new SourceError(`The source could not be opened: ${error instanceof Error ? error.message : String(error)}`)
      for (const job of this.waiting.clear()) job.fail(why)
      return
    }
    if (this.running || this.closed) return
    const job = this.waiting.next()
    if (!job) return
    const id = ++this.lastId
    const seconds = Math.round(job.timeLimit / 1000)
    const late = () =>
      job.request.kind !== 'write' &&
      this.giveUp(job, new SourceError(`The query took longer than ${seconds} seconds and was stopped; narrow it with a filter.`))
    this.running = { id, job, timer: setTimeout(late, job.timeLimit) }
    const { request } = job
    // a thread that was opened anew does not know the ports of the one before: its rows come by this one
    if (request.kind === 'query' && request.port !== undefined && !this.ports.has(request.port)) delete request.port
    this.worker!.postMessage({ id, ...request })
  }

  private answered(answer: Exclude<Answer, { kind: 'open' }>): void {
    const { running } = this
    if (!running || answer.id !== running.id) return
    if (answer.kind === 'rows') return running.unwanted ? undefined : running.job.onPart(answer.rows)
    clearTimeout(running.timer)
    this.running = undefined
    if (answer.kind === 'error') {
      running.job.fail(new SourceError(answer.refused ? answer.message : sentence(answer.message), answer.position))
      if (answer.unsound) return this.restart()
    } else if (answer.kind === 'done') running.job.finish(answer.count, answer.parts)
    else {
      running.job.onAnswer?.(answer)
      running.job.finish(0, 0)
    }
    void this.next()
  }

  private cancel(job: Job, reason: Error): void {
    const { running } = this
    if (running?.job === job) {
      if (running.unwanted) return
      clearTimeout(running.timer)
      running.unwanted = true
      Atomics.store(this.unwanted, 0, running.id)
      running.timer = setTimeout(() => this.giveUp(job, reason), patience)
      job.fail(reason)
    } else if (this.waiting.remove(job)) job.fail(reason)
  }

  /** Ends the thread in the middle of a question, and opens the engine anew. */
  private giveUp(job: Job, reason: Error): void {
    if (this.running?.job !== job) return
    clearTimeout(this.running.timer)
    this.running = undefined
    job.fail(reason)
    this.restart()
  }

  private restart(): void {
    const old = this.worker
    this.worker = undefined
    this.ports.clear()
    // the data folder must be let go before it is opened again
    this.ready = Promise.resolve(old?.terminate()).then(() => {
      this.ready = undefined
      return this.open()
    })
    void this.next()
  }

  private stopped(why: string): void {
    const { running } = this
    this.worker = undefined
    this.ports.clear()
    this.ready = undefined
    this.running = undefined
    if (!running) return
    clearTimeout(running.timer)
    running.job.fail(new SourceError(`The source engine stopped while reading (${why}); it was started again, run the report once more.`))
    void this.next()
  }
}

/** Does a request run what an author wrote? */
const isAuthored = (request: Request) => request.kind === 'describe' || (request.kind === 'query' && request.query.authored === true)

function sentence(message: string): string {
  return `The source answered: ${message.replace(/\.?$/, '.')}`
}
