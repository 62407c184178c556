import {
  and,
  asc,
  count,
  desc,
  eq,
  getTableColumns,
  gte,
  inArray,
  isNotNull,
  isNull,
  lt,
  ne,
  notInArray,
  or,
  type SQL,
  sql,
} from 'drizzle-orm'
import type { RunFilter, RunState } from '../../core/api/runs'
import type { Context } from '../access/context'
import { mayBe } from '../access/need'
import type { Database } from './database'
import { runs } from './schema'

/** A run as it is written down. */
export type RunRow = typeof runs.$inferSelect
/** With the finished run of the same report and layout before it. */
export type ListedRun = RunRow & { earlier: string | null }
export type NewRun = typeof runs.$inferInsert

/** How long an Estante that works at a run is taken to be alive without a word of it, in milliseconds. */
export const lease = 30_000

const inLease = sql`now() + ${lease} * interval '1 millisecond'`

/** Runs as they are written down: they outlive the program, and several of them share the work. */
export class RunRows {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  /** Writes a run down; with an instance, as one that this begins at once. */
  async add(_: Context, row: NewRun): Promise<void> {
    await this.saved(() =>
      this.database()
        .insert(runs)
        .values(row.instance ? { ...row, leaseUntil: inLease } : row),
    )
  }

  async find(id: string): Promise<RunRow | undefined> {
    const [row] = await this.database().select().from(runs).where(eq(runs.id, id))
    return row
  }

  /**
   * The next run that waits, or whose Estante is gone, taken by an instance: of people with the fewest that run, the oldest. One is taken
   * by one instance only, however many ask (PostgreSQL manual, section "The Locking Clause", SKIP LOCKED).
   */
  async claim(instance: string, folder: string): Promise<RunRow | undefined> {
    const free = this.database()
      .select({ id: runs.id })
      .from(runs)
      .where(and(eq(runs.folder, folder), this.isFree()))
      .orderBy(
        sql`(select count(*) from ${runs} as other where other.state = 'running' and other.person = runs.person)`,
        asc(runs.createdAt),
        asc(runs.id),
      )
      .limit(1)
      .for('update', { skipLocked: true })
    const [row] = await this.saved(() =>
      this.database()
        .update(runs)
        .set({ state: 'running', instance, leaseUntil: inLease, attempt: sql`${runs.attempt} + 1`, pages: 0 })
        .where(inArray(runs.id, free))
        .returning(),
    )
    return row
  }

  private isFree(): SQL {
    // those of a pack go on with it
    return and(isNull(runs.packRunId), or(eq(runs.state, 'waiting'), and(eq(runs.state, 'running'), lt(runs.leaseUntil, sql`now()`))))!
  }

