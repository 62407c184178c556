import type { RunChanges, StatementTrace } from '../../core/api/answers'
import type { Page } from '../../core/compose/page'
import type { TieOutResult } from '../../core/definition/tieOuts'
import type { Context } from '../access/context'
import type { Snapshot } from '../sources/contract'
import type { Sources } from '../sources/sources'
import type { RunInput } from './input'
import type { LettersMade } from './letters'
import type { SheetPart } from './packBook'
import type { KeptRead } from './keptRows'
import type { RunOutput } from './output'
import type { Moments } from './moments'
import type { PinnedFile } from './pinned'
import type { ReadingPorts } from './remote'
import type { KeptPages } from './spool'
import type { FigureWanted } from './statementTrace'
import type { BehindFigure } from '../../core/compose/behind'
import type { FigurePlace } from './behind'
import { type RunProgress, type RunResult, runsIn, type RunTask, type SentInput } from './tasks'
import { Threads } from './threads'

/** Threads in which runs are read, composed and written, so that the server's main thread stays free. */
export class RunPool {
  private readonly threads = new Threads({ threads: 2, megabytes: 3072, grace: 10_000, silence: 120_000 })

  constructor(private readonly sources: Sources) {}

  /** @param within moments of its sources that are open already; without them it opens its own */
  run(
    context: Context,
    input: RunInput,
    output: RunOutput,
    onProgress?: (progress: RunProgress) => void,
    within?: Moments,
  ): Promise<RunResult> {
    return this.reading(
      context,
      input,
      (sent, ports) => ({ kind: 'run', input: sent, output, ports }),
      onProgress,
      within,
    ) as Promise<RunResult>
  }

  /** A file of rows that a run has kept: the source is not asked. */
  written(context: Context, input: RunInput, kept: KeptRead, output: RunOutput): Promise<RunResult> {
    return this.threads.over(context, input, (sent, ports) => ({ kind: 'run', input: sent, output, ports, kept })) as Promise<RunResult>
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
  tieOuts(context: Context, input: RunInput, within?: Moments): Promise<TieOutResult[]> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'tieOuts', input: sent, ports }), undefined, within) as Promise<
      TieOutResult[]
    >
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

  /** The records behind a figure on a page of a kept run. @throws RunError where it is not there */
  behind(context: Context, input: RunInput, wanted: FigurePlace, kept: KeptRead, pages: KeptPages): Promise<BehindFigure[]> {
    return this.reading(context, input, (sent, ports) => ({ kind: 'behind', input: sent, wanted, ports, kept, pages })) as Promise<
      BehindFigure[]
    >
  }

  /** Rows of a file, packed to be pinned. @throws RunError */
  pinRows(context: Context, input: RunInput, file: PinnedFile, held: Uint8Array | undefined): Promise<Uint8Array> {
    return this.threads.over(context, input, (sent, ports) => ({ kind: 'pin', input: sent, file, held, ports })) as Promise<Uint8Array>
  }

  /** Pinned rows as the text of a file. @throws RunError */
  pinnedFile(context: Context, input: RunInput, rows: Uint8Array, format: 'json' | 'csv', level: string | undefined): Promise<string> {
    return this.threads.over(context, input, (sent, ports) => ({
      kind: 'pinnedFile',
      input: sent,
      rows,
      format,
      level,
      ports,
    })) as Promise<string>
  }

  /** What two runs of a report differ in. */
  changes(context: Context, input: RunInput, before: KeptPages, now: KeptPages): Promise<RunChanges> {
    return this.threads.task(context, { kind: 'changes', input, before, now }) as Promise<RunChanges>
  }

  /** Pages of two runs that do not draw the same. */
  differingPages(context: Context, before: KeptPages, now: KeptPages): Promise<number[]> {
    return this.threads.task(context, { kind: 'differingPages', before, now }) as Promise<number[]>
  }

  /** Each document of kept pages as a PDF of its own, in a ZIP file. */
  async documents(context: Context, title: string, kept: KeptPages, file: string): Promise<void> {
    await this.threads.task(context, { kind: 'documents', title, kept, file })
  }

  /** A letter to each record of a kept run, with its pages as a PDF; `told` hears how many pages are in letters. @throws RunError */
  letters(
    context: Context,
    input: RunInput,
    kept: KeptRead,
    pages: KeptPages,
    folder: string,
    told?: (pages: number) => void,
  ): Promise<LettersMade> {
    return this.threads.over(
      context,
      input,
      (sent, ports) => ({ kind: 'letters', input: sent, ports, kept, pages, folder }),
      told ? { onProgress: ({ read }) => told(read ?? 0) } : {},
    ) as Promise<LettersMade>
  }

  /** Parts of a pack as one workbook, out of the rows that their runs have kept. */
  async packBook(
    context: Context,
    { parts, ...task }: { title: string; parts: (SheetPart & { input: RunInput })[]; facts: [string, string][]; file: string },
  ): Promise<void> {
    const all: RunInput = { ...parts[0]!.input, nested: Object.fromEntries(parts.map(({ input }, at) => [String(at), input])) }
    await this.threads.over(context, all, (input, ports) => ({
      kind: 'packBook',
      input,
      ports,
      ...task,
      parts: parts.map(({ title, kept }) => ({ title, kept })),
    }))
  }

  /** Parts of a pack as one PDF, or as a ZIP of their PDFs. */
  async pack(
    context: Context,
    task: Omit<RunTask & { kind: 'packPdf' }, 'kind'> | (Omit<RunTask & { kind: 'packZip' }, 'kind'> & { title?: undefined }),
  ): Promise<void> {
    await this.threads.task(context, task.title === undefined ? { kind: 'packZip', ...task } : { kind: 'packPdf', ...task })
  }

  async pdf(context: Context, title: string, kept: KeptPages, file: string): Promise<void> {
    await this.threads.task(context, { kind: 'pdf', title, kept, file })
  }

  /** Begins its threads; the first task would. */
  warm(): void {
    this.threads.warm()
  }

  /** Is anything being done, or waiting to be? */
  busy(): boolean {
    return this.threads.busy()
  }

  close(): Promise<void> {
    return this.threads.close()
  }

  /** A task that reads: all of it through one snapshot of each source, with a turn of its own among the person's. */
  private async reading(
    context: Context,
    input: RunInput,
    task: (input: SentInput, ports: ReadingPorts) => RunTask,
    onProgress?: (progress: RunProgress) => void,
    within?: Moments,
  ): Promise<unknown> {
    const told = onProgress ? { onProgress } : {}
    if (within) return this.threads.over(context, input, task, { snapshots: within.of(input), ...told })
    const snapshots = new Map<string, Snapshot>()
    try {
      for (const { source } of runsIn(input))
        if (!snapshots.has(source)) snapshots.set(source, await this.sources.snapshot(context, source))
      return await this.threads.over(context, input, task, { snapshots, ...told })
    } finally {
      for (const snapshot of snapshots.values()) snapshot.close()
    }
  }
}
