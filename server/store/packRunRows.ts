import { and, asc, desc, eq, inArray, lt, or, sql } from 'drizzle-orm'
import type { PackDefinition } from '../../core/pack/definition'
import type { Context } from '../access/context'
import type { Database } from './database'
import { StoreError } from './records'
import { lease } from './runRows'
import { packOccasions, packRuns } from './schema'

export type PackRunRow = Omit<typeof packRuns.$inferSelect, 'definition'> & { definition: PackDefinition }
export type NewPackRun = typeof packRuns.$inferInsert
export type PackState = PackRunRow['state']

const inLease = sql`now() + ${lease} * interval '1 millisecond'`
const over: PackState[] = ['done', 'failed', 'dropped', 'cancelled']

/** Runs of packs: a queue that programs share, and a history. */
export class PackRunRows {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  /** Writes a run of a pack down. False where its occasion was begun already: by another program, or before a crash. */
  begin(_: Context, run: NewPackRun): Promise<boolean> {
    return this.saved(() =>
      this.database().transaction(async change => {
        if (run.occasion) {
          const taken = { packId: run.packId, occasion: run.occasion, state: 'begun' as const, runId: run.id, at: new Date() }
          const [own] = await change.insert(packOccasions).values(taken).onConflictDoNothing().returning({ runId: packOccasions.runId })
          if (!own) return false
        }
        await change.insert(packRuns).values(run)
        return true
      }),
    )
  }

  async find(id: string): Promise<PackRunRow | undefined> {
    const [row] = await this.database().select().from(packRuns).where(eq(packRuns.id, id))
    return row as PackRunRow | undefined
  }

  /** Runs of a pack, or of all, the newest first. */
  async list(pack: string | undefined, most: number): Promise<PackRunRow[]> {
    return (await this.database()
      .select()
      .from(packRuns)
      .where(pack === undefined ? undefined : eq(packRuns.packId, pack))
      .orderBy(desc(packRuns.createdAt), desc(packRuns.id))
      .limit(most)) as PackRunRow[]
  }

  /** Ids of all runs whose files are in a folder. */
  async ids(folder: string): Promise<string[]> {
    const rows = await this.database().select({ id: packRuns.id }).from(packRuns).where(eq(packRuns.folder, folder))
    return rows.map(each => each.id)
  }

  /** Runs that are over since before a moment, and have files in a folder still. */
  async old(folder: string, before: Date): Promise<string[]> {
    const rows = await this.database()
      .select({ id: packRuns.id })
      .from(packRuns)
      .where(
        and(
          eq(packRuns.folder, folder),
          inArray(packRuns.state, over),
          lt(packRuns.endedAt, before),
          sql`jsonb_array_length(${packRuns.files}) > 0`,
        ),
      )
      .limit(500)
    return rows.map(each => each.id)
  }

  /** The files of a run are gone; what it came to stays in the history. */
  async emptied(id: string): Promise<void> {
    await this.saved(() => this.database().update(packRuns).set({ files: [] }).where(eq(packRuns.id, id)))
  }

  /** A run that is over is to send more of what goes out of it. */
  async reopen(id: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({ state: 'sending', endedAt: null, instance: null, leaseUntil: null })
        .where(and(eq(packRuns.id, id), eq(packRuns.state, 'done'))),
    )
  }

  /** The next run that waits, or that was let go and is to be sent, or whose program is gone: taken by one program only. */
  async claim(instance: string, folder: string): Promise<PackRunRow | undefined> {
    const left = and(
      inArray(packRuns.state, ['running', 'sending']),
      or(lt(packRuns.leaseUntil, sql`now()`), sql`${packRuns.instance} is null`),
    )
    const free = this.database()
      .select({ id: packRuns.id })
      .from(packRuns)
      .where(and(eq(packRuns.folder, folder), or(eq(packRuns.state, 'waiting'), left)))
      .orderBy(asc(packRuns.createdAt))
      .limit(1)
      .for('update', { skipLocked: true })
    const [row] = await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({
          state: sql`case when ${packRuns.state} = 'sending' then 'sending' else 'running' end`,
          instance,
          leaseUntil: inLease,
          attempt: sql`${packRuns.attempt} + 1`,
        })
        .where(inArray(packRuns.id, free))
        .returning(),
    )
    return row as PackRunRow | undefined
  }

  /** What a program of before worked at is free again. */
  async release(folder: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({ instance: null, leaseUntil: null })
        .where(and(eq(packRuns.folder, folder), inArray(packRuns.state, ['running', 'sending']))),
    )
  }

  /** Says that a program is alive and how far its run is; whether it is to be stopped, and is still its own. */
  async alive(id: string, instance: string, progress: unknown): Promise<{ own: boolean; stopped: boolean }> {
    const [row] = await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({ leaseUntil: inLease, progress })
        .where(and(eq(packRuns.id, id), eq(packRuns.instance, instance)))
        .returning({ stopped: packRuns.stopped }),
    )
    return { own: row !== undefined, stopped: row?.stopped ?? false }
  }

  /** Changes a run that a program works at; false where it is another's by now. */
  async change(id: string, instance: string, change: Partial<NewPackRun>): Promise<boolean> {
    const ends = change.state !== undefined && over.includes(change.state)
    const rests = ends || change.state === 'held'
    const rows = await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({ ...change, ...(ends ? { endedAt: new Date() } : {}), ...(rests ? { instance: null, leaseUntil: null } : {}) })
        .where(and(eq(packRuns.id, id), eq(packRuns.instance, instance)))
        .returning({ id: packRuns.id }),
    )
    return rows.length > 0
  }

  /** What a run works at is left to whoever takes it next. */
  async giveBack(id: string, instance: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({ instance: null, leaseUntil: null })
        .where(and(eq(packRuns.id, id), eq(packRuns.instance, instance))),
    )
  }

  /** Somebody lets a held run go, or drops it. @throws StoreError where it is not held any more */
  async decide({ signedIn }: Context, id: string, released: boolean, reason: string): Promise<void> {
    const [row] = await this.saved(() =>
      this.database()
        .update(packRuns)
        .set({
          state: released ? 'sending' : 'dropped',
          decidedBy: signedIn?.name ?? '',
          decidedAt: new Date(),
          reason,
          instance: null,
          leaseUntil: null,
          ...(released ? {} : { endedAt: new Date() }),
        })
        .where(and(eq(packRuns.id, id), eq(packRuns.state, 'held')))
        .returning({ id: packRuns.id }),
    )
    if (!row) throw new StoreError('This pack is not held any more; somebody else has decided it.', 409)
  }

  /** A run is to be stopped: at once where nobody works at it. */
  async stop(_: Context, id: string): Promise<void> {
    await this.saved(async () => {
      await this.database()
        .update(packRuns)
        .set({ state: 'cancelled', endedAt: new Date() })
        .where(and(eq(packRuns.id, id), eq(packRuns.state, 'waiting')))
      await this.database().update(packRuns).set({ stopped: true }).where(eq(packRuns.id, id))
    })
  }
}
