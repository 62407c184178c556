import { Piscina } from 'piscina'
import { setMaxListeners } from 'node:events'
import { MessageChannel, type MessagePort } from 'node:worker_threads'
import { type Context, forTask } from '../access/context'
import { workerFile } from '../root'
import type { Snapshot } from '../sources/contract'
import { RunError, type RunInput } from './input'
import { type ReadingPorts, serveSnapshot } from './remote'
import { signsLength, taskSigns } from './stop'
import {
  type CatalogAsked,
  type CatalogReply,
  type RunProgress,
  runsIn,
  type RunTask,
  type SentInput,
  sentInput,
  type TaskFailure,
} from './tasks'

let runs = 0

export interface ThreadLimits {
  /** how many there are: each is made ready before it is given anything, and none is made or ended while others work */
  threads: number
  /** what a thread may take; what needs more is refused, and takes nothing else down */
  megabytes: number
  /** how long it may go on after it was told to stop, in milliseconds */
  grace: number
  /** how long it may give no sign of life while nothing is read for it, in milliseconds */
  silence: number
}

/** What a task has beside itself: how it is told to stop, the ports that it asks by, and whether something is being read for it. */
interface TaskMeans {
  stop?: AbortController
  ports?: MessagePort[]
  reads?: () => boolean
}

interface MadePool {
  pool: Piscina
  ready: Promise<unknown>
  tasks: Set<Promise<unknown>>
}

/**
 * Threads that work on definitions and runs. A task is told to stop by a sign that its thread looks at; one is ended only where it does
 * not look for long. Threads load their files as modules, never by require: a thread of Node 20 that is ended in the middle of that
 * takes the process with it.
 */
export class Threads {
  private made: MadePool | undefined
  private readonly open = new Set<Promise<unknown>>()
  private readonly stops = new Set<(reason: Error) => void>()
  private closing = false

  constructor(private readonly limits: ThreadLimits) {}

  /** Begins the threads, where they have not begun: what has to be there first is not kept waiting by them. */
  warm(): void {
    void this.begun()
  }

  private begun(): MadePool {
    if (this.made) return this.made
    const { threads, megabytes } = this.limits
    const pool = new Piscina({
      filename: workerFile('run'),
      minThreads: threads,
      maxThreads: threads,
      execArgv: ['--no-experimental-require-module'],
      resourceLimits: { maxOldGenerationSizeMb: megabytes },
      atomics: 'disabled',
    })
    // all of them have loaded what they need
    const ready = Promise.all(Array.from({ length: threads }, () => pool.run({ kind: 'warm' } satisfies RunTask).catch(() => {})))
    return (this.made = { pool, ready, tasks: new Set() })
  }

  /** What is at work is told to stop; threads end when they have, or after a while. */
  async close(): Promise<void> {
    this.closing = true
    for (const stop of this.stops) stop(new RunError(['Estante was stopped.']))
    await Promise.all([this.made?.ready, ...this.open].map(each => Promise.resolve(each).catch(() => {})))
    await this.made?.pool.destroy()
  }

  busy(): boolean {
    return this.open.size > 0
  }

  /** A task over a report and its answers, with the port by which it asks for the catalog and reads a snapshot, where it has one. */
  async over(
    context: Context,
    input: RunInput,
    task: (input: SentInput, ports: ReadingPorts) => RunTask,
    { snapshots, onProgress }: { snapshots?: ReadonlyMap<string, Snapshot>; onProgress?: (progress: RunProgress) => void } = {},
  ): Promise<unknown> {
    const stop = new AbortController()
    setMaxListeners(0, stop.signal)
    const own = forTask(context, `run ${++runs}`, stop.signal)
    const { port1: asks, port2: theirs } = new MessageChannel()
    const ours = [asks]
    const ports: ReadingPorts = { asks: theirs, others: {} }
    let waiting = 0
    try {
      for (const [source, snapshot] of snapshots ?? []) {
        const channel = source === input.source ? undefined : new MessageChannel()
        if (channel) {
          ours.push(channel.port1)
          ports.others[source] = channel.port2
        }
        serveSnapshot(channel?.port1 ?? asks, snapshot, { task: own.task!, signal: stop.signal }, by => (waiting += by))
      }
      asks.on('message', (message: RunProgress | CatalogAsked) => {
        if (message.kind === 'progress') onProgress?.(message)
        else if (message.kind === 'catalog') {
          const { catalog } = runsIn(input).find(each => each.catalogVersion === message.version)!
          asks.postMessage({ ...message, catalog } satisfies CatalogReply)
        }
      })
      const theirPorts = [theirs, ...Object.values(ports.others)]
      return await this.task(context, task(sentInput(input), ports), { stop, ports: theirPorts, reads: () => waiting > 0 })
    } finally {
      for (const port of ours) port.close()
    }
  }

