import { and, asc, count, eq, gt, inArray, sql } from 'drizzle-orm'
import type { Database } from './database'
import { deliveries, packRuns } from './schema'

export type DeliveryRow = typeof deliveries.$inferSelect
export type NewDelivery = typeof deliveries.$inferInsert

/** What goes out of runs of packs, each with its state. */
export class DeliveryRows {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  /** What goes out, with its run. */
  async find(id: string): Promise<DeliveryRow | undefined> {
    const [row] = await this.database().select().from(deliveries).where(eq(deliveries.id, id))
    return row
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

  async of(packRunId: string): Promise<DeliveryRow[]> {
    return this.database().select().from(deliveries).where(eq(deliveries.packRunId, packRunId)).orderBy(asc(deliveries.place))
  }

  /** How many there are of a run, by their states. */
  async counts(packRunId: string): Promise<{ state: DeliveryRow['state']; count: number }[]> {
    return this.database()
      .select({ state: deliveries.state, count: count() })
      .from(deliveries)
      .where(eq(deliveries.packRunId, packRunId))
      .groupBy(deliveries.state)
  }

  /** Some of them, in their order: those in a state, or all. */
  async page(packRunId: string, state: DeliveryRow['state'] | undefined, from: number, most: number): Promise<DeliveryRow[]> {
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
