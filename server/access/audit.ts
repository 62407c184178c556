import { createHash, randomBytes } from 'node:crypto'
import { and, asc, desc, eq, gte, lt, sql } from 'drizzle-orm'
import type { AuditCheck, AuditEntry, AuditKind, AuditPerson } from '../../core/api/audit'
import type { Database } from '../store/database'
import { StoreError } from '../store/records'
import { audit } from '../store/schema'
import type { Context } from './context'

/** What is looked for: moments are from and up to (not including), words stand in what was done or who did it. */
export interface AuditSearch {
  kind?: AuditKind
  from?: Date
  until?: Date
  words?: string
}

type Row = typeof audit.$inferSelect

const hashOf = (text: string) => createHash('sha256').update(text).digest('hex')

/** JSON with its members in the order of their names: the same whoever has written it, and however the store keeps it. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null'
  const members = Object.entries(value).filter(([, each]) => each !== undefined)
  return `{${members
    .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
    .map(([name, each]) => `${JSON.stringify(name)}:${canonical(each)}`)
    .join(',')}}`
}

/** Halves of letters, and the sign that no text of a database may hold. */
// eslint-disable-next-line no-control-regex
const unstorable = /\u0000|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g

/** Facts as the store gives them back: as JSON, of letters that a database takes. */
function storable(said: Record<string, unknown>): Record<string, unknown> {
  const clean = (value: unknown): unknown =>
    typeof value === 'string'
      ? value.replace(unstorable, '\ufffd')
      : Array.isArray(value)
        ? value.map(clean)
        : typeof value === 'object' && value !== null
          ? Object.fromEntries(Object.entries(value).map(([name, each]) => [name.replace(unstorable, '\ufffd'), clean(each)]))
          : value
  return clean(JSON.parse(JSON.stringify(said))) as Record<string, unknown>
}

const personalHash = (salt: string, personal: unknown) => hashOf(`${salt} ${canonical(personal)}`)

/** The hash of an entry: over the one before it and all that it says, what is personal by its own hash. */
const entryHash = (before: string, { number, at, kind, about, personalHash: personal }: Omit<Row, 'hash' | 'personal' | 'salt'>) =>
  hashOf([before, number, at.toISOString(), kind, canonical(about), personal].join('\n'))

/** What the first entry stands on. */
const beginning = hashOf('Estante')

/** What is written down of who did what: a chain of entries to which nothing but new ones is ever added. */
export class Audit {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    private readonly now: () => number = Date.now,
  ) {}

  /** One after another: an entry stands on the one before it. */
  private last: Promise<unknown> = Promise.resolve()

  /** Writes down what whoever asks has done; `address` is where they did it from. */
  write(context: Context, kind: AuditKind, about: Record<string, unknown>, address?: string): Promise<void> {
    const { signedIn } = context
    return this.entry(kind, about, {
      id: signedIn?.id ?? context.person,
      name: signedIn?.name ?? 'whoever sits at this machine',
      ...(address ? { address } : {}),
    })
  }

  /** Writes down what somebody has done who is not known, or not yet. */
  entry(kind: AuditKind, about: Record<string, unknown>, personal: AuditPerson): Promise<void> {
    const mine = this.last.then(() => this.append(kind, about, personal))
    this.last = mine.catch(() => {})
    return mine
  }

  private async append(kind: AuditKind, said: Record<string, unknown>, personal: AuditPerson): Promise<void> {
    const about = storable(said)
    const salt = randomBytes(16).toString('hex')
    await this.saved(() =>
      this.database().transaction(async change => {
        // several programs may write to one store
        await change.execute(sql`lock table ${audit} in exclusive mode`)
        const [before] = await change.select({ number: audit.number, hash: audit.hash }).from(audit).orderBy(desc(audit.number)).limit(1)
        const row = { number: (before?.number ?? 0) + 1, at: new Date(this.now()), kind, about, personalHash: personalHash(salt, personal) }
        await change.insert(audit).values({ ...row, personal, salt, hash: entryHash(before?.hash ?? beginning, row) })
      }),
    )
  }

  /** Entries that are looked for, the newest first, from one number down. */
  async search(_: Context, { kind, from, until, words }: AuditSearch, most: number, below?: number): Promise<AuditEntry[]> {
    const found = words?.trim().toLowerCase().split(/\s+/).filter(Boolean) ?? []
    const holds = (word: string) =>
      sql`position(${word} in lower(${audit.kind} || ' ' || ${audit.about}::text || ' ' || coalesce(${audit.personal}::text, ''))) > 0`
    const rows = await this.database()
      .select()
      .from(audit)
      .where(
        and(
          kind ? eq(audit.kind, kind) : undefined,
          from ? gte(audit.at, from) : undefined,
          until ? lt(audit.at, until) : undefined,
          below === undefined ? undefined : lt(audit.number, below),
          ...found.map(holds),
        ),
      )
      .orderBy(desc(audit.number))
      .limit(most)
    return rows.map(entryOf)
  }

  /** Is every entry as it was written, and none gone between the first and the last? */
  async check(_: Context): Promise<AuditCheck> {
    let [before, entries] = [beginning, 0]
    const broken = (number: number, sentence: string): AuditCheck => ({ whole: false, entries, broken: number, sentence })
    for (let from = 0; ;) {
      const rows = await this.database()
        .select()
        .from(audit)
        .where(gte(audit.number, from + 1))
        .orderBy(asc(audit.number))
        .limit(1000)
      for (const row of rows) {
        entries++
        if (row.number !== from + 1) return broken(row.number, `Entry ${from + 1} is not there any more.`)
        if (row.personal !== null && row.personalHash !== personalHash(row.salt ?? '', row.personal))
          return broken(row.number, `What is personal in entry ${row.number} is not as it was written.`)
        if (row.hash !== entryHash(before, row)) return broken(row.number, `Entry ${row.number} is not as it was written.`)
        ;[before, from] = [row.hash, row.number]
      }
      if (rows.length < 1000) return { whole: true, entries }
    }
  }

  /** Takes out what is personal of one person, by their id; the chain stays whole, and that it was done is written down. */
  async takeOut(context: Context, personId: string): Promise<number> {
    const gone = await this.saved(() =>
      this.database()
        .update(audit)
        .set({ personal: null, salt: null })
        .where(sql`${audit.personal} ->> 'id' = ${personId}`)
        .returning({ number: audit.number }),
    )
    if (!gone.length) throw new StoreError('Nothing is written down of this person.', 404)
    await this.write(context, 'personal taken out', { entries: gone.length })
    return gone.length
  }
}

function entryOf({ number, at, kind, about, personal }: Row): AuditEntry {
  return {
    number,
    at: at.toISOString(),
    kind: kind as AuditKind,
    about: about as AuditEntry['about'],
    ...(personal ? { personal: personal as AuditPerson } : {}),
  }
}
