import type { Output } from '../../core/api/outputs'
import { type Context, whose } from '../access/context'
import { randomUUID } from 'node:crypto'
import { rmSync } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { join } from 'node:path'
import { RunError, type RunInput } from './input'
import type { RunChanges, StatementTrace } from '../../core/api/answers'
import { StoreError } from '../store/records'
import type { FigureWanted } from './statementTrace'
import type { BehindFigure } from '../../core/compose/behind'
import type { FigurePlace } from './behind'
import { type KeptRead, rowsFile } from './keptRows'
import type { RunPool } from './pool'
import type { RunOutput } from './output'
import type { RunResult } from './tasks'
import { readPages } from './spool'

/** A run whose pages are kept for a reader. */
export interface RunRecord {
  id: string
  /** who runs it */
  person: string
  context: Context
  /** id of the report that is run */
  report: string
  input: RunInput
  state: 'running' | 'done' | 'failed' | 'cancelled'
  /** where each page begins in its file; one more than there are pages */
  places: number[]
  /** the JSON text of the first page, as long as no page is in the file */
  early?: string
  outline: { page: number; label: string }[]
  startedAt: string
  result?: RunResult
  sentences?: string[]
  stop: AbortController
  file: string
  /** how many read its files just now, and whether they go when the last of them is done */
  readers: number
  gone: boolean
  /** files made of it, or being made: they go on when whoever asked for them leaves */
  files: Map<string, RunFile>
  /** resolves when it has ended, however it did */
  over: Promise<void>
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
export type FileOutput = Exclude<Output, { format: 'svg' }>

/** The rows that a run has kept. */
export const keptOf = (run: RunRecord): KeptRead => ({ file: rowsFile(run.file), places: run.result!.kept!.rows })

const pagesOf = (run: RunRecord) => ({ pages: run.file, places: run.places })

/** Runs kept at once; the oldest go first. */
const kept = 20

function removeFiles(run: RunRecord): void {
  for (const file of [run.file, rowsFile(run.file), ...[...run.files.values()].map(each => each.path)]) rmSync(file, { force: true })
}

/** Runs of readers: started, looked at while they grow, cancelled, and read page by page. */
export class RunRegistry {
  private readonly runs = new Map<string, RunRecord>()
  constructor(
    private readonly folder: string,
    private readonly pool: RunPool,
    /** do they see what was read? */
    private readonly seesRows: (context: Context, input: RunInput) => Promise<boolean> = () => Promise.resolve(true),
  ) {}

