import { randomUUID } from 'node:crypto'
import { and, asc, eq, gte, isNull } from 'drizzle-orm'
import { lesserRole, type Person, type Role, type TokenInfo } from '../../core/api/people'
import { dayText, parseDay } from '../../core/value/date'
import type { Database } from '../store/database'
import { StoreError } from '../store/records'
import { teamsOf } from './teams'
import { people, tokens } from '../store/schema'
import { hashedSecret, isSecret, newSecret } from './secrets'

/** Its use is written down at most so often, in milliseconds. */
const written = 60_000
/** The longest that a token is taken for, in days. */
const mostDays = 366

/** Tokens by which other programs ask in the name of a person: never more than that person may, nor than the token says. */
export class Tokens {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    private readonly now: () => number = Date.now,
  ) {}

  /** The day that it is, of UTC. */
  private today(): number {
    return Math.floor(this.now() / 86_400_000)
  }

  /** Makes one; the token is told once. `until` is its last day. @throws StoreError */
  async add(person: Person, said: { name: string; scope: Role; until: string }): Promise<{ id: string; token: string }> {
    const name = said.name.trim().slice(0, 120)
    if (!name) throw new StoreError('Say what the token is for.', 422)
    const until = parseDay(said.until)
    if (until === undefined || until < this.today() || until > this.today() + mostDays)
      throw new StoreError('Say until which day it is taken, such as 2026-12-31: from today on, for a year at most.', 422)
    if (lesserRole(person.role, said.scope) !== said.scope)
      throw new StoreError(`A token may do no more than you: you are ${person.role}.`, 422)
    const [token, id] = [newSecret(), randomUUID()]
    await this.saved(() =>
      this.database()
        .insert(tokens)
        .values({
          token: hashedSecret(token),
          id,
          personId: person.id,
          name,
          scope: said.scope,
          until: dayText(until),
          createdAt: new Date(this.now()),
        }),
    )
    return { id, token }
  }

  /** In whose name a token asks, with what it may do; nothing where it is unknown or over, or its person was removed. */
  async personOf(token: string): Promise<Person | undefined> {
    if (!isSecret(token)) return undefined
    const [row] = await this.database()
      .select({ person: people, scope: tokens.scope, usedAt: tokens.usedAt })
      .from(tokens)
      .innerJoin(people, eq(tokens.personId, people.id))
      .where(and(eq(tokens.token, hashedSecret(token)), gte(tokens.until, dayText(this.today())), isNull(people.removedAt)))
    if (!row) return undefined
    if (!row.usedAt || this.now() - row.usedAt.getTime() > written)
      await this.saved(() =>
        this.database()
          .update(tokens)
          .set({ usedAt: new Date(this.now()) })
          .where(eq(tokens.token, hashedSecret(token))),
      )
    const { id, name, signIn, role } = row.person
    return { id, name, signIn: signIn ?? '', role: lesserRole(role, row.scope), teams: await teamsOf(this.database(), id) }
  }

  /** Those of a person, also what is over, the oldest first. */
  async list(personId: string): Promise<TokenInfo[]> {
    const rows = await this.database().select().from(tokens).where(eq(tokens.personId, personId)).orderBy(asc(tokens.createdAt))
    return rows.map(({ id, name, scope, createdAt, until, usedAt }) => ({
      id,
      name,
      scope,
      createdAt: createdAt.toISOString(),
      until,
      ...(usedAt ? { usedAt: usedAt.toISOString() } : {}),
    }))
  }

  /** Takes one of a person's back: it is not taken any more; whether there was one. */
  async remove(personId: string, id: string): Promise<boolean> {
    const gone = await this.saved(() =>
      this.database()
        .delete(tokens)
        .where(and(eq(tokens.personId, personId), eq(tokens.id, id)))
        .returning({ id: tokens.id }),
    )
    return gone.length > 0
  }

  /** Takes all of a person's back. */
  async removeAll(personId: string): Promise<void> {
    await this.saved(() => this.database().delete(tokens).where(eq(tokens.personId, personId)))
  }
}
