import { setMaxListeners } from 'node:events'
import { MessageChannel, type MessagePort } from 'node:worker_threads'
import { Piscina } from 'piscina'
import type { RunChanges, StatementTrace } from '../../core/api/answers'
import type { Page } from '../../core/compose/page'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { type Context, forTask } from '../access/context'
import { workerFile } from '../root'
import type { Snapshot } from '../sources/contract'
import type { Sources } from '../sources/sources'
import { RunError, type RunInput } from './input'
import type { KeptRead } from './keptRows'
import type { RunOutput } from './output'
import { type ReadingPorts, serveSnapshot } from './remote'
import type { KeptPages } from './spool'
import type { FigureWanted } from './statementTrace'
import { signsLength, taskSigns } from './stop'
import type { CatalogReply, RunProgress, RunResult, RunTask, SentInput, TaskFailure } from './tasks'

let runs = 0

/** How long a thread may go on after it was told to stop, and how long without a sign of life while nothing is read for it. */
const grace = 10_000
const longestSilence = 120_000
/** Memory of a thread: what needs more is refused, and takes nothing else down. */
const megabytes = 3072
/** Threads are made ready before they are given anything, and none is made or ended while others work. */
const threads = 2

/**
 * Threads in which runs are read, composed and written, so that the server's main thread stays free. A task is told to stop by a sign that
 * its thread looks at; a thread is ended only where it does not look for long. Threads load their files as modules, never by require: a
 * thread of Node 20 that is ended in the middle of that takes the process with it.
 */
export class RunPool {
  private readonly pool = new Piscina({
    filename: workerFile('run'),
    minThreads: threads,
    maxThreads: threads,
    execArgv: ['--no-experimental-require-module'],
    resourceLimits: { maxOldGenerationSizeMb: megabytes },
    atomics: 'disabled',
  })
  private readonly open = new Set<Promise<unknown>>()
  private closing = false
  /** all threads have loaded what they need */
  private readonly ready: Promise<unknown>

  constructor(private readonly sources: Sources) {
    this.ready = Promise.all(Array.from({ length: threads }, () => this.pool.run({ kind: 'warm' } satisfies RunTask).catch(() => {})))
  }