  start(context: Context, input: RunInput, report = ''): RunRecord {
    const id = randomUUID()
    const run: RunRecord = {
      id,
      person: context.person,
      context: whose(context),
      report,
      input,
      files: new Map(),
      state: 'running',
      places: [0],
      outline: [],
      startedAt: new Date().toISOString(),
      stop: new AbortController(),
      file: join(this.folder, `${id}.pages`),
      readers: 0,
      gone: false,
      over: Promise.resolve(),
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
    run.over = this.pool
      .run({ ...whose(context), signal: run.stop.signal }, input, { format: 'pages', file: run.file }, progress => {
        if (run.state !== 'running') return
        run.places.push(...(run.places.length === 1 && progress.places[0] === 0 ? progress.places.slice(1) : progress.places))
        run.outline.push(...progress.outline)
        if (progress.early) run.early = progress.early
        renew()
      })
      .then(
        result => {
          run.places = result.kept!.places
          run.outline = result.kept!.outline
          run.result = result
          if (result.changed) run.input = { ...run.input, definition: result.changed.definition }
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

  /** How many pages can be shown, and whether the one there is came before its time: see earlyPage. */
  shown({ places, early }: RunRecord): { pages: number; early: boolean } {
    const pages = places.length - 1
    return pages || !early ? { pages, early: false } : { pages: 1, early: true }
  }

  /** The name of a file that is gone as soon as it is sent. */
  passingFile(): string {
    return join(this.folder, `${randomUUID()}.passing`)
  }

  /** Is it theirs to see: their own, or, for an administrator, anybody's, and nothing in it that guards would hide from them now? */
  private async sees(context: Context, run: RunRecord): Promise<boolean> {
    const { signedIn } = context
    if (!signedIn) return true
    return (signedIn.role === 'administrator' || run.person === signedIn.id) && this.seesRows(context, run.input)
  }

  async get(context: Context, id: string): Promise<RunRecord | undefined> {
    const run = this.runs.get(id)
    return run && (await this.sees(context, run)) ? run : undefined
  }

  async cancel(context: Context, id: string): Promise<void> {
    ;(await this.get(context, id))?.stop.abort(new RunError(['The run was cancelled.']))
  }

  /** Stops what may not go on. */
  async recheck(mayGoOn: (run: RunRecord) => Promise<boolean>): Promise<void> {
    const running = [...this.runs.values()].filter(run => run.state === 'running')
    await Promise.all(
      running.map(async run => {
        if (!(await mayGoOn(run)))
          run.stop.abort(new RunError(['Your rights were changed while this ran, so it was stopped; run the report again.']))
      }),
    )
  }

  /** JSON texts of pages `from` up to (not including) `to`, as far as they exist. */
  pages(_: Context, run: RunRecord, from: number, to: number): Promise<string[]> {
    if (run.places.length === 1 && run.early && from === 0 && to > 0) return Promise.resolve([run.early])
    const end = Math.min(to, run.places.length - 1)
    return from < end ? this.using([run], () => readPages(run.file, run.places, from, end)) : Promise.resolve([])
  }

  /** All that are kept, the newest first. */
  async list(context: Context): Promise<RunRecord[]> {
    const all = [...this.runs.values()]
    const seen = await Promise.all(all.map(run => this.sees(context, run)))
    return all.filter((_, at) => seen[at]).reverse()
  }

  /** The finished run of the same report and layout before this one. */
  async earlier(context: Context, run: RunRecord): Promise<RunRecord | undefined> {
    const list = await this.list(context)
    return list
      .slice(list.indexOf(run) + 1)
      .find(each => each.report === run.report && each.state === 'done' && each.input.layout === run.input.layout)
  }

  /** A file of a finished run, opened: made once, then kept as long as the run. */
  async written(context: Context, run: RunRecord, output: FileOutput): Promise<FileHandle> {
    return this.using([run], async () => open(await this.made(context, run, output)))
  }

  private async made(context: Context, run: RunRecord, output: FileOutput): Promise<string> {
    const key = JSON.stringify(output)
    let file = run.files.get(key)
    if (!file) {
      // a name of its own: one that failed before may have left its place
      const path = join(this.folder, `${run.id}.${randomUUID().slice(0, 8)}.${output.format}`)
      const made = this.write(context, run, output, path)
      file = { format: output.format, path, state: 'making', made }
      run.files.set(key, file)
      const own = file
      made.then(
        () => void (own.state = 'done'),
        () => {
          own.state = 'failed'
          run.files.delete(key)
          rmSync(path, { force: true })
        },
      )
    }
    await file.made
    return file.path
  }

  /** What a run differs in from one before it. */
  changes(context: Context, before: RunRecord, now: RunRecord): Promise<RunChanges> {
    return this.using([before, now], () => this.pool.changes(context, now.input, pagesOf(before), pagesOf(now)))
  }

  /** Pages on which a run draws anything else than one before it. */
  differingPages(context: Context, before: RunRecord, now: RunRecord): Promise<number[]> {
    return this.using([before, now], () => this.pool.differingPages(context, pagesOf(before), pagesOf(now)))
  }

  /** What is behind a figure of a statement on the pages of a finished run. */
  trace(context: Context, run: RunRecord, wanted: FigureWanted): Promise<StatementTrace> {
    return this.using([run], () => this.pool.trace(context, run.input, wanted, keptOf(run)))
  }

  /** The records behind a figure on a page of a finished run. @throws RunError where it is not on the page */
  behind(context: Context, run: RunRecord, wanted: FigurePlace): Promise<BehindFigure[]> {
    return this.using([run], () => this.pool.behind(context, run.input, wanted, keptOf(run), pagesOf(run)))
  }

  /** Work that reads the files of runs: they stay until it is done. @throws StoreError where one is gone already */
  private async using<T>(runs: readonly RunRecord[], work: () => Promise<T>): Promise<T> {
    if (runs.some(run => run.gone)) throw new StoreError('This run is not kept any more; run the report again.', 404)
    for (const run of runs) run.readers++
    try {
      return await work()
    } finally {
      for (const run of runs) if (!--run.readers && run.gone) removeFiles(run)
    }
  }

  private async write(context: Context, run: RunRecord, output: FileOutput, path: string): Promise<void> {
    const own: Context = { ...whose(context), signal: run.stop.signal }
    const pages = pagesOf(run)
    if (output.format === 'pdf') await this.pool.pdf(own, run.input.name, pages, path)
    else if (output.format === 'zip') await this.pool.documents(own, run.input.name, pages, path)
    else await this.pool.written(own, run.input, keptOf(run), { ...output, file: path } as RunOutput)
  }

  close(): void {
    for (const run of this.runs.values()) run.stop.abort(new RunError(['Estante was stopped.']))
  }

  private forget(): void {
    for (const run of this.runs.values()) {
      if (this.runs.size <= kept) return
      if (run.state === 'running') continue
      this.runs.delete(run.id)
      run.gone = true
      if (!run.readers) removeFiles(run)
    }
  }
}
