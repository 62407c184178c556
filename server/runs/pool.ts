import { MessageChannel } from 'node:worker_threads'
import { Piscina } from 'piscina'
import type { Page } from '../../core/compose/page'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { workerFile } from '../root'
import type { SourceEngine } from '../sources/engine'
import { RunError, type RunInput } from './execute'
import { serveEngine } from './remote'
import type { RunChanges } from './changes'
import type { KeptPages } from './spool'
import type { RunOutput, RunProgress, RunResult, RunTask, TaskFailure } from './run.worker'

let clients = 0

/** Threads in which runs are composed and written, so that the server's main thread stays free. */
export class RunPool {
  private readonly pool = new Piscina({ filename: workerFile('run'), minThreads: 1, maxThreads: 2, idleTimeout: 60_000 })
  constructor(private readonly engine: SourceEngine) {}

  run(
    input: RunInput,
    output: RunOutput,
    options: { signal?: AbortSignal; onProgress?: (progress: RunProgress) => void } = {},
  ): Promise<RunResult> {
    return this.withEngine(port => ({ kind: 'run', input, output, port }), options) as Promise<RunResult>
  }

  /** JSON bytes of the first records. */
  preview(input: RunInput, limit: number, signal?: AbortSignal): Promise<Uint8Array> {
    return this.withEngine(port => ({ kind: 'preview', input, limit, port }), { signal }) as Promise<Uint8Array>
  }

  /** The first page only; null where the run is empty. */
  firstPage(input: RunInput): Promise<Page | null> {
    return this.withEngine(port => ({ kind: 'firstPage', input, port }), {}) as Promise<Page | null>
  }

  /** What the tie-outs of a report come to. */
  tieOuts(input: RunInput, signal?: AbortSignal): Promise<TieOutResult[]> {
    return this.withEngine(port => ({ kind: 'tieOuts', input, port }), { signal }) as Promise<TieOutResult[]>
  }

  /** What two runs of a report differ in. */
  async changes(input: RunInput, before: KeptPages, now: KeptPages): Promise<RunChanges> {
    return checked(await this.pool.run({ kind: 'changes', input, before, now } satisfies RunTask)) as RunChanges
  }

  /** Each document of kept pages as a PDF of its own, in a ZIP file. */
  async documents(title: string, pages: string, places: readonly number[], file: string): Promise<void> {
    checked(await this.pool.run({ kind: 'documents', title, pages, places: [...places], file } satisfies RunTask))
  }

  async pdf(title: string, pages: string, places: readonly number[], file: string): Promise<void> {
    checked(await this.pool.run({ kind: 'pdf', title, pages, places: [...places], file } satisfies RunTask))
  }

  async close(): Promise<void> {
    await this.pool.destroy()
  }

  private async withEngine(
    task: (port: MessagePort) => RunTask,
    options: { signal?: AbortSignal; onProgress?: (progress: RunProgress) => void },
  ): Promise<unknown> {
    const { port1, port2 } = new MessageChannel()
    const stop = new AbortController()
    const { signal } = options
    const cancel = () => stop.abort(signal!.reason)
    signal?.addEventListener('abort', cancel, { once: true })
    if (signal?.aborted) cancel()
    serveEngine(port1 as never, this.engine, { client: `run ${++clients}`, signal: stop.signal })
    port1.on('message', (message: RunProgress) => {
      if (message.kind === 'progress') options.onProgress?.(message)
    })
    try {
      return checked(await this.pool.run(task(port2 as never), { transferList: [port2 as never], signal: stop.signal }))
    } finally {
      signal?.removeEventListener('abort', cancel)
      port1.close()
    }
  }
}

type MessagePort = import('node:worker_threads').MessagePort

function checked(result: unknown): unknown {
  if (result && typeof result === 'object' && 'failed' in result) throw new RunError((result as TaskFailure).failed)
  return result
}