  run(context: Context, input: RunInput, output: RunOutput, onProgress?: (progress: RunProgress) => void): Promise<RunResult> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'run', input: sent, output, ports }), onProgress) as Promise<RunResult>
  }

  /** A file of rows that a run has kept: the source is not asked. */
  written(context: Context, input: RunInput, kept: KeptRead, output: RunOutput): Promise<RunResult> {
    return this.threaded(context, input, undefined, (sent, ports) => ({
      kind: 'run',
      input: sent,
      output,
      ports,
      kept,
    })) as Promise<RunResult>
  }

  /** The first records, packed: see packRows. */
  preview(context: Context, input: RunInput, limit: number): Promise<Uint8Array> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'preview', input: sent, limit, ports })) as Promise<Uint8Array>
  }

  /** The first page only; null where the run is empty. */
  firstPage(context: Context, input: RunInput): Promise<Page | null> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'firstPage', input: sent, ports })) as Promise<Page | null>
  }

  /** What the tie-outs of a report come to. */
  tieOuts(context: Context, input: RunInput): Promise<TieOutResult[]> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'tieOuts', input: sent, ports })) as Promise<TieOutResult[]>
  }

  /** What is behind a figure of a statement, as it is now or as a run has kept it. @throws RunError */
  trace(context: Context, input: RunInput, wanted: FigureWanted, kept?: KeptRead): Promise<StatementTrace> {
    return this.reading(context, input, (sent, ports) => ({
      kind: 'trace',
      input: sent,
      wanted,
      ports,
      ...(kept ? { kept } : {}),
    })) as Promise<StatementTrace>
  }

  /** What two runs of a report differ in. */
  changes(context: Context, input: RunInput, before: KeptPages, now: KeptPages): Promise<RunChanges> {
    return this.task(context, { kind: 'changes', input, before, now }) as Promise<RunChanges>
  }

  /** Each document of kept pages as a PDF of its own, in a ZIP file. */
  async documents(context: Context, title: string, kept: KeptPages, file: string): Promise<void> {
    await this.task(context, { kind: 'documents', title, kept, file })
  }

  async pdf(context: Context, title: string, kept: KeptPages, file: string): Promise<void> {
    await this.task(context, { kind: 'pdf', title, kept, file })
  }

  /** What is at work is told to stop; threads end when they have, or after a while. */
  async close(): Promise<void> {
    this.closing = true
    for (const stop of this.stops) stop(new Error('Estante was stopped.'))
    await Promise.all([this.ready, ...this.open].map(each => Promise.resolve(each).catch(() => {})))
    await this.pool.destroy()
  }

  /** A task that reads: all of it through one snapshot, with a turn of its own among the person's. */
  private async reading(
    context: Context,
    input: RunInput,
    task: (input: SentInput, ports: ReadingPorts) => RunTask,
    onProgress?: (progress: RunProgress) => void,
  ): Promise<unknown> {
    const snapshot = await this.sources.get(input.source).snapshot(context)
    try {
      return await this.threaded(context, input, snapshot, task, onProgress)
    } finally {
      snapshot.close()
    }
  }

  /** A task with the ports that it asks by. */
  private async threaded(
    context: Context,
    input: RunInput,
    snapshot: Snapshot | undefined,
    task: (input: SentInput, ports: ReadingPorts) => RunTask,
    onProgress?: (progress: RunProgress) => void,
  ): Promise<unknown> {
    const stop = new AbortController()
    setMaxListeners(0, stop.signal)
    const own = forTask(context, `run ${++runs}`, stop.signal)
    const { port1: asks, port2: theirs } = new MessageChannel()
    let waiting = 0
    try {
      if (snapshot) serveSnapshot(asks, snapshot, { task: own.task!, signal: stop.signal }, by => (waiting += by))
      asks.on('message', (message: RunProgress | { kind: 'catalog' }) => {
        if (message.kind === 'progress') onProgress?.(message)
        else if (message.kind === 'catalog') asks.postMessage({ kind: 'catalog', catalog: input.catalog } satisfies CatalogReply)
      })
      const { catalog: _, ...sent } = input
      return await this.task(context, task(sent, { asks: theirs }), { stop, ports: [theirs], reads: () => waiting > 0 })
    } finally {
      asks.close()
    }
  }

  private readonly stops = new Set<(reason: Error) => void>()

  /** Comes back when the thread is done with it, also where it was told to stop: then its files and snapshot can go. */
  private async task(
    context: Context,
    task: RunTask,
    more: { stop?: AbortController; ports?: MessagePort[]; reads?: () => boolean } = {},
  ): Promise<unknown> {
    if (this.closing) throw new RunError(['Estante is being stopped; start it again and run the report once more.'])
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
    const watch = setInterval(() => {
      const now = Atomics.load(signs, taskSigns.beats)
      if (now !== beats || more.reads?.() || !Atomics.load(signs, taskSigns.started)) [beats, since] = [now, Date.now()]
      else if (Date.now() - since > longestSilence)
        stop(
          new RunError([`The report did not get on for ${longestSilence / 1000} seconds and was stopped; make what it works out smaller.`]),
        )
    }, 5000)
    watch.unref()
    this.stops.add(stop)
    signal?.addEventListener('abort', cancel, { once: true })
    if (signal?.aborted) cancel()
    const done = this.pool.run({ ...task, signs }, { transferList: (more.ports ?? []) as never[], signal: end.signal })
    this.open.add(done)
    try {
      const result = await done
      if (reason) throw reason as Error
      return checked(result)
    } catch (error) {
      if (reason) throw reason as Error
      const { code } = error as NodeJS.ErrnoException
      if (code === 'ERR_WORKER_OUT_OF_MEMORY')
        throw new RunError([`The report needs more than ${megabytes / 1024} GB of memory and was stopped; narrow it with a filter.`])
      throw error
    } finally {
      this.open.delete(done)
      this.stops.delete(stop)
      clearInterval(watch)
      clearInterval(late)
      signal?.removeEventListener('abort', cancel)
    }
  }
}

function checked(result: unknown): unknown {
  if (result && typeof result === 'object' && 'failed' in result) throw new RunError((result as TaskFailure).failed)
  return result
}
