import { createHash, randomBytes } from 'node:crypto'
import { and, eq, isNull, lt, or, sql } from 'drizzle-orm'
import { Secret, TOTP } from 'otpauth'
import { StoreError } from '../store/records'
import { people } from '../store/schema'
import type { Database } from '../store/database'
import type { Secrets } from '../store/secrets'
import { sameText } from './sameText'

/** Recovery codes that are given out at a time, and the seconds of a step (RFC 6238). */
const [recoveryCount, period] = [10, 30]

/** What somebody puts into the program that shows their codes: the secret, and the same as an address for a picture. */
export interface NewSecond {
  secret: string
  uri: string
}

const totpOf = (secret: string, label = '') => new TOTP({ issuer: 'Estante', label, secret: Secret.fromBase32(secret), period })
const hashedCode = (code: string) => createHash('sha256').update(code.replace(/[\s-]/g, '').toUpperCase()).digest('hex')
const wrongCode = () => new StoreError('The code is not right; wait for the next one and try again.', 401)

/**
 * The second factor of people: a code of theirs that is another every half minute (RFC 6238), or one of the codes that they keep for when
 * they have lost what shows it. No code is taken twice.
 */
export class SecondFactor {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    private readonly secrets: () => Pick<Secrets, 'seal' | 'open'>,
    private readonly now: () => number = Date.now,
  ) {}

  private record = (person: string) => `second factor ${person}`

  /** Begins one; it counts once a code of it was shown. @throws StoreError where there is one already */
  async begin(person: { id: string; signIn: string }): Promise<NewSecond> {
    const secret = new Secret({ size: 20 }).base32
    const sealed = this.secrets().seal(this.record(person.id), secret)
    const changed = await this.saved(() =>
      this.database()
        .update(people)
        .set({ secondPending: sealed })
        .where(and(eq(people.id, person.id), isNull(people.secondSecret)))
        .returning({ id: people.id }),
    )
    if (!changed.length) throw new StoreError('You have a second factor already; take it away before you begin another.', 409)
    return { secret, uri: totpOf(secret, person.signIn).toString() }
  }

  /** It counts from now on; comes back with codes for when it is lost, which are told once. @throws StoreError where the code is wrong */
  async confirm(person: string, code: string): Promise<string[]> {
    const [row] = await this.database().select({ pending: people.secondPending }).from(people).where(eq(people.id, person))
    if (!row?.pending) throw new StoreError('Begin the second factor first.', 409)
    const step = this.stepOf(this.secrets().open(this.record(person), row.pending), code)
    if (step === undefined) throw wrongCode()
    const codes = Array.from({ length: recoveryCount }, () =>
      new Secret({ buffer: new Uint8Array(randomBytes(10)).buffer }).base32.slice(0, 16),
    )
    await this.saved(() =>
      this.database()
        .update(people)
        .set({ secondSecret: row.pending, secondPending: null, secondStep: step, recovery: codes.map(hashedCode) })
        .where(and(eq(people.id, person), eq(people.secondPending, row.pending!))),
    )
    return codes.map(each => each.replace(/(.{4})(?=.)/g, '$1-'))
  }

  /** Takes it away. */
  async remove(person: string): Promise<void> {
    await this.saved(() =>
      this.database()
        .update(people)
        .set({ secondSecret: null, secondPending: null, secondStep: null, recovery: null })
        .where(eq(people.id, person)),
    )
  }

  /** Uses a code up, or one of those for when it is lost. Of two who use the same one at once, one does. */
  async use(person: string, code: string): Promise<boolean> {
    const [row] = await this.database()
      .select({ secret: people.secondSecret, recovery: people.recovery })
      .from(people)
      .where(eq(people.id, person))
    if (!row?.secret) return false
    const step = this.stepOf(this.secrets().open(this.record(person), row.secret), code)
    if (step !== undefined) {
      const used = await this.saved(() =>
        this.database()
          .update(people)
          .set({ secondStep: step })
          .where(and(eq(people.id, person), or(isNull(people.secondStep), lt(people.secondStep, step))))
          .returning({ id: people.id }),
      )
      return used.length > 0
    }
    const hash = hashedCode(code)
    if (!((row.recovery as string[] | null) ?? []).some(each => sameText(each, hash))) return false
    const used = await this.saved(() =>
      this.database()
        .update(people)
        .set({ recovery: sql`${people.recovery} - ${hash}::text` })
        .where(and(eq(people.id, person), sql`${people.recovery} ? ${hash}::text`))
        .returning({ id: people.id }),
    )
    return used.length > 0
  }

  /** The step whose code this is: the present one, the one before or the next; nothing where it is none of them. */
  private stepOf(secret: string, code: string): number | undefined {
    const token = code.replace(/\s/g, '')
    if (!/^\d{6}$/.test(token)) return undefined
    const now = this.now()
    const delta = totpOf(secret).validate({ token, timestamp: now, window: 1 })
    return delta === null ? undefined : Math.floor(now / 1000 / period) + delta
  }
}
