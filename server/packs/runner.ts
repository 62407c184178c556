import { randomUUID } from 'node:crypto'
import type { PackProgress } from '../../core/api/packs'
import { restTime } from '../../core/pack/restTime'
import type { Context } from '../access/context'
import { machineSentence } from '../failures'
import { RunError } from '../runs/input'
import type { RunFolder } from '../runs/runFolder'
import { SourceError } from '../sources/contract'
import type { WorkBell } from '../store/bell'
import type { DeliveryRows } from '../store/deliveryRows'
import type { PackRow } from '../store/packRows'
import type { PackRunRow, PackRunRows } from '../store/packRunRows'
import { StoreError } from '../store/records'
import { lease } from '../store/runRows'
import type { Deliverer } from './deliverer'
import { PackMaking } from './making'
import type { PackApp } from './parts'

const dayLength = 86_400_000
/** How often a run of a pack is begun at most. */
const mostAttempts = 3
/** How often a program that shares its store looks for runs of packs that nobody works at, in milliseconds. */
const look = 5000

/** Runs of packs: all reports of one moment, what ties out, the files, and, unless it is held, what goes out. One at a time. */
export class PackRunner {
  readonly instance = randomUUID()
  private working:
    { row: PackRunRow; stop: AbortController; progress: PackProgress; begun: { at: number; done: number }; over: Promise<void> } | undefined
  private looks: NodeJS.Timeout | undefined
  private asking = false
  private again = false
  private closing = false
  /** resolves whenever there is news of any run */
  private heard: () => void = () => {}
  news: Promise<void> = Promise.resolve()

  private readonly making: PackMaking

  constructor(
    private readonly rows: PackRunRows,
    private readonly deliveries: DeliveryRows,
    private readonly app: PackApp,
    private readonly folder: RunFolder,
    private readonly deliverer: Deliverer,
    private readonly contextOf: (row: PackRunRow) => Promise<Context | undefined>,
    private readonly bell: WorkBell,
  ) {
    this.making = new PackMaking(app, folder)
    this.tell()
  }

  async open(): Promise<void> {
    if (this.bell.shared) {
      this.looks = setInterval(() => this.next(), look)
      this.looks.unref()
      await this.bell.on(() => this.next())
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
    void this.bell.ring()
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
    const row = await this.deliveries.find(id)
    // what a dry run would have sent is never sent
    if (!row || (await this.rows.find(row.packRunId))?.dry || !(await this.deliverer.decide(id, again, to))) return false
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
    this.working = {
      row,
      stop,
      progress: { doing: 'reading', done: 0, of: row.definition.reports.length },
      begun: { at: Date.now(), done: 0 },
      over,
    }
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
    await this.deliveries.unprepare(row.id, this.instance)
    const made = await this.making.make(
      own,
      row,
      (moment, asked) => this.rows.change(row.id, this.instance, { moment: new Date(moment), asked }),
      progress => this.told(progress),
    )
    const { ties, files } = made
    const failed = ties.some(each => !each.holds)
    const holds = !row.dry && (pack.hold === 'always' || (pack.hold === 'failed' && failed))
    // one that is another program's by now writes nothing down
    if (!(await this.rows.change(row.id, this.instance, { ties, files }))) return
    await this.deliverer.prepare(own, row, made)
    const state = row.dry ? 'done' : holds ? 'held' : 'sending'
    if (!(await this.rows.change(row.id, this.instance, { ties, files, state }))) return
    if (state === 'sending') await this.send({ ...row, state }, signal)
  }

  private async send(row: PackRunRow, signal: AbortSignal): Promise<void> {
    await this.deliverer.send(row, signal, (done, of) => this.told({ doing: 'sending', done, of }))
    await this.rows.change(row.id, this.instance, { state: 'done' })
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
    const now = Date.now()
    if (this.working.progress.doing !== progress.doing) this.working.begun = { at: now, done: progress.done }
    const left = restTime(this.working.begun, now, progress)
    this.working.progress = { ...progress, ...(left === undefined ? {} : { left }) }
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

const sentenceOf = (error: unknown): string => {
  if (error instanceof StoreError || error instanceof SourceError) return error.message
  const known = machineSentence(error)
  if (known) return known
  console.error(error)
  return 'The pack could not be run, by a fault of the program; tell whoever looks after it.'
}
