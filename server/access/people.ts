import { randomUUID } from 'node:crypto'
import { and, asc, count, eq, inArray, isNull, sql } from 'drizzle-orm'
import { StoreError } from '../store/records'
import { people, teamPeople, teams } from '../store/schema'
import type { Database } from '../store/database'
import type { Context } from './context'
import { isCommonPassword } from './commonPasswords'
import { hashedPassword, isPassword, passwordFault } from './passwords'
import type { Language, Person, PersonInfo, Role } from '../../core/api/people'
import type { Claimed, ProviderSettings } from './provider'
import type { SecondFactor } from './secondFactor'
import type { Sessions } from './sessions'
import { teamsOf } from './teams'
import type { Tokens } from './tokens'

/** What is said of a new person. */
export interface NewPerson {
  name: string
  signIn: string
  role: Role
  password: string
}

/** What an administrator changes of a person; `second: false` takes their second factor away. */
export interface PersonChange {
  name?: string | undefined
  role?: Role | undefined
  second?: boolean | undefined
  password?: string | undefined
}

const wrong = () => new StoreError('The name or the password is not right; try again.', 401)
const gone = () => new StoreError('This person is not here any more.', 404)

/** People who sign in: an administrator adds them, changes their role and removes them; each changes their own password. */
export class People {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    readonly sessions: Sessions,
    readonly tokens: Tokens,
    readonly second: SecondFactor,
  ) {}

  /** Somebody was there once: from then on there always is. */
  private some = false

  /** Is there anybody who can sign in? */
  async any(): Promise<boolean> {
    if (!this.some) {
      const [row] = await this.database().select({ count: count() }).from(people).where(isNull(people.removedAt))
      this.some = row!.count > 0
    }
    return this.some
  }

  /** A person who is there, with their teams. */
  async find(id: string): Promise<Person | undefined> {
    const [row] = await this.database()
      .select()
      .from(people)
      .where(and(eq(people.id, id), isNull(people.removedAt)))
    if (!row) return undefined
    const { name, signIn, role } = row
    return { id, name, signIn: signIn ?? '', role, teams: await teamsOf(this.database(), id) }
  }

  async list(_: Context): Promise<PersonInfo[]> {
    const rows = await this.database().select().from(people).where(isNull(people.removedAt)).orderBy(asc(people.name), asc(people.id))
    const members = await this.database()
      .select({ person: teamPeople.personId, name: teams.name })
      .from(teamPeople)
      .innerJoin(teams, eq(teamPeople.teamId, teams.id))
      .orderBy(asc(teams.name))
    return rows.map(({ id, name, signIn, role, createdAt, password, subject, secondSecret }) => ({
      id,
      name,
      signIn: signIn ?? '',
      role,
      createdAt: createdAt.toISOString(),
      byPassword: password !== null,
      byProvider: subject !== null,
      second: secondSecret !== null,
      teams: members.filter(each => each.person === id).map(each => each.name),
    }))
  }

  /** @throws StoreError where the name is taken, or the password is none to be taken */
  async add(_: Context, person: NewPerson): Promise<string> {
    const row = await this.checked(person)
    const made = await this.saved(() => this.database().insert(people).values(row).onConflictDoNothing().returning({ id: people.id }))
    if (!made.length) throw new StoreError(`Somebody else signs in as “${row.signIn}” already; take another name.`, 409)
    this.some = true
    return row.id
  }

  /**
   * The first administrator, where nobody is there yet; of two who try at once, one is.
   * @throws StoreError
   */
  async addFirst(_: Context, first: Omit<NewPerson, 'role'>): Promise<string> {
    const row = await this.checked({ ...first, role: 'administrator' })
    const made = await this.saved(() =>
      this.database().transaction(async change => {
        await change.execute(sql`lock table ${people} in share row exclusive mode`)
        const [there] = await change.select({ count: count() }).from(people).where(isNull(people.removedAt))
        return there!.count ? [] : change.insert(people).values(row).returning({ id: people.id })
      }),
    )
    if (!made.length) throw new StoreError('Somebody is administrator already; ask them to add you.', 409)
    this.some = true
    return row.id
  }

  /** A new person's row. @throws StoreError where it cannot be taken */
  private async checked({ name, signIn, role, password }: NewPerson): Promise<typeof people.$inferInsert> {
    const own = signIn.trim().toLowerCase()
    const called = name.trim()
    if (!own || !called) throw new StoreError('Say what the person is called, and what they sign in with.', 422)
    const fault = passwordFault(password, [own, ...called.toLowerCase().split(/\s+/)], isCommonPassword)
    if (fault) throw new StoreError(fault, 422)
    return { id: randomUUID(), name: called, signIn: own, role, password: await hashedPassword(password) }
  }

  /** Changes what a person is called or may do. @throws StoreError where nobody would be administrator any more */
  async change(_: Context, id: string, { name, role, second, password }: PersonChange): Promise<void> {
    if (second === false) await this.second.remove(id)
    if (password !== undefined) await this.givePassword(id, password)
    if ((second === false || password !== undefined) && name === undefined && role === undefined) return
    const called = name?.trim()
    if (name !== undefined && !called) throw new StoreError('Say what the person is called.', 422)
    const set = { ...(called ? { name: called } : {}), ...(role ? { role } : {}) }
    if (!Object.keys(set).length) throw new StoreError('Say what is to be changed: what the person is called, or may do.', 422)
    await this.update(id, set, role !== undefined && role !== 'administrator')
  }

  /** Gives a person a new password, which they change themselves; they are signed out everywhere. @throws StoreError */
  private async givePassword(id: string, password: string): Promise<void> {
    const [row] = await this.database()
      .select()
      .from(people)
      .where(and(eq(people.id, id), isNull(people.removedAt)))
    if (!row) throw gone()
    const fault = passwordFault(password, [row.signIn ?? '', ...row.name.toLowerCase().split(/\s+/)], isCommonPassword)
    if (fault) throw new StoreError(fault, 422)
    const hash = await hashedPassword(password)
    await this.saved(() => this.database().update(people).set({ password: hash }).where(eq(people.id, id)))
    await this.sessions.endAll(id)
  }

  /** Removes a person: their sessions end at once, and their name is free. @throws StoreError */
  async remove(_: Context, id: string): Promise<void> {
    const none = { signIn: null, password: null, subject: null, secondSecret: null, secondPending: null, recovery: null }
    await this.update(id, { ...none, removedAt: new Date() }, true)
    await this.sessions.endAll(id)
    await this.tokens.removeAll(id)
  }

  /** `leaves` says that the person is no administrator afterwards: somebody else has to be one, whoever else is changed meanwhile. */
  private async update(id: string, set: Partial<typeof people.$inferInsert>, leaves: boolean): Promise<void> {
    await this.saved(() =>
      this.database().transaction(async change => {
        if (leaves) {
          const administrators = await change
            .select({ id: people.id })
            .from(people)
            .where(and(eq(people.role, 'administrator'), isNull(people.removedAt)))
            .orderBy(asc(people.id))
            .for('update')
          if (!administrators.some(each => each.id !== id))
            throw new StoreError('Nobody would be administrator any more; make somebody else one first.', 409)
        }
        const changed = await change
          .update(people)
          .set(set)
          .where(and(eq(people.id, id), isNull(people.removedAt)))
          .returning({ id: people.id })
        if (!changed.length) throw gone()
      }),
    )
  }

  /** What a person has of their account: a password, a second factor, and the language that they want where they said one. */
  async account(id: string): Promise<{ password: boolean; second: boolean; language?: Language }> {
    const [row] = await this.database().select().from(people).where(eq(people.id, id))
    return { password: !!row?.password, second: !!row?.secondSecret, ...(row?.language ? { language: row.language } : {}) }
  }

  /** The language of the interface that a person wants from now on. */
  async speak(person: Person, language: Language): Promise<void> {
    await this.saved(() => this.database().update(people).set({ language }).where(eq(people.id, person.id)))
  }

  /** Is it the password of a person? */
  async isPasswordOf(id: string, password: string): Promise<boolean> {
    const [row] = await this.database().select({ password: people.password }).from(people).where(eq(people.id, id))
    return isPassword(password, row?.password)
  }

  /** A new password of one's own; every other session ends. `token` is that of the session that goes on. @throws StoreError */
  async changePassword(person: Person, before: string, password: string, token: string): Promise<void> {
    const [row] = await this.database().select().from(people).where(eq(people.id, person.id))
    if (!(await isPassword(before, row?.password))) throw new StoreError('The password until now is not right; try again.', 401)
    const fault = passwordFault(password, [person.signIn, ...person.name.toLowerCase().split(/\s+/)], isCommonPassword)
    if (fault) throw new StoreError(fault, 422)
    const hash = await hashedPassword(password)
    await this.saved(() => this.database().update(people).set({ password: hash }).where(eq(people.id, person.id)))
    await this.sessions.endAll(person.id, token)
  }

  /**
   * Signs in by name and password, and by a code where the person has a second factor; comes back with the token of a new session, or with
   * nothing where the code is still to be given.
   * @throws StoreError that never says which was wrong
   */
  async signIn(name: string, password: string, about: string, code?: string): Promise<string | undefined> {
    const [row] = await this.database()
      .select()
      .from(people)
      .where(and(eq(people.signIn, name.trim().toLowerCase()), isNull(people.removedAt)))
    if (!(await isPassword(password, row?.password))) throw wrong()
    if (row!.secondSecret) {
      if (!code) return undefined
      if (!(await this.second.use(row!.id, code))) throw wrong()
    }
    return this.sessions.begin(row!.id, about)
  }

  /**
   * Signs in whom a provider has signed in: by what it calls them, or the first time by a mail address that it has checked. Their teams
   * become those of their groups, as far as the administrator has said what these are.
   * @throws StoreError where they are not here
   */
  async signInProvided({ subject, name, mail, groups }: Claimed, { teams: known, adds }: ProviderSettings, about: string): Promise<string> {
    const id = await this.saved(() =>
      this.database().transaction(async change => {
        const here = isNull(people.removedAt)
        let [row] = await change
          .select({ id: people.id })
          .from(people)
          .where(and(eq(people.subject, subject), here))
        if (!row && mail) {
          const byMail = and(eq(people.signIn, mail), isNull(people.subject), here)
          ;[row] = await change.update(people).set({ subject }).where(byMail).returning({ id: people.id })
        }
        if (!row && adds) {
          const own = { id: randomUUID(), name: name || mail || 'Somebody', signIn: mail ?? null, role: 'reader' as const, subject }
          ;[row] = await change.insert(people).values(own).onConflictDoNothing().returning({ id: people.id })
        }
        if (!row) return undefined
        const mapped = [...new Set(Object.values(known))]
        if (mapped.length) {
          const own = new Set(groups.flatMap(each => (Object.hasOwn(known, each) ? known[each]! : [])))
          await change.delete(teamPeople).where(and(eq(teamPeople.personId, row.id), inArray(teamPeople.teamId, mapped)))
          const there = own.size
            ? await change
                .select({ id: teams.id })
                .from(teams)
                .where(inArray(teams.id, [...own]))
            : []
          if (there.length) await change.insert(teamPeople).values(there.map(each => ({ teamId: each.id, personId: row!.id })))
        }
        return row.id
      }),
    )
    if (!id) throw new StoreError('You are not among the people of this Estante; ask an administrator to add you.', 403)
    return this.sessions.begin(id, about, true)
  }
}
