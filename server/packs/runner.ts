import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { PackProgress, PackTieResult } from '../../core/api/packs'
import type { PackDefinition } from '../../core/pack/definition'
import { type PackFigure, packTies } from '../../core/pack/ties'
import { cleanFileName } from '../../core/parameter/fileName'
import { answerWords } from '../../core/parameter/answers'
import { parseDecimal } from '../../core/value/decimal'
import type { Context } from '../access/context'
import { machineSentence } from '../failures'
import { RunError } from '../runs/input'
import { Moments } from '../runs/moments'
import { keptOf, pagesOf, type RunRecord } from '../runs/runRecord'
import type { RunFolder } from '../runs/runFolder'
import { runsIn } from '../runs/tasks'
import { SourceError } from '../sources/contract'
import type { PackRow, PackRows, PackRunRow } from '../store/packRows'
import { StoreError } from '../store/records'
import { lease } from '../store/runRows'
import { fileNames } from './fileNames'
import { coverOf } from './coverWords'
import type { Deliverer } from './deliverer'
import { restFile } from '../runs/letters'
import type { MadeFile, MadeLetters } from './toSend'
import { figuresOf, type PackApp, packSources, type PlannedPack, type PlannedPart, planPack } from './parts'

const dayLength = 86_400_000
/** How often a run of a pack is begun at most. */
const mostAttempts = 3
/** Reports of a pack that are worked at at a time. */
const atOnce = 2
/** How often a program that shares its store looks for runs of packs that nobody works at, in milliseconds. */
const look = 5000

/** Runs of packs: all reports of one moment, what ties out, the files, and, unless it is held, what goes out. One at a time. */
export class PackRunner {
  readonly instance = randomUUID()
  private working: { row: PackRunRow; stop: AbortController; progress: PackProgress; over: Promise<void> } | undefined
  private looks: NodeJS.Timeout | undefined
  private asking = false
  private again = false
  private closing = false
  /** resolves whenever there is news of any run */
  private heard: () => void = () => {}
  news: Promise<void> = Promise.resolve()

  constructor(
    private readonly rows: PackRows,
    private readonly app: PackApp,
    private readonly folder: RunFolder,
    private readonly deliverer: Deliverer,
    private readonly contextOf: (row: PackRunRow) => Promise<Context | undefined>,
    private readonly shared: boolean,
  ) {
    this.tell()
  }

  async open(): Promise<void> {
    if (this.shared) {
      this.looks = setInterval(() => this.next(), look)
      this.looks.unref()
    } else await this.rows.release(this.folder.id)
    this.next()
  }

  /** Begins a run of a pack; nothing where its occasion was begun already. @throws StoreError */
  async start(
    context: Context,
    pack: PackRow,
    { answers, dry = false, occasion, owner }: { answers: Record<string, string>; dry?: boolean; occasion?: string; owner?: string | null },
  ): Promise<string | undefined> {
    const id = randomUUID()
    const begun = await this.rows.begin(context, {
      id,
      packId: pack.id,
      name: pack.name,
      definition: pack.definition,
      occasion: occasion ?? null,
      folder: this.folder.id,
      person: context.person,
      personId: owner ?? context.signedIn?.id ?? null,
      personName: context.signedIn?.name ?? null,
      answers,
      asked: [],
      dry,
      state: 'waiting',
      createdAt: new Date(),
      files: [],
    })
    if (!begun) return undefined
    this.next()
    return id
  }

  /** How far a run is that is worked at here. */
  progressOf(id: string): PackProgress | undefined {
    return this.working?.row.id === id ? this.working.progress : undefined
  }

  async cancel(context: Context, id: string): Promise<void> {
    await this.rows.stop(context, id)
    if (this.working?.row.id === id) this.working.stop.abort(new RunError(['The run of the pack was cancelled.']))
    this.tell()
  }

  /** Lets a held run go, or drops it. @throws StoreError */
  async decide(context: Context, id: string, released: boolean, reason: string): Promise<void> {
    await this.rows.decide(context, id, released, reason)
    if (released) this.next()
    else await this.deliverer.drop(id)
    this.tell()
  }

