import type { PGlite } from '@electric-sql/pglite'
import { isCopied, isDead, isMade, journalPerCopy, journalPlace, keepCopy, makeFolder, openFolder } from '../engine/durable'
import { needRoom } from '../engine/files'

/** How often it is looked whether a copy of the store is due. */
const look = 10 * 60_000
/** The first time it is, in milliseconds. */
const restful = 20_000

/**
 * The store's own engine in a folder: opened again where it has come to its end (a disk that became full in the middle of a write), and
 * copied now and then, so that a folder that does not open any more is no loss.
 */
export class LiteStore {
  private db: Promise<PGlite> | undefined
  private copied = 0
  private first: NodeJS.Timeout | undefined
  private timer: NodeJS.Timeout | undefined
  private copying: Promise<void> | undefined
  private closed = false
  private closing: Promise<void> | undefined
  /** what had to be done to open it, in sentences */
  readonly notes: string[] = []

  constructor(private readonly folder: string) {}

  /** Opens the folder, or makes it; `migrate` brings its tables up to date. @throws FullDiskError */
  async open(migrate: (db: PGlite) => Promise<void>): Promise<void> {
    if (!isMade(this.folder)) await makeFolder(this.folder, migrate)
    const db = await this.engine()
    await migrate(db)
    // where there is a copy already, the journal since keeps all that came after it: the library is shown first
    if (!isCopied(this.folder)) await this.copy().catch(() => {})
    else this.first = setTimeout(() => this.aside(() => this.copy()), restful).unref()
    this.timer = setInterval(() => this.aside(() => this.copyWhereDue()), look)
    this.timer.unref()
  }

  /** What Drizzle speaks to: the engine that is open at the time. */
  client(): PGlite {
    const own = <K extends 'query' | 'exec' | 'transaction'>(name: K) =>
      (async (...args: unknown[]) => {
        const db = await this.engine()
        try {
          return await (db[name] as (...each: unknown[]) => Promise<unknown>).apply(db, args)
        } catch (error) {
          if (isDead(error)) await this.drop(db)
          throw error
        }
      }) as PGlite[K]
    return { query: own('query'), exec: own('exec'), transaction: own('transaction') } as unknown as PGlite
  }

  /** @throws FullDiskError before anything is written that might find no room */
  needRoom(): void {
    needRoom(this.folder)
  }

  close(): Promise<void> {
    return (this.closing ??= this.end())
  }

  private async end(): Promise<void> {
    this.closed = true
    clearTimeout(this.first)
    clearInterval(this.timer)
    await this.copying
    const db = await this.db?.catch(() => undefined)
    await db?.close()
  }

  private engine(): Promise<PGlite> {
    if (this.closed) return Promise.reject(new Error('The store is closed.'))
    this.db ??= openFolder(this.folder).then(({ db, note }) => {
      if (note) this.notes.push(note)
      return db
    })
    const opening = this.db
    // one that failed to open is tried again by whoever comes next
    opening.catch(() => {
      if (this.db === opening) this.db = undefined
    })
    return opening
  }

  private async drop(dead: PGlite): Promise<void> {
    if ((await this.db?.catch(() => undefined)) === dead) this.db = undefined
    await Promise.race([dead.close().catch(() => {}), new Promise(resolve => setTimeout(resolve, 1000))])
  }

  private async copy(): Promise<void> {
    const db = await this.engine()
    await keepCopy(db, this.folder)
    this.copied = await journalPlace(db)
  }

  private aside(work: () => Promise<void>): void {
    if (!this.closed) this.copying = work().catch(() => {})
  }

  private async copyWhereDue(): Promise<void> {
    if ((await journalPlace(await this.engine())) - this.copied > journalPerCopy) await this.copy()
  }
}
