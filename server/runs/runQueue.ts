import { randomUUID } from 'node:crypto'
import { lease, type RunRow, type RunRows } from '../store/runRows'
import type { WorkBell } from '../store/bell'
import { RunError } from './input'
import type { RunRecord } from './runRecord'

/** Runs that an Estante works at at a time; others wait. */
const slots = 2
/** How often an Estante that shares a store looks for runs of others that wait, or that nobody works at any more, in milliseconds. */
const look = 5000

/**
 * Who works at what: runs that are begun here, and those that wait, whoever asked for them. A folder's store is nobody else's, so nothing
 * is asked of it while there is nothing to do; of a shared one it is asked now and then.
 */
export class RunQueue {
  /** tells this Estante from others that share the store */
  readonly instance = randomUUID()
  private readonly working = new Map<string, RunRecord>()
  private beat: NodeJS.Timeout | undefined
  private looks: NodeJS.Timeout | undefined
  private asking = false
  private again = false
  private closing = false

  constructor(
    private readonly rows: RunRows,
    private readonly folder: string,
    /** works at a run that was taken; it is over when it comes back */
    private readonly workAt: (row: RunRow) => Promise<void>,
    private readonly bell: WorkBell,
  ) {}

  /** Goes on with what was left: in a store of its own all that was running before is free again. */
  async open(): Promise<void> {
    if (!this.bell.shared) await this.rows.release(this.folder, [this.instance])
    else {
      this.looks = setInterval(() => this.next(), look)
      this.looks.unref()
      await this.bell.on(() => this.next())
    }
    this.next()
  }

  /** Takes a run that is new here, where there is room for one more. */
  takes(run: RunRecord): boolean {
    if (this.working.size >= slots || this.closing) return false
    this.begun(run)
    return true
  }

  begun(run: RunRecord): void {
    this.working.set(run.id, run)
    this.beat ??= setInterval(() => void this.sayAlive(), lease / 3).unref()
  }

  ended(run: RunRecord): void {
    this.working.delete(run.id)
    if (!this.working.size) {
      clearInterval(this.beat)
      this.beat = undefined
    }
    this.next()
  }

  /** There is a run more that waits: for this Estante or another. */
  waits(): void {
    this.next()
    void this.bell.ring()
  }

  /** Takes runs that wait, as long as there is room. */
  next(): void {
    if (this.asking) this.again = true
    else void this.claimAll()
  }

  private async claimAll(): Promise<void> {
    this.asking = true
    try {
      do {
        this.again = false
        while (this.working.size < slots && !this.closing) {
          const row = await this.rows.claim(this.instance, this.folder)
          if (!row) break
          await this.workAt(row)
        }
      } while (this.again)
    } catch {
      // a store that cannot be reached is asked again by whatever comes next
    } finally {
      this.asking = false
    }
  }

  /** Others would take a run for left by its Estante that says nothing of it. */
  private async sayAlive(): Promise<void> {
    const pages = new Map([...this.working.values()].map(run => [run.id, run.places.length - 1]))
    const { stopped, lost } = await this.rows.alive(this.instance, pages).catch(() => ({ stopped: [], lost: [] }))
    for (const id of stopped) this.working.get(id)?.stop.abort(new RunError(['The run was cancelled.']))
    for (const id of lost)
      this.working.get(id)?.stop.abort(new RunError(['Another Estante works at this run by now, since nothing was heard of this one.']))
  }

  /** Nothing more is taken; what is worked at is told to stop, and waits for the next that opens the store. */
  async close(): Promise<void> {
    this.closing = true
    clearInterval(this.looks)
    const left = [...this.working.values()]
    for (const run of left) run.stop.abort(new RunError(['Estante was stopped; the run goes on when it is started again.']))
    await Promise.all(left.map(run => run.over))
    clearInterval(this.beat)
  }
}
