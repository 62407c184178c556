import { randomUUID } from 'node:crypto'
import { and, asc, eq, gte, isNull } from 'drizzle-orm'
import { lesserRole, type Person, type Role, type TokenInfo } from '../../core/api/people'
import { dayText, parseDay } from '../../core/value/date'
import type { Database } from '../store/database'
import { StoreError } from '../store/records'
import { Remembered } from './remembered'
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
    private readonly remembered = new Remembered(() => false),
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
    const hash = hashedSecret(token)
    const still = ({ until, usedAt }: { until: string; usedAt: number }) => until >= dayText(this.today()) && this.now() - usedAt <= written
    return (await this.remembered.read(`token ${hash}`, () => this.found(hash), still))?.person
  }

  private async found(hash: string): Promise<{ person: Person; until: string; usedAt: number } | undefined> {
    const [row] = await this.database()
      .select({ person: people, scope: tokens.scope, usedAt: tokens.usedAt, until: tokens.until })
      .from(tokens)
      .innerJoin(people, eq(tokens.personId, people.id))
      .where(and(eq(tokens.token, hash), gte(tokens.until, dayText(this.today())), isNull(people.removedAt)))
    if (!row) return undefined
    const now = this.now()
    const late = !row.usedAt || now - row.usedAt.getTime() > written
    if (late)
      await this.saved(() =>
        this.database()
          .update(tokens)
          .set({ usedAt: new Date(now) })
          .where(eq(tokens.token, hash)),
      )
    const { id, name, signIn, role } = row.person
    const person = { id, name, signIn: signIn ?? '', role: lesserRole(role, row.scope), teams: await teamsOf(this.database(), id) }
    return { person, until: row.until, usedAt: late ? now : row.usedAt!.getTime() }
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