  /** Somebody's word on what was not sent; false where that was decided already. */
  async decideDelivery(_: Context, id: string, again: boolean, to?: string): Promise<boolean> {
    const row = await this.rows.delivery(id)
    // what a dry run would have sent is never sent
    if (!row || (await this.rows.run(row.packRunId))?.dry || !(await this.deliverer.decide(id, again, to))) return false
    if (again) {
      await this.rows.reopen(row.packRunId)
      this.next()
    }
    this.tell()
    return true
  }

  /** Takes the next run that waits, where none is worked at. */
  next(): void {
    if (this.asking) this.again = true
    else void this.takeAll()
  }

  /** There is news from elsewhere, such as a printer. */
  heardOf(): void {
    this.tell()
  }

  private tell(): void {
    const { heard } = this
    this.news = new Promise(resolve => (this.heard = resolve))
    heard()
  }

  private async takeAll(): Promise<void> {
    this.asking = true
    try {
      do {
        this.again = false
        for (;;) {
          const row = this.closing ? undefined : await this.rows.claim(this.instance, this.folder.id)
          if (!row) break
          await this.work(row)
        }
      } while (this.again)
    } catch {
      // a store that cannot be reached is asked again by whatever comes next
    } finally {
      this.asking = false
    }
  }

  private async work(row: PackRunRow): Promise<void> {
    let ended = () => {}
    const over = new Promise<void>(resolve => (ended = resolve))
    const stop = new AbortController()
    this.working = { row, stop, progress: { doing: 'reading', done: 0, of: row.definition.reports.length }, over }
    const beat = setInterval(() => void this.sayAlive(), lease / 3)
    beat.unref()
    this.tell()
    try {
      if (row.stopped) throw new RunError(['The run of the pack was cancelled.'])
      if (row.state === 'sending') await this.send(row, stop.signal)
      else if (row.attempt > mostAttempts)
        throw new RunError([`Estante was stopped ${mostAttempts} times while this pack ran; run it again.`])
      else await this.run(row, stop.signal)
    } catch (error) {
      await this.failed(row, error, stop.signal.aborted)
    } finally {
      clearInterval(beat)
      this.working = undefined
      this.tell()
      ended()
      if (!this.closing) void this.sweep().catch(() => {})
    }
  }

  private async failed(row: PackRunRow, error: unknown, stopped: boolean): Promise<void> {
    // it goes on with the next start
    if (this.closing && stopped) return this.rows.giveBack(row.id, this.instance).catch(() => {})
    const told = error instanceof RunError ? error.sentences : [sentenceOf(error)]
    await this.rows
      .change(row.id, this.instance, { state: stopped || row.stopped ? 'cancelled' : 'failed', sentences: told })
      .catch(() => {})
    if (stopped || row.stopped) await this.deliverer.drop(row.id).catch(() => {})
  }

  private async run(row: PackRunRow, signal: AbortSignal): Promise<void> {
    const { definition: pack } = row
    const context = await this.contextOf(row)
    if (!context) throw new RunError(['Whoever this pack runs for is not here any more; let somebody else save it.'])
    const own = { ...context, signal, within: row.id }
    // what an earlier beginning left is of another moment: its letters would bring documents of this one, maybe somebody else's
    await this.app.runs.forget(row.id)
    await this.rows.unprepare(row.id, this.instance)
    const moments = await Moments.open(own, this.app.sources, await packSources(own, this.app, pack))
    let ties: PackTieResult[]
    let made: RunRecord[]
    let planned: PlannedPack
    try {
      planned = await planPack(own, this.app, pack, row.answers as Record<string, string>)
      const { parts, values } = planned
      await moments.also(
        own,
        this.app.sources,
        parts.flatMap(each => runsIn(each.input).map(({ source }) => source)),
      )
      const asked = pack.parameters.filter(each => !each.hidden).map(each => `${each.label}: ${answerWords(each, values)}`)
      await this.rows.change(row.id, this.instance, { moment: new Date(moments.at), asked })
      this.told({ doing: 'reading', done: 0, of: parts.length })
      made = await this.runParts(own, row, parts, moments)
      ties = await this.tiesOf(own, pack, parts, made, moments)
    } finally {
      moments.close()
    }
    this.told({ doing: 'writing', done: 0, of: wantedFiles(pack).length })
    const letters = await this.writeLetters(own, row, planned.parts, made)
    const files = [...(await this.write(own, row, { ...planned, made, ties, moment: moments.at })), ...letters.files]
    const failed = ties.some(each => !each.holds)
    const holds = !row.dry && (pack.hold === 'always' || (pack.hold === 'failed' && failed))
    // one that is another program's by now writes nothing down
    if (!(await this.rows.change(row.id, this.instance, { ties, files }))) return
    await this.deliverer.prepare(own, row, { ...planned, made, files, letters: letters.made })
    const state = row.dry ? 'done' : holds ? 'held' : 'sending'
    if (!(await this.rows.change(row.id, this.instance, { ties, files, state }))) return
    if (state === 'sending') await this.send({ ...row, state }, signal)
  }

