import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import type { Keeping, RunFilter } from '../../core/api/runs'
import { type Context, whose } from '../access/context'
import { StoreError } from '../store/records'
import type { ListedRun, NewRun, RunRow, RunRows } from '../store/runRows'
import { askedWords } from './asked'
import { RunError, type RunInput } from './input'
import type { WorkBell } from '../store/bell'
import type { Moments } from './moments'
import type { RunPool } from './pool'
import type { RunFolder } from './runFolder'
import { notKept, RunFiles } from './runFiles'
import { RunQueue } from './runQueue'
import { isOver, newRecord, renew, type RunRecord } from './runRecord'
import type { RunProgress, RunResult } from './tasks'
import { ThreadEnded } from './threads'
import { seenIn } from './theirs'

/** What a run stands on beside its own: whose it is, what of it is seen, how long it is kept. */
export interface RunRights {
  /** do they see what was read of sources, by what was seen of them? */
  seesRead: (context: Context, sources: readonly string[], sights: Readonly<Record<string, string>>) => Promise<boolean>
  /** who asked for a run that is begun again; nothing where they are not here any more */
  contextOf: (row: RunRow) => Promise<Context | undefined>
  mayGoOn: (run: RunRecord) => Promise<boolean>
  /** of sources by their ids: the moment of their rows, where they have one */
  generations: (sources: readonly string[]) => Record<string, number>
  keeping: () => Promise<Keeping>
}

/** The run of a pack that a run is part of, as which of its reports, and the moments that it reads. */
export interface PackPart {
  id: string
  part: string
  moments: Moments
}

/** Runs that somebody may have that wait or run. */
const mostUnfinished = 20
/** How often a run is begun at most: one that takes the program down must not do so for ever. */
const mostAttempts = 3
/** How long a run may take, in milliseconds. */
const longest = 60 * 60_000
/** Runs that are at hand; others are read again from where they are written down. */
const atHand = 30

/** Runs: started, looked at while they grow, cancelled, read page by page, written as files, and kept when the program ends. */
export class RunRegistry {
  private readonly runs = new Map<string, RunRecord>()
  private readonly queue: RunQueue
  /** what is read and made of them */
  readonly files: RunFiles
  private closing = false
  private sweeping: Promise<void> | undefined

  constructor(
    private readonly rows: RunRows,
    private readonly folder: RunFolder,
    private readonly pool: RunPool,
    private readonly rights: RunRights,
    private readonly bell: WorkBell,
  ) {
    this.files = new RunFiles(rows, folder, pool)
    this.queue = new RunQueue(rows, folder.id, row => this.takeUp(row), bell)
  }

  /**
   * Goes on with runs that were left, and clears what is of none.
   * @param others of whom there are files in the same place
   */
  async open(others: readonly string[] = []): Promise<void> {
    this.folder.clear(new Set([...others, ...(await this.rows.ids(this.folder.id))]))
    await this.queue.open()
  }

  /** @throws StoreError where somebody has too many that are not done */
  async needRoom({ person }: Context): Promise<void> {
    if ((await this.rows.unfinished(person)) >= mostUnfinished)
      throw new StoreError(`${mostUnfinished} of your runs wait or run; wait until one is done, or cancel one under Runs.`, 429)
  }

  /** @param pack the run of a pack that it is part of: it is begun at once, and reads what that reads */
  start(context: Context, input: RunInput, report = '', pack?: PackPart): RunRecord {
    const id = randomUUID()
    const run = newRecord({
      id,
      context: whose(context),
      report,
      input,
      state: 'waiting',
      startedAt: new Date().toISOString(),
      file: join(this.folder.of(id), 'pages'),
    })
    if (pack) this.queue.begun(run)
    const begins = pack !== undefined || this.queue.takes(run)
    if (begins) run.state = 'running'
    this.remember(run)
    run.kept = this.writeDown(run, begins, pack)
    void run.kept.then(
      () => (begins ? this.work(run, pack?.moments) : this.queue.waits()),
      (error: Error) => {
        this.settle(run, 'failed', [error.message])
        if (begins) this.queue.ended(run)
      },
    )
    return run
  }

