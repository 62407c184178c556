import { randomUUID } from 'node:crypto'
import { and, asc, count, desc, eq, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm'
import type { Context } from '../access/context'
import { mayBe, need } from '../access/need'
import { isOnTeam } from '../access/reports'
import { StoreError } from './records'
import { pinnedRows, refreshAddresses, reports, reportTeams, savedAnswers, shelves, teams, versions } from './schema'
import type { Database } from './database'

/** How long a report that was put away can come back, in days. */
export const daysKept = 30

const gone = () => new StoreError('This report is not in the library any more.', 404)

/** A name that none of some others has: “Sales”, “Sales 2”, … */
function freeName(name: string, taken: ReadonlySet<string>): string {
  let free = name
  for (let next = 2; taken.has(free); next++) free = `${name} ${next}`
  return free
}

/** What can be said of a shelf; `team` is an id, empty where it is everybody's, `release` wants a second person for what is published. */
export interface ShelfChange {
  name?: string | undefined
  move?: number | undefined
  team?: string | undefined
  release?: boolean | undefined
}

/** Shelves and the place of reports on them, their names and copies, and those that are put away for a while before they are gone. */
export class Shelving {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  private change<T>(work: (change: Database) => Promise<T>): Promise<T> {
    return this.saved(() => this.database().transaction(work as never))
  }

  private async names(change: Database): Promise<Set<string>> {
    return new Set((await change.select({ name: reports.name }).from(reports)).map(each => each.name))
  }

  private async live(change: Database, id: string): Promise<typeof reports.$inferSelect> {
    const [row] = await change
      .select()
      .from(reports)
      .where(and(eq(reports.id, id), isNull(reports.removedAt)))
    if (!row) throw gone()
    return row
  }

  /** Copies a report beside itself: its definition with layouts, parameters and tie-outs, its pinned rows and kept answers. */
  copy(context: Context, id: string): Promise<{ id: string; name: string }> {
    return this.change(async change => {
      const own = await this.live(change, id)
      const name = freeName(`${own.name} copy`, await this.names(change))
      const made = randomUUID()
      const [draft] = await change
        .select()
        .from(versions)
        .where(and(eq(versions.reportId, id), eq(versions.number, own.draft)))
      await change
        .insert(reports)
        .values({
          id: made,
          name,
          shelfId: own.shelfId,
          place: own.place,
          draft: 1,
          published: null,
          ownerId: context.signedIn?.id ?? null,
          editing: own.editing,
          toAll: own.toAll,
        })
      const shared = await change.select().from(reportTeams).where(eq(reportTeams.reportId, id))
      if (shared.length) await change.insert(reportTeams).values(shared.map(each => ({ ...each, reportId: made })))
      await change.insert(versions).values({ reportId: made, number: 1, basedOn: null, state: 'saved', definition: draft!.definition })
      const pinned = await change.select().from(pinnedRows).where(eq(pinnedRows.reportId, id))
      if (pinned.length) await change.insert(pinnedRows).values(pinned.map(each => ({ ...each, reportId: made })))
      const kept = and(eq(savedAnswers.reportId, id), eq(savedAnswers.personId, context.signedIn?.id ?? ''))
      const answers = await change.select().from(savedAnswers).where(kept)
      if (answers.length) await change.insert(savedAnswers).values(answers.map(each => ({ ...each, reportId: made })))
      await this.inOrder(change, own.shelfId, made, id)
      return { id: made, name }
    })
  }

  /** Calls a report otherwise. @throws StoreError where another has the name */
  rename(_: Context, id: string, name: string): Promise<void> {
    return this.change(async change => {
      const own = await this.live(change, id)
      if (own.name === name) return
      if ((await this.names(change)).has(name))
        throw new StoreError(`Another report is called “${name}” already; reports are found by their names, so choose another.`, 409)
      await change.update(reports).set({ name }).where(eq(reports.id, id))
    })
  }

  /** Puts a report on a shelf, before another one or at its end. */
  place(context: Context, id: string, shelf: string, before?: string): Promise<void> {
    return this.change(async change => {
      const moved = await this.live(change, id)
      const [found] = await change.select().from(shelves).where(eq(shelves.id, shelf))
      if (!found) throw new StoreError('This shelf is not in the library any more.', 404)
      if (found.teamId && !isOnTeam(context, found.teamId))
        throw new StoreError(`The shelf “${found.name}” is a team’s that you are not in; choose another.`, 403)
      const [from] = await change.select().from(shelves).where(eq(shelves.id, moved.shelfId))
      if (from?.release && !found.release && !mayBe(context, 'administrator'))
        throw new StoreError(
          `What is published on “${from.name}” is released by a second person; an administrator can move it to a shelf where it is not.`,
          403,
        )
      await change.update(reports).set({ shelfId: shelf }).where(eq(reports.id, id))
      const own = await change.select({ id: reports.id }).from(reports).where(eq(reports.shelfId, shelf)).orderBy(asc(reports.place))
      const rest = own.map(each => each.id).filter(each => each !== id)
      const at = before === undefined ? rest.length : rest.indexOf(before)
      rest.splice(at < 0 ? rest.length : at, 0, id)
      await this.number(change, rest)
    })
  }

  /** A report stands right after another of its shelf. */
  private async inOrder(change: Database, shelf: string, id: string, after: string): Promise<void> {
    const own = await change.select({ id: reports.id }).from(reports).where(eq(reports.shelfId, shelf)).orderBy(asc(reports.place))
    const rest = own.map(each => each.id).filter(each => each !== id)
    rest.splice(rest.indexOf(after) + 1, 0, id)
    await this.number(change, rest)
  }

  private async number(change: Database, ids: readonly string[], table: typeof reports | typeof shelves = reports): Promise<void> {
    if (!ids.length) return
    const list = sql.join(
      ids.map(id => sql`${id}::text`),
      sql`, `,
    )
    await change
      .update(table)
      .set({ place: sql`array_position(array[${list}], ${table.id})` })
      .where(inArray(table.id, [...ids]))
  }

  /** What stands on a report and stops with it. */
  async uses(_: Context, id: string): Promise<{ addresses: number; nestedIn: string[] }> {
    const [row] = await this.database()
      .select({ addresses: count() })
      .from(refreshAddresses)
      .where(and(eq(refreshAddresses.reportId, id), isNull(refreshAddresses.revokedAt)))
    // as it is called where it is nested: by its id, or by its name in reports that came with the program
    const nested = sql`jsonb_path_exists(${versions.definition}, '$.layouts.** ? (@.kind == "nested" && @.report == $report)',
      jsonb_build_object('report', ${id}::text))`
    const around = await this.database()
      .selectDistinct({ name: reports.name })
      .from(reports)
      .innerJoin(versions, and(eq(versions.reportId, reports.id), sql`${versions.number} in (${reports.draft}, ${reports.published})`))
      .where(and(isNull(reports.removedAt), nested))
      .orderBy(asc(reports.name))
    return { addresses: row?.addresses ?? 0, nestedIn: around.map(each => each.name) }
  }

  /** Puts a report away: it can be brought back for a while. Its name is free meanwhile. */
  putAway(_: Context, id: string): Promise<void> {
    return this.change(async change => {
      const own = await this.live(change, id)
      await change
        .update(reports)
        .set({ removedAt: new Date(), removedName: own.name, name: `${own.name} (put away, ${id})` })
        .where(eq(reports.id, id))
    })
  }

  /** Brings back a report that was put away; it gets another name where its own was taken meanwhile. */
  restore(_: Context, id: string): Promise<{ name: string }> {
    return this.change(async change => {
      const [row] = await change
        .select()
        .from(reports)
        .where(and(eq(reports.id, id), isNotNull(reports.removedAt)))
      if (!row) throw gone()
      const name = freeName(row.removedName!, await this.names(change))
      await change.update(reports).set({ removedAt: null, removedName: null, name }).where(eq(reports.id, id))
      return { name }
    })
  }

  /** Reports that were put away long ago are gone for good. */
  async sweep(now = Date.now()): Promise<void> {
    await this.saved(
      () =>
        this.database()
          .delete(reports)
          .where(lt(reports.removedAt, new Date(now - daysKept * 86_400_000))) as Promise<unknown>,
    )
  }

  /** A new shelf at the end. @throws StoreError where there is one of this name */
  addShelf(_: Context, name: string): Promise<{ id: string }> {
    return this.change(async change => {
      await this.freeShelf(change, name)
      const [last] = await change.select({ place: shelves.place }).from(shelves).orderBy(desc(shelves.place)).limit(1)
      const id = randomUUID()
      await change.insert(shelves).values({ id, name, place: (last?.place ?? 0) + 1 })
      return { id }
    })
  }

  private async freeShelf(change: Database, name: string): Promise<void> {
    const [other] = await change.select().from(shelves).where(eq(shelves.name, name))
    if (other) throw new StoreError(`There is a shelf “${name}” already; choose another name.`, 409)
  }

  /** Calls a shelf otherwise, or moves it by some places. */
  changeShelf(context: Context, id: string, to: ShelfChange): Promise<void> {
    return this.change(async change => {
      const all = await change.select().from(shelves).orderBy(asc(shelves.place))
      const at = all.findIndex(each => each.id === id)
      const { teamId } = all[at] ?? {}
      if (at < 0 || (teamId && !isOnTeam(context, teamId))) throw new StoreError('This shelf is not in the library any more.', 404)
      if (to.team !== undefined || to.release !== undefined) {
        need(context, 'administrator')
        if (to.team) {
          const [team] = await change.select().from(teams).where(eq(teams.id, to.team))
          if (!team) throw new StoreError('This team is not here any more; choose another.', 404)
        }
        await change
          .update(shelves)
          .set({
            ...(to.team === undefined ? {} : { teamId: to.team || null }),
            ...(to.release === undefined ? {} : { release: to.release }),
          })
          .where(eq(shelves.id, id))
      }
      if (to.name !== undefined && to.name !== all[at]!.name) {
        await this.freeShelf(change, to.name)
        await change.update(shelves).set({ name: to.name }).where(eq(shelves.id, id))
      }
      if (!to.move) return
      const rest = all.filter(each => each.id !== id)
      rest.splice(Math.max(0, Math.min(rest.length, at + to.move)), 0, all[at]!)
      await this.number(
        change,
        rest.map(each => each.id),
        shelves,
      )
    })
  }

  /** Takes an empty shelf away; what was put away from it goes with it for good. @throws StoreError where reports stand on it */
  removeShelf(context: Context, id: string): Promise<void> {
    return this.change(async change => {
      const [shelf] = await change.select().from(shelves).where(eq(shelves.id, id))
      if (shelf?.teamId && !isOnTeam(context, shelf.teamId)) throw new StoreError('This shelf is not in the library any more.', 404)
      const own = await change.select({ removedAt: reports.removedAt }).from(reports).where(eq(reports.shelfId, id))
      if (own.some(each => each.removedAt === null))
        throw new StoreError('Reports stand on this shelf; move them to another one first, or put them away.', 409)
      await change.delete(reports).where(eq(reports.shelfId, id))
      await change.delete(shelves).where(eq(shelves.id, id))
    })
  }
}
