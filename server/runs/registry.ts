import { randomUUID } from 'node:crypto'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { RunError, type RunInput } from './execute'
import type { RunPool } from './pool'
import type { RunResult } from './run.worker'
import { readPages } from './spool'

/** A run whose pages are kept for a reader. */
export interface RunRecord {
  id: string
  input: RunInput
  state: 'running' | 'done' | 'failed' | 'cancelled'
  /** where each page begins in its file; one more than there are pages */
  places: number[]
  outline: { page: number, label: string }[]
  startedAt: string
  result?: RunResult
  sentences?: string[]
  stop: AbortController
  file: string
  /** resolves whenever there is news */
  news: Promise<void>
  tell: () => void
}

/** Runs kept at once; the oldest go first. */
const kept = 20

/** Runs of readers: started, looked at while they grow, cancelled, and read page by page. */
export class RunRegistry {
  private readonly runs = new Map<string, RunRecord>()
  constructor(private readonly folder: string, private readonly pool: RunPool) {}

  start(input: RunInput): RunRecord {
    const id = randomUUID()
    const run: RunRecord = { id, input, state: 'running', places: [0], outline: [], startedAt: new Date().toISOString(), stop: new AbortController(), file: join(this.folder, `${id}.pages`), news: Promise.resolve(), tell: () => {} }
    const renew = () => {
      const tell = run.tell
      run.news = new Promise(resolve => run.tell = resolve)
      tell()
    }
    renew()
    this.runs.set(id, run)
    this.forget()
    this.pool.run(input, { format: 'pages', file: run.file }, {
      signal: run.stop.signal,
      onProgress: (progress) => {
        if (run.state !== 'running') return
        run.places.push(...(run.places.length === 1 && progress.places[0] === 0 ? progress.places.slice(1) : progress.places))
        run.outline.push(...progress.outline)
        renew()
      },
    }).then((result) => {
      run.places = result.kept!.places
      run.outline = result.kept!.outline
      run.result = result
      run.state = 'done'
    }, (error: Error) => {
      run.state = run.stop.signal.aborted ? 'cancelled' : 'failed'
      run.sentences = error instanceof RunError ? error.sentences : [error.message]
    }).finally(renew)
    return run
  }

  get(id: string): RunRecord | undefined {
    return this.runs.get(id)
  }

  cancel(id: string): void {
    this.runs.get(id)?.stop.abort(new Error('The run was cancelled.'))
  }

  /** JSON texts of pages `from` up to (not including) `to`, as far as they exist. */
  pages(run: RunRecord, from: number, to: number): Promise<string[]> {
    const end = Math.min(to, run.places.length - 1)
    return from < end ? readPages(run.file, run.places, from, end) : Promise.resolve([])
  }

  /** Writes the kept pages as a PDF and gives its file. */
  async pdf(run: RunRecord): Promise<string> {
    const file = join(this.folder, `${run.id}.pdf`)
    await this.pool.pdf(run.input.name, run.file, run.places, file)
    return file
  }

  /** Writes each document as a PDF of its own into a ZIP file and gives that file. */
  async documents(run: RunRecord): Promise<string> {
    const file = join(this.folder, `${run.id}.zip`)
    await this.pool.documents(run.input.name, run.file, run.places, file)
    return file
  }

  close(): void {
    for (const run of this.runs.values()) if (run.state === 'running') run.stop.abort(new Error('Estante was stopped.'))
  }

  private forget(): void {
    for (const run of this.runs.values()) {
      if (this.runs.size <= kept) return
      if (run.state === 'running') continue
      this.runs.delete(run.id)
      for (const ending of ['pages', 'pdf', 'zip']) rmSync(join(this.folder, `${run.id}.${ending}`), { force: true })
    }
  }
}
