import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import type { Team, TeamInfo } from '../../core/api/people'
import { StoreError } from '../store/records'
import { people, shelves, teamPeople, teams } from '../store/schema'
import type { Database } from '../store/database'
import type { Context } from './context'

/** What is said of a team. */
export interface SaidTeam {
  name: string
  attributes: Record<string, string[]>
  /** ids of the people in it */
  people: string[]
}

/** What is known of every person by itself: no team can say it. */
const ownNames = new Set(['sign_in'])

/** Teams of people: administrators make them, say who is in them and what guards may ask of them. */
export class Teams {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  /** All of them by name, with who is in each. */
  async list(_: Context): Promise<TeamInfo[]> {
    const rows = await this.database().select().from(teams).orderBy(asc(teams.name))
    const members = await this.database()
      .select({ team: teamPeople.teamId, person: people.id })
      .from(teamPeople)
      .innerJoin(people, eq(teamPeople.personId, people.id))
      .where(isNull(people.removedAt))
    return rows.map(({ id, name, attributes }) => ({
      id,
      name,
      attributes: attributes as Team['attributes'],
      people: members.filter(each => each.team === id).map(each => each.person),
    }))
  }

  /** A team by its id; nothing where it is not there. */
  async find(_: Context, id: string): Promise<Team | undefined> {
    const [row] = await this.database().select().from(teams).where(eq(teams.id, id))
    return row && { ...row, attributes: row.attributes as Team['attributes'] }
  }

  /** @throws StoreError where the name is taken, or something of it cannot be */
  async add(_: Context, said: SaidTeam): Promise<string> {
    const id = randomUUID()
    const row = checked(said)
    await this.saved(() =>
      this.database().transaction(async change => {
        const made = await change
          .insert(teams)
          .values({ id, ...row })
          .onConflictDoNothing()
          .returning({ id: teams.id })
        if (!made.length) throw taken(row.name)
        await keepMembers(change, id, said.people)
      }),
    )
    return id
  }

  /** Says all of it anew. @throws StoreError */
  async change(_: Context, id: string, said: SaidTeam): Promise<void> {
    const row = checked(said)
    await this.saved(() =>
      this.database().transaction(async change => {
        const [before] = await change.select({ id: teams.id }).from(teams).where(eq(teams.id, id)).for('update')
        if (!before) throw gone()
        const [other] = await change.select({ id: teams.id }).from(teams).where(eq(teams.name, row.name))
        if (other && other.id !== id) throw taken(row.name)
        await change.update(teams).set(row).where(eq(teams.id, id))
        await change.delete(teamPeople).where(eq(teamPeople.teamId, id))
        await keepMembers(change, id, said.people)
      }),
    )
  }

  /** @throws StoreError where it is not there, or a shelf is still its */
  async remove(_: Context, id: string): Promise<void> {
    await this.saved(() =>
      this.database().transaction(async change => {
        const own = await change.select({ name: shelves.name }).from(shelves).where(eq(shelves.teamId, id))
        if (own.length)
          throw new StoreError(`The shelf “${own[0]!.name}” is this team’s; give it to another team or to everybody first.`, 409)
        const found = await change.delete(teams).where(eq(teams.id, id)).returning({ id: teams.id })
        if (!found.length) throw gone()
      }),
    )
  }
}

const gone = () => new StoreError('This team is not here any more.', 404)
const taken = (name: string) => new StoreError(`There is a team “${name}” already; take another name.`, 409)

function checked({ name, attributes }: SaidTeam): { name: string; attributes: Team['attributes'] } {
  const called = name.trim()
  if (!called) throw new StoreError('Say what the team is called.', 422)
  const own: Team['attributes'] = {}
  for (const [key, values] of Object.entries(attributes)) {
    if (!/^[\p{L}_][\p{L}\p{N}_]*$/u.test(key))
      throw new StoreError(`“${key}” cannot be asked for in a guard; call it by one word of letters, digits and _.`, 422)
    if (ownNames.has(key)) throw new StoreError(`person.${key} is what somebody signs in with; call it otherwise.`, 422)
    own[key] = [...new Set(values.map(each => each.trim()).filter(Boolean))]
  }
  return { name: called, attributes: own }
}

/** @throws StoreError where one is not there */
async function keepMembers(change: Pick<Database, 'select' | 'insert'>, id: string, members: readonly string[]): Promise<void> {
  if (!members.length) return
  const known = await change
    .select({ id: people.id })
    .from(people)
    .where(and(inArray(people.id, [...members]), isNull(people.removedAt)))
  if (known.length !== new Set(members).size) throw new StoreError('Somebody of this team is not here any more; open it again.', 409)
  await change.insert(teamPeople).values(known.map(each => ({ teamId: id, personId: each.id })))
}

/** The teams of a person. */
export async function teamsOf(database: Database, personId: string): Promise<Team[]> {
  const rows = await database
    .select({ team: teams })
    .from(teamPeople)
    .innerJoin(teams, eq(teamPeople.teamId, teams.id))
    .where(eq(teamPeople.personId, personId))
    .orderBy(asc(teams.name))
  return rows.map(({ team }) => ({ ...team, attributes: team.attributes as Team['attributes'] }))
}