  private async send(row: PackRunRow, signal: AbortSignal): Promise<void> {
    await this.deliverer.send(row, signal, (done, of) => this.told({ doing: 'sending', done, of }))
    await this.rows.change(row.id, this.instance, { state: 'done' })
  }

  /** Runs all parts through the same moments, some at a time. @throws RunError with the sentences of those that failed */
  private async runParts(context: Context, row: PackRunRow, parts: readonly PlannedPart[], moments: Moments): Promise<RunRecord[]> {
    const made: RunRecord[] = []
    const sentences: string[] = []
    let next = 0
    let done = 0
    const stops = () => made.forEach(run => void this.app.runs.cancel(context, run.id))
    context.signal?.addEventListener('abort', stops, { once: true })
    const one = async (): Promise<void> => {
      while (next < parts.length && !context.signal?.aborted) {
        const at = next++
        const { input, report, part, title } = parts[at]!
        const run = this.app.runs.start(context, { ...input, moment: moments.at }, report.report, { id: row.id, part, moments })
        made[at] = run
        await run.over
        if (run.state !== 'done') sentences.push(...(run.sentences ?? []).map(sentence => `“${title}”: ${sentence}`))
        this.told({ doing: 'reading', done: ++done, of: parts.length, at: title })
      }
    }
    await Promise.all(Array.from({ length: atOnce }, one))
    if (context.signal?.aborted) throw context.signal.reason as Error
    if (sentences.length) throw new RunError(sentences)
    return made
  }

  /** What all reports' tie-outs, and those across them, come to. */
  private async tiesOf(
    context: Context,
    pack: PackDefinition,
    parts: readonly PlannedPart[],
    made: readonly RunRecord[],
    moments: Moments,
  ): Promise<PackTieResult[]> {
    const own = made.flatMap((run, at) => (run.result?.tieOuts ?? []).map(each => ({ ...each, report: parts[at]!.title })))
    const known = new Map<string, PackFigure[]>()
    for (const { report, input } of parts) {
      const figures = figuresOf(pack, report.id)
      if (!figures.length) continue
      const tieOuts = figures.map((figure, at) => ({ id: String(at), name: report.name, left: figure, right: figure, tolerance: '0' }))
      const { heldByAll: _, letter: __, ...plain } = input
      const results = await this.app.pool.tieOuts(context, { ...plain, definition: { ...input.definition, tieOuts } }, moments)
      figures.forEach((figure, at) => {
        const { left, sentence } = results[at]!
        const key = JSON.stringify([report.id, figure])
        const found: PackFigure = left === undefined ? { sentence: `“${report.name}”: ${sentence ?? ''}` } : parseDecimal(left)!
        known.set(key, [...(known.get(key) ?? []), found])
      })
    }
    const across = packTies(pack.ties, (report, figure) => known.get(JSON.stringify([report, figure])) ?? [])
    return [...across, ...own]
  }

  /** Letters to the records of those reports that go out by them; what has no address is a file of its own. */
  private async writeLetters(
    context: Context,
    row: PackRunRow,
    parts: readonly PlannedPart[],
    made: readonly RunRecord[],
  ): Promise<{ made: MadeLetters[]; files: MadeFile[] }> {
    const found: MadeLetters[] = []
    const files: MadeFile[] = []
    await this.folder.make(row.id)
    for (const [at, { report, title, input }] of parts.entries()) {
      const recipient = row.definition.to.find(each => each.is === 'records' && each.report === report.id)
      const run = made[at]!
      if (!recipient || run.places.length < 2) continue
      const folder = `letters-${at}`
      await rm(join(this.folder.of(row.id), folder), { recursive: true, force: true })
      const kept = run.result?.kept && keptOf(run)
      if (!kept) throw new RunError([`“${title}” has kept no rows to write letters by; run the pack again.`])
      const { rest } = await this.app.pool.letters(
        context,
        { ...input, moment: run.input.moment! },
        kept,
        pagesOf(run),
        join(this.folder.of(row.id), folder),
      )
      found.push({ recipient: recipient.id, folder })
      if (rest) files.push({ format: 'rest', name: `${cleanFileName(`${title} without address`)}.pdf`, file: join(folder, restFile) })
    }
    return { made: found, files }
  }