  /** Writes down what a run is asked with, before anything else is done for it. */
  private async writeDown(run: RunRecord, begins: boolean, pack: PackPart | undefined): Promise<void> {
    const { context, input } = run
    const seen = seenIn(input)
    await this.folder.keepInput(run.id, input)
    const version = /^\S+ (\d+)/.exec(input.definitionVersion ?? '')?.[1]
    await this.rows.add(context, {
      id: run.id,
      folder: this.folder.id,
      reportId: run.report,
      version: version ? Number(version) : null,
      name: input.name,
      layout: input.layout ?? null,
      person: context.person,
      personId: context.signedIn?.id ?? null,
      personName: context.signedIn?.name ?? null,
      lookedAs: context.as ?? null,
      answers: input.answers,
      asked: askedWords(input),
      ...seen,
      generations: this.rights.generations(seen.sources),
      state: run.state,
      instance: begins ? this.queue.instance : null,
      attempt: begins ? 1 : 0,
      createdAt: new Date(run.startedAt),
      files: [],
      ...(pack ? { packRunId: pack.id, part: pack.part } : {}),
    })
  }

  /** A run that waited, or that another Estante left, is begun here. */
  private async takeUp(row: RunRow): Promise<void> {
    const known = () => {
      const run = this.runs.get(row.id)
      return run && !isOver(run) ? run : undefined
    }
    const before = known()
    const read = before ? undefined : await this.readAgain(row)
    // somebody may have looked at it meanwhile, and waits for its end
    const run = known() ?? read
    if (!run) return
    if (run === read) this.remember(run)
    run.state = 'running'
    delete run.elsewhere
    this.queue.begun(run)
    renew(run)
    if (row.attempt > mostAttempts)
      return this.end(run, 'failed', [`Estante was stopped ${mostAttempts} times while this run was made; narrow it, or run it again.`])
    if (row.stopped || !(await this.rights.mayGoOn(run)))
      return this.end(run, 'cancelled', [row.stopped ? 'The run was cancelled.' : 'Your rights were changed before this run began.'])
    void this.work(run)
  }

  /** A run of before, with what it was asked with. What cannot be read any more is over. */
  private async readAgain(row: RunRow): Promise<RunRecord | undefined> {
    try {
      const [context, input] = [await this.rights.contextOf(row), await this.folder.input(row.id)]
      if (!context) throw new RunError(['Whoever asked for this run is not here any more.'])
      return this.recordOf(row, context, { ...input, moment: Date.now() })
    } catch (error) {
      const sentences =
        error instanceof RunError ? error.sentences : ['What this run was asked with cannot be read any more; run the report again.']
      await this.rows.end(row.id, this.queue.instance, { state: 'failed', sentences })
      return undefined
    }
  }

  private recordOf(row: RunRow, context: Context, input: RunInput): RunRecord {
    return newRecord({
      id: row.id,
      person: row.person,
      context,
      report: row.reportId,
      input,
      state: row.state,
      startedAt: row.createdAt.toISOString(),
      file: join(this.folder.of(row.id), 'pages'),
      pinned: row.pinned,
      ...(row.sentences ? { sentences: row.sentences as string[] } : {}),
    })
  }

  private async work(run: RunRecord, within?: Moments): Promise<void> {
    const late = new RunError(['The run took longer than an hour and was stopped; narrow it by its answers or a filter.'])
    const timer = setTimeout(() => run.stop.abort(late), longest)
    timer.unref()
    try {
      const context = { ...whose(run.context), signal: run.stop.signal }
      const told = (progress: RunProgress) => {
        if (run.state !== 'running') return
        run.places.push(...(run.places.length === 1 && progress.places[0] === 0 ? progress.places.slice(1) : progress.places))
        run.outline.push(...progress.outline)
        if (progress.early) run.early = progress.early
        run.read = progress.read ?? run.read
        renew(run)
      }
      const result = await this.made(run, () => this.pool.run(context, run.input, { format: 'pages', file: run.file }, told, within))
      run.places = result.kept!.places
      run.outline = result.kept!.outline
      run.result = result
      if (result.changed) {
        run.input = { ...run.input, definition: result.changed.definition }
        await this.folder.keepInput(run.id, run.input)
      }
      await this.folder.keepIndex(run.id, { ...result.kept!, ...(result.changed ? { changed: result.changed.sentences } : {}) })
      await this.end(run, 'done')
    } catch (error) {
      const aborted = run.stop.signal.aborted && run.stop.signal.reason !== late
      await this.end(run, aborted ? 'cancelled' : 'failed', error instanceof RunError ? error.sentences : [(error as Error).message])
    } finally {
      clearTimeout(timer)
    }
  }

