import { MessageChannel, Worker } from 'node:worker_threads'
import type { Catalog } from '../../../core/books/catalog'
import type { TableColumn } from '../../../core/definition/tables'
import type { Query, Rows } from '../../../core/sql/query'
import type { Day } from '../../../core/value/date'
import { joinRows, type PackedRows } from '../../../core/value/packed'
import type { Context } from '../../access/context'
import { workerFile } from '../../root'
import { defaultLimits, type QueryOptions, type Snapshot, type Source, type SourceAbout, SourceError, type SourceState } from '../contract'
import { Turns } from '../embedded/turns'
import { placeOf, type ServerAddress } from './address'
import type { ServerAnswer, ServerRequest, ServerThreadData } from './serverThread'
import { liveSchema } from './words'

/** What a server is added with. */
export interface ServerOptions {
  id: string
  name: string
  address: ServerAddress
  /** opened where it is needed, so that one that cannot be opened is said there */
  password?: () => string
  /** schemas that are read; tables of the first are called without it */
  schemas: string[]
  /** the schema by which our statements name its tables, where it is not that of servers that are read in place */
  called?: string
  /** zone in which its moments are shown */
  zone: string
  clock: () => Day
}

/** Moments of one server that are open at a time; whoever wants one more waits, person by person. */
const mostMoments = 8

interface Waiting {
  onAnswer: (answer: ServerAnswer) => void
  fail: (error: Error) => void
}

type Without<T> = T extends { id: number } ? Omit<T, 'id'> : never

/** A PostgreSQL server, read in place: a thread of its own holds its connections and decodes their rows. */
export class ServerSource implements Source {
  readonly kind = 'server'
  readonly dialect = 'postgresql'
  readonly schema: string
  readonly id: string
  readonly name: string
  readonly clock: () => Day
  private worker: Worker | undefined
  private readonly asked = new Map<number, Waiting>()
  private lastId = 0
  private moments = 0
  private readonly queue = new Turns<() => void>()
  private away: SourceState['away']
  private closed = false
  private leaving = false

  constructor(private readonly options: ServerOptions) {
    ;({ id: this.id, name: this.name, clock: this.clock, called: this.schema = liveSchema } = options)
  }

  async open(): Promise<void> {}

  made(): boolean {
    return true
  }

  state(): SourceState {
    return this.away ? { away: this.away } : {}
  }

  about(): SourceAbout {
    return { from: placeOf(this.options.address) }
  }

  async catalog(context: Context): Promise<Catalog> {
    const answer = await this.ask({ kind: 'catalog' }, context.signal)
    return (answer as ServerAnswer & { kind: 'catalog' }).catalog
  }

  /** A transaction of the server: all that is read through it is of the same moment (rule 42 of the semantics). */
  async snapshot(context: Context): Promise<Snapshot> {
    await this.place(context)
    const number = ++this.lastId
    let open = true
    const ports: number[] = []
    const close = () => {
      if (!open) return
      open = false
      for (const id of ports) this.worker?.postMessage({ id, kind: 'portClosed' })
      this.worker?.postMessage({ id: number, kind: 'end' } satisfies ServerRequest)
      this.moments--
      this.queue.next()?.()
      if (this.leaving && !this.moments) void this.close()
    }
    try {
      await this.ask({ kind: 'begin', snapshot: number }, context.signal)
    } catch (error) {
      close()
      throw error
    }
    const query = async (port: number | undefined, asked: Query, options: QueryOptions, onPart: (rows: PackedRows) => void) => {
      const rowLimit = options.rowLimit ?? defaultLimits.rows
      const answer = await this.timed(
        { kind: 'query', snapshot: number, query: asked, rowLimit, ...(port === undefined ? {} : { port }) },
        context,
        options,
        asked.authored === true,
        onPart,
      )
      return answer as ServerAnswer & { kind: 'done' }
    }
    return {
      moment: Date.now(),
      query: async (asked, options = {}): Promise<Rows> => {
        const parts: PackedRows[] = []
        await query(undefined, asked, options, options.onPart ?? (rows => parts.push(rows)))
        return options.onPart ? { count: 0, columns: [] } : joinRows(parts)
      },
      describe: async (text, options = {}): Promise<TableColumn[]> => {
        const answer = await this.timed(
          { kind: 'describe', snapshot: number, text, ...(options.shown ? { shown: options.shown } : {}) },
          context,
          options,
          true,
        )
        return (answer as ServerAnswer & { kind: 'described' }).columns
      },
      queryTo: async (port, asked, options) => ({ parts: (await query(port, asked, options, options.onPart ?? (() => {}))).parts }),
      port: () => {
        const id = ++this.lastId
        const { port1, port2 } = new MessageChannel()
        ports.push(id)
        this.thread().postMessage({ id, kind: 'port', port: port1 } satisfies ServerRequest, [port1])
        return { number: id, port: port2 }
      },
      close,
    }
  }