  /** Runs of an instance of before, which nobody works at any more: they are free again. */
  async release(folder: string, alive: readonly string[]): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(runs)
        .set({ state: 'waiting', instance: null, leaseUntil: null })
        .where(
          and(
            eq(runs.folder, folder),
            eq(runs.state, 'running'),
            isNull(runs.packRunId),
            alive.length ? notInArray(runs.instance, [...alive]) : undefined,
          ),
        ),
    )
  }

  /**
   * Says that an instance is alive, and how far its runs are; comes back with those of them that are to be stopped, or are
   * another's by now.
   */
  async alive(instance: string, pages: ReadonlyMap<string, number>): Promise<{ stopped: string[]; lost: string[] }> {
    const ids = [...pages.keys()]
    const rows = await this.saved(() =>
      this.database()
        .update(runs)
        .set({ leaseUntil: inLease, pages: sql`(${JSON.stringify(Object.fromEntries(pages))}::jsonb ->> ${runs.id})::int` })
        .where(and(inArray(runs.id, ids), eq(runs.instance, instance), eq(runs.state, 'running')))
        .returning({ id: runs.id, stopped: runs.stopped }),
    )
    const own = new Set(rows.map(each => each.id))
    return { stopped: rows.filter(each => each.stopped).map(each => each.id), lost: ids.filter(id => !own.has(id)) }
  }

  /** Writes the end of a run down; false where it is another instance's by now. */
  async end(id: string, instance: string | null, ended: Partial<NewRun> & { state: RunState }): Promise<boolean> {
    const rows = await this.saved(() =>
      this.database()
        .update(runs)
        .set({ ...ended, endedAt: new Date(), leaseUntil: null })
        .where(and(eq(runs.id, id), instance === null ? eq(runs.state, 'waiting') : eq(runs.instance, instance)))
        .returning({ id: runs.id }),
    )
    return rows.length > 0
  }

  /** A run that an instance does not go on with waits for whoever takes it next. */
  async giveBack(id: string, instance: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(runs)
        .set({ state: 'waiting', instance: null, leaseUntil: null, pages: 0 })
        .where(and(eq(runs.id, id), eq(runs.instance, instance))),
    )
  }

  async change(id: string, change: Partial<Pick<NewRun, 'files' | 'pinned' | 'stopped'>>): Promise<void> {
    await this.saved(() => this.database().update(runs).set(change).where(eq(runs.id, id)))
  }

  /** Runs that somebody may see by whose they are, the newest first. */
  async list(context: Context, filter: RunFilter, most: number): Promise<ListedRun[]> {
    return this.database()
      .select({
        ...getTableColumns(runs),
        // a column of the outer row is named in full: by itself it would be the inner one's
        earlier: sql<string | null>`(select other.id from ${runs} as other where other.report_id = runs.report_id and other.state = 'done'
          and other.layout is not distinct from runs.layout and other.created_at < runs.created_at and other.report_id <> ''
          and (other.person_id = runs.person_id or ${this.theirs(context) === undefined})
          order by other.created_at desc limit 1)`,
      })
      .from(runs)
      .where(and(this.theirs(context), this.holding(filter)))
      .orderBy(desc(runs.createdAt), desc(runs.id))
      .limit(most)
  }

  async count(context: Context, filter: RunFilter): Promise<number> {
    const [row] = await this.database()
      .select({ all: count() })
      .from(runs)
      .where(and(this.theirs(context), this.holding(filter)))
    return row!.all
  }

  /** Reports and people that have runs. */
  async ofWhom(context: Context): Promise<{ reports: { id: string; name: string }[]; people: { id: string; name: string }[] }> {
    const db = this.database()
    const reports = await db
      .selectDistinctOn([runs.reportId], { id: runs.reportId, name: runs.name })
      .from(runs)
      .where(and(this.theirs(context), ne(runs.reportId, '')))
      .orderBy(asc(runs.reportId), desc(runs.createdAt))
    const people = await db
      .selectDistinctOn([runs.personId], { id: runs.personId, name: runs.personName })
      .from(runs)
      .where(and(this.theirs(context), isNotNull(runs.personId)))
      .orderBy(asc(runs.personId), desc(runs.createdAt))
    const byName = <T extends { name: string | null }>(list: T[]) => list.sort((one, other) => (one.name! < other.name! ? -1 : 1))
    return { reports: byName(reports), people: byName(people) as { id: string; name: string }[] }
  }

  /** The finished run of the same report and layout before one; of several with the same answers those. */
  async earlier(context: Context, run: Pick<RunRow, 'id' | 'reportId' | 'layout' | 'createdAt'>): Promise<RunRow[]> {
    return this.database()
      .select()
      .from(runs)
      .where(
        and(
          this.theirs(context),
          eq(runs.reportId, run.reportId),
          sql`${runs.layout} is not distinct from ${run.layout}`,
          eq(runs.state, 'done'),
          lt(runs.createdAt, run.createdAt),
        ),
      )
      .orderBy(desc(runs.createdAt))
      .limit(20)
  }

  /** How many runs of somebody wait or run. */
  async unfinished(person: string): Promise<number> {
    const [row] = await this.database()
      .select({ all: count() })
      .from(runs)
      .where(and(eq(runs.person, person), inArray(runs.state, ['waiting', 'running'])))
    return row!.all
  }

  /** Ids of finished runs in a folder that are neither pinned nor among the newest so many, or are older than a moment. */
  async old(folder: string, keep: number, before: Date): Promise<string[]> {
    const finished = and(
      eq(runs.folder, folder),
      notInArray(runs.state, ['waiting', 'running']),
      eq(runs.pinned, false),
      isNull(runs.packRunId),
    )
    const newest = this.database().select({ id: runs.id }).from(runs).where(finished).orderBy(desc(runs.createdAt)).limit(keep)
    const rows = await this.database()
      .select({ id: runs.id })
      .from(runs)
      .where(and(finished, or(lt(runs.createdAt, before), notInArray(runs.id, newest))))
    return rows.map(each => each.id)
  }

  /** Ids of the runs of a run of a pack. */
  async ofPack(packRunId: string): Promise<string[]> {
    const rows = await this.database().select({ id: runs.id }).from(runs).where(eq(runs.packRunId, packRunId))
    return rows.map(each => each.id)
  }

  /** The runs of a run of a pack. */
  partsOf(packRunId: string): Promise<RunRow[]> {
    return this.database().select().from(runs).where(eq(runs.packRunId, packRunId)).orderBy(asc(runs.createdAt), asc(runs.part))
  }

  /** All ids of a folder. */
  async ids(folder: string): Promise<string[]> {
    const rows = await this.database().select({ id: runs.id }).from(runs).where(eq(runs.folder, folder))
    return rows.map(each => each.id)
  }

  async remove(ids: readonly string[]): Promise<void> {
    if (ids.length)
      await this.saved(() =>
        this.database()
          .delete(runs)
          .where(inArray(runs.id, [...ids])),
      )
  }

  /** Own runs, or, for an administrator, anybody's; all where nobody can sign in. */
  private theirs(context: Context): SQL | undefined {
    const { signedIn } = context
    return !signedIn || mayBe(context, 'administrator') ? undefined : eq(runs.personId, signedIn.id)
  }

  private holding({ report, person, state, day }: RunFilter): SQL | undefined {
    const from = day === undefined ? undefined : new Date(`${day}T00:00:00`)
    const to = from && new Date(from.getFullYear(), from.getMonth(), from.getDate() + 1)
    return and(
      report === undefined ? undefined : eq(runs.reportId, report),
      person === undefined ? undefined : eq(runs.personId, person),
      state === undefined ? undefined : eq(runs.state, state),
      from && to ? and(gte(runs.createdAt, from), lt(runs.createdAt, to)) : undefined,
    )
  }
}
