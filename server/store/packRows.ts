import { randomUUID } from 'node:crypto'
import { and, asc, count, desc, eq, gt, inArray, lt, max, or, sql } from 'drizzle-orm'
import { type PackDefinition, readPack } from '../../core/pack/definition'
import type { Context } from '../access/context'
import type { Database } from './database'
import { StoreError } from './records'
import { lease } from './runRows'
import { deliveries, packOccasions, packRuns, packs } from './schema'

export type PackRow = Omit<typeof packs.$inferSelect, 'definition'> & { definition: PackDefinition }
export type PackRunRow = Omit<typeof packRuns.$inferSelect, 'definition'> & { definition: PackDefinition }
export type NewPackRun = typeof packRuns.$inferInsert
export type DeliveryRow = typeof deliveries.$inferSelect
export type NewDelivery = typeof deliveries.$inferInsert
export type OccasionRow = typeof packOccasions.$inferSelect
export type PackState = PackRunRow['state']

const inLease = sql`now() + ${lease} * interval '1 millisecond'`
const over: PackState[] = ['done', 'failed', 'dropped', 'cancelled']

/** A pack that is due at times is due from now on; one that waits for something to happen, from when it is known what has happened. */
const beginsAt = ({ when }: PackDefinition): Date | null => (when && when.is !== 'times' ? null : new Date())

/** Packs, their runs, and what goes out of them. */
export class PackRows {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  async list(_: Context): Promise<PackRow[]> {
    return (await this.database().select().from(packs).orderBy(asc(packs.place), asc(packs.name))) as PackRow[]
  }

  /** @throws StoreError where it is not there */
  async find(_: Context, id: string): Promise<PackRow> {
    const [row] = await this.database().select().from(packs).where(eq(packs.id, id))
    if (!row) throw new StoreError('This pack is not here any more; it was deleted.', 404)
    return row as PackRow
  }

  /** @throws StoreError where the name is taken */
  async add({ signedIn }: Context, name: string, definition: PackDefinition): Promise<string> {
    await this.needName(name)
    const id = randomUUID()
    const [last] = await this.database()
      .select({ place: max(packs.place) })
      .from(packs)
    await this.saved(() =>
      this.database()
        .insert(packs)
        .values({
          id,
          name: name.trim(),
          place: (last?.place ?? 0) + 1,
          version: 1,
          definition: readPack(definition),
          ownerId: signedIn?.id ?? null,
          since: beginsAt(definition),
        }),
    )
    return id
  }

  /** @throws StoreError where it was changed since `basedOn`, or the name is taken */
  async save({ signedIn }: Context, id: string, name: string, definition: PackDefinition, basedOn: number): Promise<number> {
    await this.needName(name, id)
    const before = await this.find({ person: '' }, id)
    const begins = JSON.stringify(before.definition.when) !== JSON.stringify(definition.when)
    const [row] = await this.saved(() =>
      this.database()
        .update(packs)
        .set({
          name: name.trim(),
          definition: readPack(definition),
          version: basedOn + 1,
          ownerId: signedIn?.id ?? null,
          ...(begins ? { since: beginsAt(definition) } : {}),
        })
        .where(and(eq(packs.id, id), eq(packs.version, basedOn)))
        .returning({ version: packs.version }),
    )
    if (!row) throw new StoreError('Somebody else changed this pack in the meantime; open it again and make your change once more.', 409)
    return row.version
  }

  async remove(_: Context, id: string): Promise<void> {
    await this.saved(() => this.database().delete(packs).where(eq(packs.id, id)))
  }

  private async needName(name: string, own = ''): Promise<void> {
    if (!name.trim()) throw new StoreError('A pack needs a name.', 422)
    const [taken] = await this.database()
      .select({ id: packs.id })
      .from(packs)
      .where(sql`lower(${packs.name}) = lower(${name.trim()})`)
    if (taken && taken.id !== own) throw new StoreError(`There is a pack “${name.trim()}” already; choose another name.`, 409)
  }

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

  /** Occasions that are not worked off: missed ones, or what had happened before. False for one that was told of already. */
  async leaveOut(packId: string, occasion: string, state: 'left' | 'before'): Promise<boolean> {
    const rows = await this.saved(() =>
      this.database()
        .insert(packOccasions)
        .values({ packId, occasion, state, at: new Date() })
        .onConflictDoNothing()
        .returning({ occasion: packOccasions.occasion }),
    )
    return rows.length > 0
  }

  /** What has happened so far is known: the pack waits for what comes. */
  async wait(packId: string): Promise<void> {
    await this.saved(() => this.database().update(packs).set({ since: new Date() }).where(eq(packs.id, packId)))
  }

  /** Occasions of a pack, the latest first. */
  async occasions(packId: string, most: number): Promise<OccasionRow[]> {
    return this.database()
      .select()
      .from(packOccasions)
      .where(eq(packOccasions.packId, packId))
      .orderBy(desc(packOccasions.at), desc(packOccasions.occasion))
      .limit(most)
  }