  private async write(
    context: Context,
    row: PackRunRow,
    {
      values,
      around,
      parts,
      made,
      ties,
      moment,
    }: PlannedPack & { made: readonly RunRecord[]; ties: readonly PackTieResult[]; moment: number },
  ): Promise<MadeFile[]> {
    const { definition: pack } = row
    const names = fileNames(row.name, pack, values, around)
    const packed = parts.map(({ title }, at) => ({ title, kept: pagesOf(made[at]!) })).filter(each => each.kept.places.length > 1)
    if (!packed.length) throw new RunError(['No report of the pack has any pages for these answers.'])
    const files: MadeFile[] = []
    await this.folder.make(row.id)
    for (const format of wantedFiles(pack)) {
      const file = `${format}.${format}`
      const path = join(this.folder.of(row.id), file)
      if (existsSync(path)) await rm(path)
      if (format === 'xlsx')
        await this.app.pool.packBook(context, {
          title: row.name,
          parts: parts.flatMap(({ title }, at) => {
            const { result, input: asked } = made[at]!
            return result?.kept ? [{ title, input: { ...asked }, kept: keptOf(made[at]!) }] : []
          }),
          facts: [
            ...pack.parameters.filter(each => !each.hidden).map((each): [string, string] => [each.label, answerWords(each, values)]),
            ['Read at', new Date(moment).toISOString()],
          ],
          file: path,
        })
      else if (format === 'zip') await this.app.pool.pack(context, { parts: packed, file: path })
      else
        await this.app.pool.pack(context, {
          title: names.pdf,
          parts: packed,
          numbered: pack.out.numbered,
          ...(pack.out.cover ? { cover: coverOf(row.name, pack, values, ties, moment) } : {}),
          file: path,
        })
      files.push({ format, name: names[format], file })
      this.told({ doing: 'writing', done: files.length, of: wantedFiles(pack).length })
    }
    return files
  }

  /** Files of runs that are older than is kept go, with those of their reports; what a run came to stays in the history. */
  async sweep(): Promise<void> {
    const { days } = await this.app.store.keeping()
    for (const id of await this.rows.old(this.folder.id, new Date(Date.now() - days * dayLength))) {
      await this.rows.emptied(id)
      await this.app.runs.forget(id)
      await this.folder.remove(id)
    }
  }

  private told(progress: PackProgress): void {
    if (!this.working) return
    this.working.progress = progress
    this.tell()
  }

  private async sayAlive(): Promise<void> {
    const { working } = this
    if (!working) return
    const { own, stopped } = await this.rows
      .alive(working.row.id, this.instance, working.progress)
      .catch(() => ({ own: true, stopped: false }))
    if (stopped) working.stop.abort(new RunError(['The run of the pack was cancelled.']))
    else if (!own) working.stop.abort(new RunError(['Another Estante works at this pack by now.']))
  }

  async close(): Promise<void> {
    this.closing = true
    clearInterval(this.looks)
    this.working?.stop.abort(new RunError(['Estante was stopped; the pack goes on when it is started again.']))
    await this.working?.over
  }
}

/** Files that are made of a pack. */
export const wantedFiles = ({ out }: PackDefinition): ('pdf' | 'xlsx' | 'zip')[] => [
  ...(out.pdf ? ['pdf' as const] : []),
  ...(out.xlsx ? ['xlsx' as const] : []),
  ...(out.zip ? ['zip' as const] : []),
]

const sentenceOf = (error: unknown): string => {
  if (error instanceof StoreError || error instanceof SourceError) return error.message
  const known = machineSentence(error)
  if (known) return known
  console.error(error)
  return 'The pack could not be run, by a fault of the program; tell whoever looks after it.'
}
