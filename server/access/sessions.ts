import { randomUUID } from 'node:crypto'
import { and, desc, eq, gt, isNull, lt, ne, or } from 'drizzle-orm'
import { people, sessions } from '../store/schema'
import type { Database } from '../store/database'
import { hashedSecret, isSecret, newSecret } from './secrets'
import type { Person, SessionInfo } from '../../core/api/people'
import { Remembered } from './remembered'
import { teamsOf } from './teams'

/** A session ends after so long without use, and at last after so long in all; milliseconds. */
export const idleTime = 12 * 3600_000
export const longestTime = 30 * 24 * 3600_000
/** Its use is written down at most so often. */
const written = 60_000

/** Who is signed in where: rows in the store, each under the hash of a token that only its browser has. */
export class Sessions {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    private readonly now: () => number = Date.now,
    private readonly remembered = new Remembered(() => false),
  ) {}

  /** Begins one; comes back with its token, which is told once. `about` is what the program that signs in calls itself. */
  async begin(personId: string, about: string, provided = false): Promise<string> {
    const token = newSecret()
    const now = this.now()
    await this.saved(async () => {
      await this.database().delete(sessions).where(this.over(now))
      await this.database()
        .insert(sessions)
        .values({
          token: hashedSecret(token),
          id: randomUUID(),
          personId,
          about: about.slice(0, 300),
          provided,
          createdAt: new Date(now),
          usedAt: new Date(now),
          endsAt: new Date(now + longestTime),
        })
    })
    return token
  }

  private over(now: number) {
    return or(lt(sessions.endsAt, new Date(now)), lt(sessions.usedAt, new Date(now - idleTime)))!
  }

  /** Whom a token belongs to; nothing where it is unknown, has ended, or its owner was removed. */
  async personOf(token: string): Promise<Person | undefined> {
    if (!isSecret(token)) return undefined
    const hash = hashedSecret(token)
    const still = ({ endsAt, usedAt }: { endsAt: number; usedAt: number }) => this.now() < endsAt && this.now() - usedAt <= written
    return (await this.remembered.read(`session ${hash}`, () => this.found(hash), still))?.person
  }

  private async found(hash: string): Promise<{ person: Person; endsAt: number; usedAt: number } | undefined> {
    const now = this.now()
    const [row] = await this.database()
      .select({ person: people, usedAt: sessions.usedAt, endsAt: sessions.endsAt })
      .from(sessions)
      .innerJoin(people, eq(sessions.personId, people.id))
      .where(
        and(
          eq(sessions.token, hash),
          gt(sessions.endsAt, new Date(now)),
          gt(sessions.usedAt, new Date(now - idleTime)),
          isNull(people.removedAt),
        ),
      )
    if (!row) return undefined
    const late = now - row.usedAt.getTime() > written
    if (late)
      await this.saved(() =>
        this.database()
          .update(sessions)
          .set({ usedAt: new Date(now) })
          .where(eq(sessions.token, hash)),
      )
    const { id, name, signIn, role } = row.person
    const person = { id, name, signIn: signIn ?? '', role, teams: await teamsOf(this.database(), id) }
    return { person, endsAt: row.endsAt.getTime(), usedAt: late ? now : row.usedAt.getTime() }
  }

  /** Those of a person that go on, the one used last first. */
  async list(personId: string, own: string): Promise<SessionInfo[]> {
    const now = this.now()
    const rows = await this.database()
      .select()
      .from(sessions)
      .where(and(eq(sessions.personId, personId), gt(sessions.endsAt, new Date(now)), gt(sessions.usedAt, new Date(now - idleTime))))
      .orderBy(desc(sessions.usedAt))
    return rows.map(({ id, createdAt, usedAt, about, token }) => ({
      id,
      createdAt: createdAt.toISOString(),
      usedAt: usedAt.toISOString(),
      about,
      own: token === hashedSecret(own),
    }))
  }

  /** Ends one by its token; comes back with whether a provider began it. */
  async end(token: string): Promise<boolean> {
    const [gone] = await this.saved(() =>
      this.database()
        .delete(sessions)
        .where(eq(sessions.token, hashedSecret(token)))
        .returning({ provided: sessions.provided }),
    )
    return gone?.provided ?? false
  }

  /** Ends one of a person's; whether there was one. */
  async endOne(personId: string, id: string): Promise<boolean> {
    const gone = await this.saved(() =>
      this.database()
        .delete(sessions)
        .where(and(eq(sessions.personId, personId), eq(sessions.id, id)))
        .returning({ id: sessions.id }),
    )
    return gone.length > 0
  }

  /** Ends all of a person's, or all but one. */
  async endAll(personId: string, but?: string): Promise<void> {
    const own = eq(sessions.personId, personId)
    await this.saved(() =>
      this.database()
        .delete(sessions)
        .where(but === undefined ? own : and(own, ne(sessions.token, hashedSecret(but)))),
    )
  }
}
