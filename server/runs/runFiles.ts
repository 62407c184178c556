import { randomUUID } from 'node:crypto'
import { existsSync, rmSync } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { RunChanges, StatementTrace } from '../../core/api/answers'
import type { BehindFigure } from '../../core/compose/behind'
import { type Context, whose } from '../access/context'
import { StoreError } from '../store/records'
import type { RunRows } from '../store/runRows'
import type { FigurePlace } from './behind'
import type { RunOutput } from './output'
import type { RunPool } from './pool'
import type { RunFolder } from './runFolder'
import { type FileOutput, keptOf, pagesOf, type RunFile, type RunRecord } from './runRecord'
import { readPages } from './spool'
import type { FigureWanted } from './statementTrace'

/** What is read and made of the kept pages and rows of runs. */
export class RunFiles {
  constructor(
    private readonly rows: RunRows,
    private readonly folder: RunFolder,
    private readonly pool: RunPool,
  ) {}

  /** Files that are written down for a run are its own, as far as they are there. */
  found(run: RunRecord, files: unknown): void {
    for (const { key, format, name } of files as KeptFile[]) {
      const path = join(this.folder.of(run.id), name)
      if (existsSync(path)) run.files.set(key, { format, path, state: 'done', made: Promise.resolve() })
    }
  }

  /** JSON texts of pages `from` up to (not including) `to`, as far as they exist. */
  pages(_: Context, run: RunRecord, from: number, to: number): Promise<string[]> {
    if (run.places.length === 1 && run.early && from === 0 && to > 0) return Promise.resolve([run.early])
    const end = Math.min(to, run.places.length - 1)
    return from < end ? this.using([run], () => readPages(run.file, run.places, from, end)) : Promise.resolve([])
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
      const path = join(this.folder.of(run.id), `${randomUUID().slice(0, 8)}.${output.format}`)
      const made = this.write(context, run, output, path)
      file = { format: output.format, path, state: 'making', made }
      run.files.set(key, file)
      const own = file
      made.then(
        () => {
          own.state = 'done'
          void this.rows.change(run.id, { files: keptFiles(run) }).catch(() => {})
        },
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
    if (runs.some(run => run.gone)) notKept()
    for (const run of runs) run.readers++
    try {
      return await work()
    } finally {
      for (const run of runs) if (!--run.readers && run.gone) await this.folder.remove(run.id)
    }
  }

  private async write(context: Context, run: RunRecord, output: FileOutput, path: string): Promise<void> {
    const own: Context = { ...whose(context), signal: run.stop.signal }
    const pages = pagesOf(run)
    if (output.format === 'pdf') await this.pool.pdf(own, run.input.name, pages, path)
    else if (output.format === 'zip') await this.pool.documents(own, run.input.name, pages, path)
    else await this.pool.written(own, run.input, keptOf(run), { ...output, file: path } as RunOutput)
  }
}

interface KeptFile {
  key: string
  format: RunFile['format']
  name: string
}
const keptFiles = (run: RunRecord): KeptFile[] =>
  [...run.files].flatMap(([key, { format, path, state }]) => (state === 'done' ? [{ key, format, name: basename(path) }] : []))

export const notKept = (): never => {
  throw new StoreError('This run is not kept any more; run the report again.', 404)
}
