import { randomUUID } from 'node:crypto'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { RunError, type RunInput } from './execute'
import type { RunChanges } from './changes'
import type { RunPool } from './pool'
import type { RunOutput, RunResult } from './run.worker'
import { readPages } from './spool'

/** A run whose pages are kept for a reader. */
export interface RunRecord {
  id: string
  /** id of the report that is run */
  report: string
  input: RunInput
  state: 'running' | 'done' | 'failed' | 'cancelled'
  /** where each page begins in its file; one more than there are pages */
  places: number[]
  outline: { page: number; label: string }[]
  startedAt: string
  result?: RunResult
  sentences?: string[]
  stop: AbortController
  file: string
  /** files made of it, or being made: they go on when whoever asked for them leaves */
  files: Map<string, RunFile>
  /** resolves whenever there is news */
  news: Promise<void>
  tell: () => void
}

/** A file of a run: its key says what was asked for. */
export interface RunFile {
  format: FileOutput['format']
  path: string
  state: 'making' | 'done' | 'failed'
  made: Promise<void>
}
/** What a run can be written as: its kept pages, or the rows read again with the same answers. */
export type FileOutput = { format: 'pdf' | 'zip' } | Rows<RunOutput>
type Rows<T> = T extends { format: 'xlsx' | 'csv' | 'json' | 'xml' | 'html' } ? Omit<T, 'file'> : never

/** Runs kept at once; the oldest go first. */
const kept = 20

/** Runs of readers: started, looked at while they grow, cancelled, and read page by page. */
export class RunRegistry {
  private readonly runs = new Map<string, RunRecord>()
  constructor(
    private readonly folder: string,
    private readonly pool: RunPool,
  ) {}

  start(input: RunInput, report = ''): RunRecord {
    const id = randomUUID()
    const run: RunRecord = {
      id,
      report,
      input,
      files: new Map(),
      state: 'running',
      places: [0],
      outline: [],
      startedAt: new Date().toISOString(),
      stop: new AbortController(),
      file: join(this.folder, `${id}.pages`),
      news: Promise.resolve(),
      tell: () => {},
    }
    const renew = () => {
      const tell = run.tell
      run.news = new Promise(resolve => (run.tell = resolve))
      tell()
    }
    renew()
    this.runs.set(id, run)
    this.forget()
    this.pool
      .run(
        input,
        { format: 'pages', file: run.file },
        {
          signal: run.stop.signal,
          onProgress: progress => {
            if (run.state !== 'running') return
            run.places.push(...(run.places.length === 1 && progress.places[0] === 0 ? progress.places.slice(1) : progress.places))
            run.outline.push(...progress.outline)
            renew()
          },
        },
      )
      .then(
        result => {
          run.places = result.kept!.places
          run.outline = result.kept!.outline
          run.result = result
          run.state = 'done'
        },
        (error: Error) => {
          run.state = run.stop.signal.aborted ? 'cancelled' : 'failed'
          run.sentences = error instanceof RunError ? error.sentences : [error.message]
        },
      )
      .finally(renew)
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

  /** All that are kept, the newest first. */
  list(): RunRecord[] {
    return [...this.runs.values()].reverse()
  }

  /** The finished run of the same report and layout before this one. */
  earlier(run: RunRecord): RunRecord | undefined {
    const list = this.list()
    return list
      .slice(list.indexOf(run) + 1)
      .find(each => each.report === run.report && each.state === 'done' && each.input.layout === run.input.layout)
  }

  /** A file of a finished run: made once, then kept as long as the run. */
  async written(run: RunRecord, output: FileOutput): Promise<string> {
    const key = JSON.stringify(output)
    let file = run.files.get(key)
    if (!file) {
      // a name of its own: one that failed before may have left its place
      const path = join(this.folder, `${run.id}.${randomUUID().slice(0, 8)}.${output.format}`)
      const made = this.write(run, output, path)
      file = { format: output.format, path, state: 'making', made }
      run.files.set(key, file)
      const own = file
      made.then(
        () => (own.state = 'done'),
        () => {
          own.state = 'failed'
          run.files.delete(key)
        },
      )
    }
    await file.made
    return file.path
  }

  /** What a run differs in from one before it. */
  changes(before: RunRecord, now: RunRecord): Promise<RunChanges> {
    return this.pool.changes(now.input, { pages: before.file, places: before.places }, { pages: now.file, places: now.places })
  }

  private async write(run: RunRecord, output: FileOutput, path: string): Promise<void> {
    if (output.format === 'pdf') await this.pool.pdf(run.input.name, run.file, run.places, path)
    else if (output.format === 'zip') await this.pool.documents(run.input.name, run.file, run.places, path)
    else await this.pool.run(run.input, { ...output, file: path } as RunOutput, { signal: this.stop.signal })
  }

  private readonly stop = new AbortController()

  close(): void {
    this.stop.abort(new Error('Estante was stopped.'))
    for (const run of this.runs.values()) if (run.state === 'running') run.stop.abort(new Error('Estante was stopped.'))
  }

  private forget(): void {
    for (const run of this.runs.values()) {
      if (this.runs.size <= kept) return
      if (run.state === 'running') continue
      this.runs.delete(run.id)
      for (const file of [run.file, ...[...run.files.values()].map(each => each.path)]) rmSync(file, { force: true })
    }
  }
}