  /** Another takes its place: it closes once nobody reads it any more. */
  leave(): void {
    this.leaving = true
    if (!this.moments) void this.close()
  }

  async close(): Promise<void> {
    this.closed = true
    const { worker } = this
    this.worker = undefined
    await worker?.terminate()
  }

  /** Waits until a moment more may be opened. */
  private async place(context: Context): Promise<void> {
    if (this.moments >= mostMoments)
      await new Promise<void>((resolve, reject) => {
        const mine = () => {
          context.signal?.removeEventListener('abort', gone)
          resolve()
        }
        const gone = () => this.queue.remove(mine) && reject(context.signal!.reason as Error)
        context.signal?.addEventListener('abort', gone, { once: true })
        this.queue.add(mine, context.person, context.task ?? '')
      })
    this.moments++
  }

  private thread(): Worker {
    if (this.worker) return this.worker
    const { address, password, schemas, zone } = this.options
    const data: ServerThreadData = {
      address,
      schemas,
      called: this.schema,
      zone,
      ...(password === undefined ? {} : { password: password() }),
    }
    const worker = new Worker(workerFile('server'), { workerData: data })
    const ended = (why: string) => {
      if (this.worker !== worker) return
      this.worker = undefined
      const waiting = [...this.asked.values()]
      this.asked.clear()
      for (const { fail } of waiting)
        fail(new SourceError(`Reading “${this.name}” stopped (${why}); it was started again, run the report once more.`))
    }
    worker.on('error', error => ended(error.message))
    worker.on('exit', () => ended(this.closed ? 'the program is closing' : 'its thread ended'))
    worker.on('message', (answer: ServerAnswer) => this.asked.get(answer.id)?.onAnswer(answer))
    return (this.worker = worker)
  }

  /** A question with its longest time. @throws SourceError, or the signal's reason */
  private async timed(
    request: Without<ServerRequest>,
    context: Context,
    options: QueryOptions,
    authored: boolean,
    onPart?: (rows: PackedRows) => void,
  ): Promise<ServerAnswer> {
    const limit = Math.min(options.timeLimit ?? defaultLimits.milliseconds, authored ? defaultLimits.authored : defaultLimits.milliseconds)
    const late = new AbortController()
    const timer = setTimeout(
      () =>
        late.abort(
          new SourceError(`The query took longer than ${Math.round(limit / 1000)} seconds and was stopped; narrow it with a filter.`),
        ),
      limit,
    )
    const signal = options.signal ?? context.signal
    try {
      return await this.ask(request, signal ? AbortSignal.any([signal, late.signal]) : late.signal, onPart)
    } finally {
      clearTimeout(timer)
    }
  }

  private ask(request: Without<ServerRequest>, signal?: AbortSignal, onPart?: (rows: PackedRows) => void): Promise<ServerAnswer> {
    return new Promise((resolve, reject) => {
      if (signal?.aborted) return reject(signal.reason as Error)
      const id = ++this.lastId
      const done = () => {
        this.asked.delete(id)
        signal?.removeEventListener('abort', cancel)
      }
      const cancel = () => {
        done()
        this.worker?.postMessage({ id, kind: 'cancel' } satisfies ServerRequest)
        reject(signal!.reason as Error)
      }
      const worker = this.thread()
      signal?.addEventListener('abort', cancel, { once: true })
      this.asked.set(id, {
        onAnswer: answer => {
          if (answer.kind === 'rows') return onPart?.(answer.rows)
          done()
          if (answer.kind === 'error') return reject(this.fault(answer))
          this.away = undefined
          resolve(answer)
        },
        fail: error => {
          done()
          reject(error)
        },
      })
      worker.postMessage({ id, ...request })
    })
  }

  private fault(answer: ServerAnswer & { kind: 'error' }): SourceError {
    if (answer.unreached) {
      this.away = { since: this.away?.since ?? Date.now(), why: `“${this.name}” cannot be read. ${answer.message}` }
      return new SourceError(`${this.away.why} It is away since ${clockTime(this.away.since)}.`)
    }
    if (answer.lost)
      return new SourceError(`“${this.name}” broke off while it was read (${answer.message.replace(/\.$/, '')}); run the report once more.`)
    return new SourceError(answer.ours ? answer.message : `The source answered: ${answer.message.replace(/\.?$/, '.')}`, answer.position)
  }
}

/** Hour and minute of this machine's clock; with the day, where it is another. */
function clockTime(at: number): string {
  const date = new Date(at)
  const two = (value: number) => String(value).padStart(2, '0')
  const time = `${two(date.getHours())}:${two(date.getMinutes())}`
  const today = date.toDateString() === new Date().toDateString()
  return today ? time : `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${time}`
}
