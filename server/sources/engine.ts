import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import type { Catalog } from '../../core/books/catalog'
import type { Query, Rows } from '../../core/sql/query'
import type { TableColumn } from '../../core/definition/tables'
import type { DeskDocument } from '../../demo/deskDocuments'
import { workerFile } from '../root'
import { joinRows, type PackedRows } from '../../core/value/packed'

/**
 * Something that a reader of the source is told in one sentence; `position` is the place in the statement that is meant, counted from 1.
 */
export class SourceError extends Error {
  constructor(
    message: string,
    readonly position?: number,
  ) {
    super(message)
  }
}

export interface QueryOptions {
  /** who asks: waiting queries take turns by client, so that none keeps the others waiting */
  client?: string
  /** most rows a statement may give */
  rowLimit?: number
  /** longest time it may run, in milliseconds */
  timeLimit?: number
  signal?: AbortSignal
  /** called for each part of the rows as it comes; without it they are collected */
  onPart?: (rows: PackedRows) => void
}

interface Job {
  request:
    | { kind: 'query'; query: Query; rowLimit: number }
    | { kind: 'catalog' }
    | { kind: 'describe'; text: string }
    | { kind: 'post'; document: DeskDocument }
  client: string
  timeLimit: number
  onPart: (rows: PackedRows) => void
  onAnswer?: (answer: Answer) => void
  finish: (count: number) => void
  fail: (error: Error) => void
}

type Answer =
  | { kind: 'open' }
  | { id: number; kind: 'rows'; rows: PackedRows }
  | { id: number; kind: 'done'; count: number }
  | { id: number; kind: 'catalog'; catalog: Catalog }
  | { id: number; kind: 'described'; columns: TableColumn[] }
  | { id: number; kind: 'posted'; number: string }
  | {
      id: number
      kind: 'error'
      message: string
      position?: number
      unsound?: boolean
      /** the message is a sentence of ours */ refused?: boolean
    }

export const defaultLimits = { rows: 2_000_000, milliseconds: 120_000 }

/**
 * The embedded source: a PGlite of its own in a worker thread. It answers one query at a time. A running query can only be stopped by
 * ending
 * the thread; it is then opened again and the waiting queries go on as if nothing had happened.
 */
export class SourceEngine {
  private worker: Worker | undefined
  private ready: Promise<void> | undefined
  private readonly waiting = new Map<string, Job[]>()
  private running: { id: number; job: Job; timer: NodeJS.Timeout } | undefined
  private lastId = 0
  private closed = false

  constructor(private readonly options: { folder: string; schema: string; demo?: { scale: number } }) {}

  /** Opens the engine; the first time it creates and fills the demo company if asked to. */
  open(): Promise<void> {
    return (this.ready ??= new Promise((resolve, reject) => {
      const worker = new Worker(workerFile('engine'), { workerData: this.options })
      this.worker = worker
      worker.on('message', (answer: Answer) => (answer.kind === 'open' ? resolve() : this.answered(answer)))
      worker.on('error', error => {
        reject(error)
        if (worker === this.worker) this.stopped(error.message)
      })
      worker.on('exit', () => {
        if (worker === this.worker && !this.closed) this.stopped('its thread ended')
      })
    }))
  }

  /** Runs a statement. @throws SourceError, or the signal's reason */
  query(query: Query, options: QueryOptions = {}): Promise<Rows> {
    const parts: PackedRows[] = []
    return this.ask(
      { kind: 'query', query, rowLimit: options.rowLimit ?? defaultLimits.rows },
      options,
      options.onPart ?? (rows => parts.push(rows)),
    ).then(count => (options.onPart ? { count, columns: [] } : joinRows(parts)))
  }

  async catalog(options: QueryOptions = {}): Promise<Catalog> {
    let found: Catalog | undefined
    await this.ask(
      { kind: 'catalog' },
      options,
      () => {},
      answer => (found = answer.kind === 'catalog' ? answer.catalog : undefined),
    )
    return found!
  }

  /** The columns that a statement would give; it is not run. */
  async describe(text: string, options: QueryOptions = {}): Promise<TableColumn[]> {
    let found: TableColumn[] = []
    await this.ask(
      { kind: 'describe', text },
      options,
      () => {},
      answer => (found = answer.kind === 'described' ? answer.columns : []),
    )
    return found
  }