  /** A run whose thread is gone is begun anew, so often. */
  private async made(run: RunRecord, make: () => Promise<RunResult>): Promise<RunResult> {
    for (let attempt = 1; ; attempt++) {
      try {
        return await make()
      } catch (error) {
        if (!(error instanceof ThreadEnded) || attempt >= mostAttempts || run.stop.signal.aborted) throw error
        Object.assign(run, { places: [0], outline: [], read: 0 })
        delete run.early
        renew(run)
      }
    }
  }

  /** A run is over: it is written down, and another may begin. Where the program is being stopped, it waits for the next instead. */
  private async end(run: RunRecord, state: RunRecord['state'], sentences?: string[]): Promise<void> {
    const { result } = run
    const ended: Partial<NewRun> & { state: RunRecord['state'] } = {
      state,
      pages: run.places.length - 1,
      ...(result ? { rows: result.rows, ms: result.ms, tieOuts: result.tieOuts ?? null } : {}),
      sentences: sentences ?? null,
    }
    const leaves = this.closing && state === 'cancelled'
    // what cannot be written down now is begun again by the next start
    await (leaves ? this.rows.giveBack(run.id, this.queue.instance) : this.rows.end(run.id, this.queue.instance, ended)).catch(() => {})
    this.settle(run, state, sentences)
    this.queue.ended(run)
    if (!this.closing) void this.sweep()
  }

  private settle(run: RunRecord, state: RunRecord['state'], sentences?: string[]): void {
    run.state = state
    if (sentences) run.sentences = sentences
    renew(run)
    run.ended()
  }

  /** The runs of a run of a pack are gone, with their files: it is begun anew. */
  async forget(packRunId: string): Promise<void> {
    const ids = await this.rows.ofPack(packRunId)
    await this.rows.remove(ids)
    for (const id of ids) {
      this.runs.delete(id)
      await this.folder.remove(id)
    }
  }

  /** How many pages can be shown, and whether the one there is came before its time: see earlyPage. */
  shown({ places, early, elsewhere }: RunRecord): { pages: number; early: boolean } {
    const pages = elsewhere?.pages ?? places.length - 1
    return pages || !early ? { pages, early: false } : { pages: 1, early: true }
  }

  /** The name of a file that is gone as soon as it is sent. */
  passingFile(): string {
    return this.folder.passing()
  }

  /** Is it theirs to see: their own, or, for an administrator, anybody's, and nothing in it that guards would hide from them now? */
  private async sees(context: Context, run: RunRecord): Promise<boolean> {
    const { signedIn } = context
    if (!signedIn) return true
    const { sources, sights } = seenIn(run.input)
    return (signedIn.role === 'administrator' || run.person === signedIn.id) && this.rights.seesRead(context, sources, sights)
  }

  async get(context: Context, id: string): Promise<RunRecord | undefined> {
    const known = this.runs.get(id)
    // one that waits may have been taken by another Estante
    const own = known && !known.elsewhere && !(this.bell.shared && known.state === 'waiting')
    const run = own ? known : await this.read(id)
    if (run && run === known) this.remember(run)
    return run && (await this.sees(context, run)) ? run : undefined
  }

  /** A run that is not at hand, from where it is written down. */
  private async read(id: string): Promise<RunRecord | undefined> {
    const row = await this.rows.find(id)
    if (!row) return undefined
    if (row.folder !== this.folder.id)
      throw new StoreError('This run is kept by an Estante with another folder of runs; open it there, or run the report again.', 404)
    const context = (await this.rights.contextOf(row)) ?? { person: row.person }
    const run = this.recordOf(row, context, await this.folder.input(id).catch(notKept))
    if (row.state === 'done') {
      const { places, outline, rows, changed } = await this.folder.index(id).catch(notKept)
      Object.assign(run, { places, outline })
      run.result = {
        kept: { places, outline, rows },
        pages: places.length - 1,
        rows: row.rows as RunResult['rows'],
        ms: row.ms as RunResult['ms'],
        ...(row.tieOuts ? { tieOuts: row.tieOuts as NonNullable<RunResult['tieOuts']> } : {}),
        ...(changed ? { changed: { definition: run.input.definition, sentences: changed } } : {}),
      }
      this.files.found(run, row.files)
    } else if (!isOver(run)) run.elsewhere = { pages: row.pages }
    if (isOver(run)) run.ended()
    // it may have been begun here while it was read
    const begun = this.runs.get(id)
    if (begun && !begun.elsewhere) {
      if (begun.state !== 'waiting' || row.state === 'waiting') return begun
      if (isOver(run)) this.settle(begun, run.state, run.sentences)
    }
    this.remember(run)
    return run
  }

