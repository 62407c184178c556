import { randomUUID } from 'node:crypto'
import { and, count, desc, eq, inArray, isNull } from 'drizzle-orm'
import type { Publication, ReportAudience } from '../../core/api/publishing'
import { definitionChanges } from '../../core/compare/definitions'
import type { ReportDefinition } from '../../core/definition/report'
import type { Context } from '../access/context'
import { mayBe } from '../access/need'
import { StoreError } from './records'
import { people, publications, reports, reportTeams, shelves, teams } from './schema'
import type { Database } from './database'

/** What publishing came to: readers run the version, or it waits for a second person. */
export type Published = { published: number } | { waiting: number }

const gone = () => new StoreError('This report is not in the library any more.', 404)

/** What is published when, by whom, with what had changed; to whom; and what waits until a second person releases it. */
export class Publishing {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    private readonly version: (context: Context, id: string, number: number) => Promise<ReportDefinition>,
  ) {}

  /** What the draft would change for readers, in sentences. */
  async changes(context: Context, id: string): Promise<string[]> {
    const [row] = await this.database().select().from(reports).where(eq(reports.id, id))
    if (!row) throw gone()
    if (row.published === null) return ['It is published for the first time.']
    const [before, after] = [await this.version(context, id, row.published), await this.version(context, id, row.draft)]
    return definitionChanges(before, after)
  }

  /** Makes the draft what readers run; on a shelf that wants a second person, it waits for one. */
  async publish(context: Context, id: string): Promise<Published> {
    const changes = await this.changes(context, id)
    const person = context.signedIn?.id ?? null
    return this.saved(() =>
      this.database().transaction(async change => {
        const [row] = await change
          .select({ report: reports, release: shelves.release })
          .from(reports)
          .innerJoin(shelves, eq(reports.shelfId, shelves.id))
          .where(and(eq(reports.id, id), isNull(reports.removedAt)))
          .for('update', { of: reports })
        if (!row) throw gone()
        const { draft: version } = row.report
        await change
          .update(publications)
          .set({ state: 'overtaken' })
          .where(and(eq(publications.reportId, id), eq(publications.state, 'waiting')))
        const waits = row.release && person !== null
        await change
          .insert(publications)
          .values({ id: randomUUID(), reportId: id, version, state: waits ? 'waiting' : 'published', changes, personId: person })
        if (waits) return { waiting: version }
        await change.update(reports).set({ published: version }).where(eq(reports.id, id))
        return { published: version }
      }),
    )
  }

  /**
   * A second person lets what waits be what readers run, or refuses it.
   * @throws StoreError where nothing waits, or it is their own
   */
  async decide(context: Context, id: string, released: boolean): Promise<number> {
    const person = context.signedIn?.id ?? null
    return this.saved(() =>
      this.database().transaction(async change => {
        const [waiting] = await change
          .select()
          .from(publications)
          .where(and(eq(publications.reportId, id), eq(publications.state, 'waiting')))
          .for('update')
        if (!waiting) throw new StoreError('Nothing of this report waits to be released any more.', 409)
        if (released && (person === null || waiting.personId === person))
          throw new StoreError('What you have published yourself is released by somebody else; ask another author.', 403)
        await change
          .update(publications)
          .set({ state: released ? 'published' : 'refused', secondId: person, secondAt: new Date() })
          .where(eq(publications.id, waiting.id))
        if (released) await change.update(reports).set({ published: waiting.version }).where(eq(reports.id, id))
        return waiting.version
      }),
    )
  }

  /** All that was published of a report, the newest first. */
  async history(_: Context, id: string): Promise<Publication[]> {
    const rows = await this.database()
      .select()
      .from(publications)
      .where(eq(publications.reportId, id))
      .orderBy(desc(publications.at))
      .limit(200)
    const ids = [...new Set(rows.flatMap(row => [row.personId, row.secondId].filter(each => each !== null)))]
    const known = ids.length
      ? await this.database().select({ id: people.id, name: people.name }).from(people).where(inArray(people.id, ids))
      : []
    const nameOf = (person: string | null) => known.find(each => each.id === person)?.name
    return rows.map(({ version, state, changes, personId, at, secondId, secondAt }) => {
      const [by, second] = [nameOf(personId), nameOf(secondId)]
      return {
        version,
        state,
        changes: changes as string[],
        at: at.toISOString(),
        ...(by === undefined ? {} : { by }),
        ...(second === undefined || !secondAt ? {} : { second, secondAt: secondAt.toISOString() }),
      }
    })
  }

  /** Who runs and who edits a report. */
  async audience(_: Context, id: string): Promise<ReportAudience> {
    const [row] = await this.database()
      .select({ toAll: reports.toAll, editing: reports.editing, ownerId: reports.ownerId, owner: people.name })
      .from(reports)
      .leftJoin(people, eq(reports.ownerId, people.id))
      .where(eq(reports.id, id))
    if (!row) throw gone()
    const shared = await this.database().select().from(reportTeams).where(eq(reportTeams.reportId, id))
    const teamsOf = (right: 'run' | 'edit') => shared.filter(each => each.right === right).map(each => each.teamId)
    return {
      toAll: row.toAll,
      teams: teamsOf('run'),
      editing: row.editing,
      editors: teamsOf('edit'),
      ...(row.owner === null ? {} : { owner: row.owner }),
    }
  }

  /** Says anew who runs and who edits a report. @throws StoreError where whoever says it would not edit it any more */
  async setAudience(context: Context, id: string, said: Omit<ReportAudience, 'owner'>): Promise<void> {
    const { toAll, teams: runners, editing, editors } = said
    const all = [...new Set([...runners, ...editors])]
    await this.saved(() =>
      this.database().transaction(async change => {
        const [row] = await change.select().from(reports).where(eq(reports.id, id)).for('update')
        if (!row) throw gone()
        if (all.length) {
          const [known] = await change.select({ count: count() }).from(teams).where(inArray(teams.id, all))
          if (known!.count !== all.length) throw new StoreError('A team is not here any more; open this again.', 409)
        }
        const { signedIn } = context
        const own = !signedIn || mayBe(context, 'administrator') || row.ownerId === signedIn.id
        const edits = editing === 'all' || (editing === 'teams' && signedIn?.teams.some(team => editors.includes(team.id)))
        if (!own && !edits)
          throw new StoreError('You would not be able to edit this report any more; leave a team of yours among its authors.', 422)
        await change.update(reports).set({ toAll, editing }).where(eq(reports.id, id))
        await change.delete(reportTeams).where(eq(reportTeams.reportId, id))
        const rows = [
          ...(toAll ? [] : [...new Set(runners)].map(teamId => ({ reportId: id, teamId, right: 'run' as const }))),
          ...(editing === 'teams' ? [...new Set(editors)].map(teamId => ({ reportId: id, teamId, right: 'edit' as const })) : []),
        ]
        if (rows.length) await change.insert(reportTeams).values(rows)
      }),
    )
  }
}