  /**
   * Posts a journal entry of the company desk; it waits its turn and is never cut off. Comes back with the journal's number. @throws
   * SourceError
   */
  async post(document: DeskDocument): Promise<string> {
    let number = ''
    await this.ask(
      { kind: 'post', document },
      { client: 'desk' },
      () => {},
      answer => (number = answer.kind === 'posted' ? answer.number : ''),
    )
    return number
  }

  async close(): Promise<void> {
    this.closed = true
    await this.ready?.catch(() => {})
    await this.worker?.terminate()
  }

  private ask(request: Job['request'], options: QueryOptions, onPart: Job['onPart'], onAnswer?: Job['onAnswer']): Promise<number> {
    return new Promise((resolve, reject) => {
      const { signal } = options
      if (signal?.aborted) return reject(signal.reason as Error)
      const job: Job = {
        request,
        client: options.client ?? '',
        timeLimit: options.timeLimit ?? defaultLimits.milliseconds,
        onPart,
        onAnswer,
        finish: count => {
          signal?.removeEventListener('abort', cancel)
          resolve(count)
        },
        fail: error => {
          signal?.removeEventListener('abort', cancel)
          reject(error)
        },
      }
      const cancel = () => this.cancel(job, signal!.reason as Error)
      signal?.addEventListener('abort', cancel, { once: true })
      const queue = this.waiting.get(job.client)
      if (queue) queue.push(job)
      else this.waiting.set(job.client, [job])
      void this.next()
    })
  }

  private async next(): Promise<void> {
    try {
      await this.open()
    } catch (error) {
      for (const job of this.takeAll())
        job.fail(new SourceError(`The source could not be opened: ${error instanceof Error ? error.message : String(error)}`))
      return
    }
    if (this.running || this.closed) return
    // the client whose turn it is goes to the end of the line
    const turn = this.waiting.entries().next().value
    if (!turn) return
    const [client, queue] = turn
    const job = queue.shift()!
    this.waiting.delete(client)
    if (queue.length) this.waiting.set(client, queue)
    const id = ++this.lastId
    const seconds = Math.round(job.timeLimit / 1000)
    const { kind } = job.request
    this.running = {
      id,
      job,
      timer: setTimeout(
        () =>
          kind !== 'post' &&
          this.cancel(job, new SourceError(`The query took longer than ${seconds} seconds and was stopped; narrow it with a filter.`)),
        job.timeLimit,
      ),
    }
    this.worker!.postMessage({ id, ...job.request })
  }

  private answered(answer: Exclude<Answer, { kind: 'open' }>): void {
    const { running } = this
    if (!running || answer.id !== running.id) return
    if (answer.kind === 'rows') return running.job.onPart(answer.rows)
    clearTimeout(running.timer)
    this.running = undefined
    if (answer.kind === 'error') {
      running.job.fail(new SourceError(answer.refused ? answer.message : sentence(answer.message), answer.position))
      if (answer.unsound) return this.restart()
    } else if (answer.kind === 'catalog' || answer.kind === 'described' || answer.kind === 'posted') {
      running.job.onAnswer?.(answer)
      running.job.finish(0)
    } else running.job.finish(answer.count)
    void this.next()
  }

  private cancel(job: Job, reason: Error): void {
    if (this.running?.job === job) {
      clearTimeout(this.running.timer)
      this.running = undefined
      job.fail(reason)
      this.restart()
      return
    }
    const queue = this.waiting.get(job.client)
    const at = queue?.indexOf(job) ?? -1
    if (at < 0) return
    queue!.splice(at, 1)
    if (!queue!.length) this.waiting.delete(job.client)
    job.fail(reason)
  }

  private restart(): void {
    const old = this.worker
    this.worker = undefined
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
    this.ready = undefined
    this.running = undefined
    if (!running) return
    clearTimeout(running.timer)
    running.job.fail(new SourceError(`The source engine stopped while reading (${why}); it was started again, run the report once more.`))
    void this.next()
  }

  private takeAll(): Job[] {
    const all = [...this.waiting.values()].flat()
    this.waiting.clear()
    return all
  }
}

function sentence(message: string): string {
  return `The source answered: ${message.replace(/\.?$/, '.')}`
}

/** Folder of the demo company's database within a data folder. */
export function demoFolder(dataFolder: string): string {
  return join(dataFolder, 'sources', 'caisvelho')
}
