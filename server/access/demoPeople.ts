import { randomUUID } from 'node:crypto'
import { and, asc, count, eq, isNull, sql } from 'drizzle-orm'
import type { DemoPerson } from '../../core/api/people'
import { noGuards, type SourceGuards } from '../../core/guard/guards'
import type { DemoCompany } from '../sources/contract'
import { StoreError } from '../store/records'
import { people, teamPeople, teams } from '../store/schema'
import type { Database } from '../store/database'
import type { Sessions } from './sessions'

/**
 * Invented people of a demo, who sign in with a click and without a password. There are none outside of a data folder that came with the
 * demo: nothing else makes this, and those of a store that a folder of one's own shares have no password to sign in with.
 */
export class DemoPeople {
  constructor(
    private readonly database: () => Database,
    private readonly sessions: Sessions,
    private readonly keepGuards: (source: string, guards: SourceGuards) => Promise<unknown>,
  ) {}

  /** Makes them, their teams and guards, where nobody was ever there. */
  async make({ teams: groups, people: invented, guards }: DemoCompany, source: string): Promise<void> {
    const made = await this.database().transaction(async change => {
      await change.execute(sql`lock table ${people} in share row exclusive mode`)
      const [there] = await change.select({ count: count() }).from(people)
      if (there!.count) return undefined
      const ids = new Map(groups.map(each => [each.name, randomUUID()]))
      await change.insert(teams).values(groups.map(({ name, attributes }) => ({ id: ids.get(name)!, name, attributes })))
      for (const { name, signIn, role, teams: own } of invented) {
        const id = randomUUID()
        await change.insert(people).values({ id, name, signIn, role, demo: true })
        if (own.length) await change.insert(teamPeople).values(own.map(each => ({ teamId: ids.get(each)!, personId: id })))
      }
      return ids
    })
    if (!made) return
    const own = guards.map(each => ({ ...each, team: made.get(each.team)! }))
    await this.keepGuards(source, { ...noGuards, guards: own })
  }

  async list(): Promise<DemoPerson[]> {
    const rows = await this.database()
      .select({ id: people.id, name: people.name, role: people.role, team: teams.name })
      .from(people)
      .leftJoin(teamPeople, eq(teamPeople.personId, people.id))
      .leftJoin(teams, eq(teamPeople.teamId, teams.id))
      .where(and(eq(people.demo, true), isNull(people.removedAt)))
      // those who may do the most stand first
      .orderBy(sql`array_position(array['administrator', 'author', 'reader'], ${people.role})`, asc(people.name))
    const found: DemoPerson[] = []
    for (const { team, ...person } of rows) {
      const known = found.find(each => each.id === person.id)
      if (known) known.teams.push(team!)
      else found.push({ ...person, teams: team === null ? [] : [team] })
    }
    return found
  }

  /** Signs one of them in. @throws StoreError where it is none of them */
  async signIn(id: string, about: string): Promise<string> {
    const [row] = await this.database()
      .select({ id: people.id })
      .from(people)
      .where(and(eq(people.id, id), eq(people.demo, true), isNull(people.removedAt)))
    if (!row) throw new StoreError('This person is not one of the demo; choose another.', 404)
    return this.sessions.begin(row.id, about)
  }
}