  /** Those of some that a pack has not been told of. */
  async unknown(packId: string, keys: readonly string[]): Promise<string[]> {
    if (!keys.length) return []
    const known = await this.database()
      .select({ occasion: packOccasions.occasion })
      .from(packOccasions)
      .where(and(eq(packOccasions.packId, packId), inArray(packOccasions.occasion, [...keys])))
    const told = new Set(known.map(each => each.occasion))
    return keys.filter(key => !told.has(key))
  }

  async run(id: string): Promise<PackRunRow | undefined> {
    const [row] = await this.database().select().from(packRuns).where(eq(packRuns.id, id))
    return row as PackRunRow | undefined
  }

  /** Runs of a pack, or of all, the newest first. */
  async runs(pack: string | undefined, most: number): Promise<PackRunRow[]> {
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

  /** What goes out, with its run. */
  async delivery(id: string): Promise<DeliveryRow | undefined> {
    const [row] = await this.database().select().from(deliveries).where(eq(deliveries.id, id))
    return row
  }

  /** The run that a delivery is of. */
  async runOfDelivery(id: string): Promise<PackRunRow | undefined> {
    const row = await this.delivery(id)
    return row && this.run(row.packRunId)
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

  /** What an earlier beginning of a run wrote down goes, where a program works at the run and nothing of it was sent yet. */
  async unprepare(packRunId: string, instance: string): Promise<void> {
    const own = this.database()
      .select({ id: packRuns.id })
      .from(packRuns)
      .where(and(eq(packRuns.id, packRunId), eq(packRuns.instance, instance), eq(packRuns.state, 'running')))
    await this.saved(() => this.database().delete(deliveries).where(inArray(deliveries.packRunId, own)))
  }

  /** Writes down what goes out of a run, all of it before any of it goes; what was written down before stays as it is. */
  async prepare(rows: readonly NewDelivery[]): Promise<void> {
    if (!rows.length) return
    for (let from = 0; from < rows.length; from += 500)
      await this.saved(() =>
        this.database()
          .insert(deliveries)
          .values(rows.slice(from, from + 500))
          .onConflictDoNothing(),
      )
  }

  async deliveries(packRunId: string): Promise<DeliveryRow[]> {
    return this.database().select().from(deliveries).where(eq(deliveries.packRunId, packRunId)).orderBy(asc(deliveries.place))
  }

  /** How many there are of a run, by their states. */
  async deliveryCounts(packRunId: string): Promise<{ state: DeliveryRow['state']; count: number }[]> {
    return this.database()
      .select({ state: deliveries.state, count: count() })
      .from(deliveries)
      .where(eq(deliveries.packRunId, packRunId))
      .groupBy(deliveries.state)
  }

  /** Some of them, in their order: those in a state, or all. */
  async deliveryPage(packRunId: string, state: DeliveryRow['state'] | undefined, from: number, most: number): Promise<DeliveryRow[]> {
    return this.database()
      .select()
      .from(deliveries)
      .where(and(eq(deliveries.packRunId, packRunId), state === undefined ? undefined : eq(deliveries.state, state)))
      .orderBy(asc(deliveries.place))
      .offset(from)
      .limit(most)
  }

  /** How many are ready. */
  readyCount(packRunId: string): Promise<number> {
    return this.database().$count(deliveries, and(eq(deliveries.packRunId, packRunId), eq(deliveries.state, 'ready')))
  }

  /** Some of those that are ready, in their order, after a place. */
  readyAfter(packRunId: string, place: number, most: number): Promise<DeliveryRow[]> {
    return this.database()
      .select()
      .from(deliveries)
      .where(and(eq(deliveries.packRunId, packRunId), eq(deliveries.state, 'ready'), gt(deliveries.place, place)))
      .orderBy(asc(deliveries.place))
      .limit(most)
  }

  /** What printers are working at. */
  printing(): Promise<DeliveryRow[]> {
    return this.database()
      .select()
      .from(deliveries)
      .where(and(eq(deliveries.state, 'sending'), eq(deliveries.kind, 'print')))
  }

  /** What was ready of a run does not go out. */
  async dropReady(packRunId: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(deliveries)
        .set({ state: 'dropped', at: new Date() })
        .where(and(eq(deliveries.packRunId, packRunId), eq(deliveries.state, 'ready'))),
    )
  }

  /** Changes the state of one, where it is still in one of some; false where it is not. */
  async mark(id: string, from: readonly DeliveryRow['state'][], change: Partial<NewDelivery>): Promise<boolean> {
    const rows = await this.saved(() =>
      this.database()
        .update(deliveries)
        .set({ ...change, at: new Date() })
        .where(and(eq(deliveries.id, id), inArray(deliveries.state, [...from])))
        .returning({ id: deliveries.id }),
    )
    return rows.length > 0
  }

  /** What was being sent when its program ended may have been accepted or not. */
  async doubt(packRunId: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(deliveries)
        .set({ state: 'uncertain', said: 'Estante was stopped before an answer came.' })
        .where(
          and(
            eq(deliveries.packRunId, packRunId),
            eq(deliveries.state, 'sending'),
            // a printer that has given a job its number can be asked
            sql`not (${deliveries.kind} = 'print' and ${deliveries.content} ? 'job')`,
          ),
        ),
    )
  }
}