  /** Comes back when the thread is done with it, also where it was told to stop: then its files and snapshot can go. */
  async task(context: Context, task: RunTask, more: TaskMeans = {}): Promise<unknown> {
    if (this.closing) throw new RunError(['Estante is being stopped; start it again and run the report once more.'])
    const { megabytes, grace, silence } = this.limits
    const signs = new Int32Array(new SharedArrayBuffer(signsLength * Int32Array.BYTES_PER_ELEMENT))
    const end = new AbortController()
    const { signal } = context
    let reason: Error | undefined
    let late: NodeJS.Timeout | undefined
    const stop = (why: Error) => {
      if (reason) return
      reason = why
      Atomics.store(signs, taskSigns.stop, 1)
      more.stop?.abort(why)
      // one that has not begun looks at the sign as it begins
      late = setInterval(() => Atomics.load(signs, taskSigns.started) && end.abort(why), grace)
    }
    const cancel = () => stop(signal!.reason as Error)
    let [beats, since] = [0, Date.now()]
    const watch = setInterval(
      () => {
        const now = Atomics.load(signs, taskSigns.beats)
        if (now !== beats || more.reads?.() || !Atomics.load(signs, taskSigns.started)) [beats, since] = [now, Date.now()]
        else if (Date.now() - since > silence)
          stop(new RunError([`The report did not get on for ${silence / 1000} seconds and was stopped; make what it works out smaller.`]))
      },
      Math.min(5000, silence / 2),
    )
    watch.unref()
    this.stops.add(stop)
    signal?.addEventListener('abort', cancel, { once: true })
    if (signal?.aborted) cancel()
    setMaxListeners(0, end.signal)
    const made = this.begun()
    const done = made.pool.run({ ...task, signs }, { transferList: (more.ports ?? []) as never[], signal: end.signal })
    this.open.add(done)
    made.tasks.add(done)
    try {
      const result = await done
      if (reason) throw reason as Error
      return checked(result)
    } catch (error) {
      if (reason) throw reason as Error
      const { code } = error as NodeJS.ErrnoException
      if (code === 'ERR_WORKER_OUT_OF_MEMORY')
        throw new RunError([`The report needs more than ${megabytes / 1024} GB of memory and was stopped; make it smaller or filter it.`])
      if (!/^worker exited/.test((error as Error).message)) throw error
      this.leave(made)
      throw new ThreadEnded()
    } finally {
      this.open.delete(done)
      made.tasks.delete(done)
      this.stops.delete(stop)
      clearInterval(watch)
      clearInterval(late)
      signal?.removeEventListener('abort', cancel)
    }
  }

  /** A pool makes no further thread where one ended while it began: what comes next has a pool of its own, this one goes with its tasks. */
  private leave(made: MadePool): void {
    if (this.made !== made) return
    this.made = undefined
    void Promise.allSettled(made.tasks).then(() => made.pool.destroy())
  }
}

/** The thread that worked at it is gone, and not by our doing. */
export class ThreadEnded extends RunError {
  constructor() {
    super(['The thread that made this report was ended from outside; run it again.'])
  }
}

function checked(result: unknown): unknown {
  if (result && typeof result === 'object' && 'failed' in result) throw new RunError((result as TaskFailure).failed)
  return result
}
