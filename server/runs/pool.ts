import { MessageChannel } from 'node:worker_threads'
import { Piscina } from 'piscina'
import type { Page } from '../../core/compose/page'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { type Context, forTask } from '../access/context'
import { workerFile } from '../root'
import type { Sources } from '../sources/sources'
import type { RunChanges, StatementTrace } from '../../core/api/answers'
import { RunError, type RunInput } from './input'
import type { RunOutput } from './output'
import { type ReadingPorts, serveSnapshot } from './remote'
import type { KeptPages } from './spool'
import type { FigureWanted } from './statementTrace'
import type { CatalogReply, RunProgress, RunResult, RunTask, SentInput, TaskFailure } from './tasks'

let runs = 0

/** Threads in which runs are read, composed and written, so that the server's main thread stays free. */
export class RunPool {
  private readonly pool = new Piscina({ filename: workerFile('run'), minThreads: 1, maxThreads: 2, idleTimeout: 60_000 })
  constructor(private readonly sources: Sources) {}

  /** A thread is made ready before anybody waits for it. */
  warm(): void {
    void this.pool.run({ kind: 'warm' } satisfies RunTask).catch(() => {})
  }

  run(context: Context, input: RunInput, output: RunOutput, onProgress?: (progress: RunProgress) => void): Promise<RunResult> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'run', input: sent, output, ports }), onProgress) as Promise<RunResult>
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

  /** What is behind a figure of a statement. @throws RunError */
  trace(context: Context, input: RunInput, wanted: FigureWanted): Promise<StatementTrace> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'trace', input: sent, wanted, ports })) as Promise<StatementTrace>
  }

  /** What two runs of a report differ in. */
  async changes(input: RunInput, before: KeptPages, now: KeptPages): Promise<RunChanges> {
    return checked(await this.pool.run({ kind: 'changes', input, before, now } satisfies RunTask)) as RunChanges
  }

  /** Each document of kept pages as a PDF of its own, in a ZIP file. */
  async documents(title: string, kept: KeptPages, file: string): Promise<void> {
    checked(await this.pool.run({ kind: 'documents', title, kept, file } satisfies RunTask))
  }

  async pdf(title: string, kept: KeptPages, file: string): Promise<void> {
    checked(await this.pool.run({ kind: 'pdf', title, kept, file } satisfies RunTask))
  }

  async close(): Promise<void> {
    await this.pool.destroy()
  }

  /** A task that reads: all of it through one snapshot, with a turn of its own among the person's. */
  private async reading(
    context: Context,
    input: RunInput,
    task: (input: SentInput, ports: ReadingPorts) => RunTask,
    onProgress?: (progress: RunProgress) => void,
  ): Promise<unknown> {
    const stop = new AbortController()
    const { signal } = context
    const cancel = () => stop.abort(signal!.reason)
    signal?.addEventListener('abort', cancel, { once: true })
    if (signal?.aborted) cancel()
    const own = forTask(context, `run ${++runs}`, stop.signal)
    const snapshot = await this.sources.get(input.source).snapshot(own)
    const { port1: asks, port2: theirs } = new MessageChannel()
    try {
      const rows = serveSnapshot(asks, snapshot)
      asks.on('message', (message: RunProgress | { kind: 'catalog' }) => {
        if (message.kind === 'progress') onProgress?.(message)
        else if (message.kind === 'catalog') asks.postMessage({ kind: 'catalog', catalog: input.catalog } satisfies CatalogReply)
      })
      const { catalog: _, ...sent } = input
      const ports = { asks: theirs, rows }
      return checked(await this.pool.run(task(sent, ports), { transferList: [theirs, rows] as never[], signal: stop.signal }))
    } finally {
      signal?.removeEventListener('abort', cancel)
      asks.close()
      snapshot.close()
    }
  }
}

function checked(result: unknown): unknown {
  if (result && typeof result === 'object' && 'failed' in result) throw new RunError((result as TaskFailure).failed)
  return result
}