  async cancel(context: Context, id: string): Promise<void> {
    const run = await this.get(context, id)
    if (!run || isOver(run)) return
    const reason = ['The run was cancelled.']
    await run.kept
    if (run.state === 'waiting' && (await this.rows.end(id, null, { state: 'cancelled', sentences: reason })))
      return this.settle(run, 'cancelled', reason)
    if (run.elsewhere) await this.rows.change(id, { stopped: true })
    else run.stop.abort(new RunError(reason))
  }

  /** Stops what may not go on. */
  async recheck(): Promise<void> {
    const running = [...this.runs.values()].filter(run => !isOver(run) && !run.elsewhere)
    await Promise.all(
      running.map(async run => {
        if (await this.rights.mayGoOn(run)) return
        const reason = ['Your rights were changed while this ran, so it was stopped; run the report again.']
        run.stop.abort(new RunError(reason))
        if (run.state === 'waiting' && (await this.rows.end(run.id, null, { state: 'cancelled', sentences: reason })))
          this.settle(run, 'cancelled', reason)
      }),
    )
  }

  /** Those that hold, the newest first, as they are written down, each with its record where it is at hand. */
  async list(context: Context, filter: RunFilter = {}, most = mostListed): Promise<{ row: ListedRun; run: RunRecord | undefined }[]> {
    // what was started a moment ago is written down before it is looked for
    await Promise.all([...this.runs.values()].filter(run => !isOver(run)).map(run => run.kept.catch(() => {})))
    const rows = await this.rows.list(context, filter, most)
    const own = whose(context)
    const seen = await Promise.all(
      rows.map(row => this.rights.seesRead(own, row.sources as string[], row.sights as Record<string, string>)),
    )
    return rows.filter((_, at) => seen[at]).map(row => ({ row, run: this.runs.get(row.id) }))
  }

  /** The finished run of the same report and layout before this one. */
  async earlier(
    context: Context,
    run: Pick<RunRecord, 'id' | 'report' | 'startedAt'> & { input: Pick<RunInput, 'layout'> },
  ): Promise<RunRow | undefined> {
    if (!run.report) return undefined
    const rows = await this.rows.earlier(context, {
      id: run.id,
      reportId: run.report,
      layout: run.input.layout ?? null,
      createdAt: new Date(run.startedAt),
    })
    for (const row of rows)
      if (await this.rights.seesRead(whose(context), row.sources as string[], row.sights as Record<string, string>)) return row
    return undefined
  }

  /** A run stays, whatever is cleaned up, or does not any more. */
  async pin(context: Context, run: RunRecord, pinned: boolean): Promise<void> {
    await this.rows.change(run.id, { pinned })
    run.pinned = pinned
    if (!pinned) void this.sweep()
  }

  /** Runs that are not done wait until the program is started again. */
  async close(): Promise<void> {
    this.closing = true
    await this.queue.close()
    for (const run of this.runs.values()) run.stop.abort(new RunError(['Estante was stopped.']))
    await this.sweeping
  }

  /** Keeps a run at hand, as the last that was asked for. */
  private remember(run: RunRecord): void {
    this.runs.delete(run.id)
    this.runs.set(run.id, run)
    for (const each of this.runs.values()) {
      if (this.runs.size <= atHand) return
      if ((isOver(each) || each.elsewhere) && !each.readers && each !== run) this.runs.delete(each.id)
    }
  }

  /** Runs that are not kept any longer go, with their files. */
  sweep(): Promise<void> {
    return (this.sweeping = (this.sweeping ?? Promise.resolve())
      .then(async () => {
        const { runs, days } = await this.rights.keeping()
        const ids = await this.rows.old(this.folder.id, runs, new Date(Date.now() - days * 86_400_000))
        await this.rows.remove(ids)
        for (const id of ids) {
          const run = this.runs.get(id)
          this.runs.delete(id)
          if (run) run.gone = true
          if (!run?.readers) await this.folder.remove(id)
        }
      })
      .catch(() => {}))
  }
}

/** Runs that are listed at most. */
const mostListed = 200
