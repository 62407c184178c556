import type { FiscalCalendar } from '../../core/books/calendar'
import { type CompanyDays, workCalendar } from '../../core/pack/companyDays'
import type { PackDefinition } from '../../core/pack/definition'
import { lastOccasion, nextOccasions } from '../../core/pack/occasions'
import type { When, WorkCalendar } from '../../core/pack/when'
import type { PackRow, PackRows } from '../store/packRows'

/** What has happened in a source: `key` tells it from all else, `at` is when, where that is known (milliseconds since 1970). */
export interface Happening {
  key: string
  at?: number
}

/** What a schedule asks of the rest of the program. */
export interface ScheduleWorld {
  days: () => Promise<CompanyDays>
  /** fiscal periods of the books that a pack reads; none where it reads none, or they are away */
  calendar: (pack: PackDefinition) => Promise<FiscalCalendar | undefined>
  /** what has happened of what a pack waits for: refreshes of a source, periods closed */
  happened: (when: When, pack: PackDefinition) => Promise<Happening[]>
  /** begins a run of a pack in the name of whoever saved it last */
  begin: (pack: PackRow, occasion: string) => Promise<unknown>
  now?: () => number
}

/** Within how long of its time a pack is not late, in milliseconds. */
export const grace = 15 * 60_000
/** How often clocks and sources are looked at, at the latest, in milliseconds: clocks are set, machines sleep. */
const look = 60_000

/** How long is believed what was found of a pack, in milliseconds. */
const longest = 3_600_000

/**
 * Begins runs of packs when they are due. Nothing is remembered here: what was worked off stands in the store, once for each occasion, so
 * that several programs look for themselves, whenever they like. Of times that were missed only the last is made up, if any.
 */
export class Schedule {
  private timer: NodeJS.Timeout | undefined
  private looking: Promise<void> | undefined
  private again = false
  private closed = false
  /** what was found when a pack was looked at last */
  private readonly found = new Map<string, { version: number; days: string; at: number; next: number }>()

  constructor(
    private readonly rows: PackRows,
    private readonly world: ScheduleWorld,
  ) {}

  /** Looks from now on. */
  open(): void {
    void this.look()
  }

  /** Looks now, and when something is due next. */
  look(): Promise<void> {
    if (this.looking) {
      this.again = true
      return this.looking
    }
    clearTimeout(this.timer)
    return (this.looking = this.all().finally(() => (this.looking = undefined)))
  }

  /**
   * A pack was made or changed: where it waits for something to happen, what has happened before is known when this comes back. One whose
   * source is away is looked at with the others.
   */
  async kept(pack: PackRow): Promise<void> {
    const { when } = pack.definition
    if (when && when.is !== 'times') await this.happenings(pack).catch(() => {})
    void this.look()
  }

  /** The next times at which a pack is due, in milliseconds since 1970. */
  async next(pack: Pick<PackRow, 'definition'>, count: number): Promise<number[]> {
    const { when } = pack.definition
    if (when?.is !== 'times') return []
    return nextOccasions(when, this.now(), count, await this.calendarOf(pack.definition)).map(each => each.at)
  }

  async close(): Promise<void> {
    this.closed = true
    clearTimeout(this.timer)
    await this.looking?.catch(() => {})
  }

  private now(): number {
    return this.world.now?.() ?? Date.now()
  }

  private async calendarOf(pack: PackDefinition): Promise<WorkCalendar> {
    const books = pack.when?.is === 'times' && pack.when.days.on === 'afterPeriod' ? await this.world.calendar(pack) : undefined
    return workCalendar(await this.world.days(), books)
  }

  private async all(): Promise<void> {
    let next = Infinity
    try {
      do {
        this.again = false
        next = Infinity
        const days = JSON.stringify(await this.world.days())
        for (const pack of (await this.rows.list({ person: '' })).filter(each => each.definition.when))
          // one that cannot be looked at now, because its source is away, does not keep the others from theirs
          next = Math.min(next, (await this.when(pack, days).catch(() => undefined)) ?? Infinity)
      } while (this.again)
    } catch {
      // a store that cannot be reached is asked again with the next look
    }
    if (this.closed) return
    this.timer = setTimeout(() => void this.look(), Math.max(0, Math.min(look, next - this.now())))
    this.timer.unref()
  }

  /** When a pack is due next: as was found before, as long as nothing that this stands on is another. What is due is worked off. */
  private async when(pack: PackRow, days: string): Promise<number | undefined> {
    const now = this.now()
    const before = this.found.get(pack.id)
    const same = before?.version === pack.version && before.days === days
    // a clock that was set back, or books with periods of another year by now, are looked at again
    if (same && now >= before.at && now < Math.min(before.next, before.at + longest)) return before.next
    const next = await this.one(pack)
    if (pack.definition.when?.is === 'times') this.found.set(pack.id, { version: pack.version, days, at: now, next: next ?? Infinity })
    return next
  }

  /** Works off what is due of a pack; when it is due next. */
  private async one(pack: PackRow): Promise<number | undefined> {
    const { when, missed } = pack.definition
    if (when?.is !== 'times') {
      await this.happenings(pack)
      return undefined
    }
    const calendar = await this.calendarOf(pack.definition)
    const now = this.now()
    const last = lastOccasion(when, pack.since?.getTime() ?? now, now, calendar)
    if (last && (await this.rows.unknown(pack.id, [last.key])).length) {
      if (missed === 'leave' && now - last.at > grace) await this.rows.leaveOut(pack.id, last.key, 'left')
      else await this.world.begin(pack, last.key)
    }
    return nextOccasions(when, now, 1, calendar)[0]?.at
  }

  private async happenings(pack: PackRow): Promise<void> {
    const { when, missed } = pack.definition
    const found = await this.world.happened(when!, pack.definition)
    const keys = found.map(each => each.key)
    const fresh = new Set(await this.rows.unknown(pack.id, keys))
    if (!pack.since) {
      for (const key of fresh) await this.rows.leaveOut(pack.id, key, 'before')
      return this.rows.wait(pack.id)
    }
    const due = found.filter(each => fresh.has(each.key))
    for (const [at, { key, at: time }] of due.entries()) {
      const late = time !== undefined && this.now() - time > grace
      // of several that were missed, the last says what is to be known
      const missedNow = at < due.length - 1 || (missed === 'leave' && late)
      if (missedNow) await this.rows.leaveOut(pack.id, key, 'left')
      else await this.world.begin(pack, key)
    }
  }
}
