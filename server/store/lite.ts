import type { PGlite } from '@electric-sql/pglite'
import { isDead, isMade, journalPerCopy, journalPlace, keepCopy, makeFolder, openFolder } from '../engine/durable'
import { needRoom } from '../engine/files'

/** How often it is looked whether a copy of the store is due. */
const look = 10 * 60_000

/**
 * The store's own engine in a folder: opened again where it has come to its end (a disk that became full in the middle of a write), and
 * copied now and then, so that a folder that does not open any more is no loss.
 */
export class LiteStore {
  private db: Promise<PGlite> | undefined
  private copied = 0
  private timer: NodeJS.Timeout | undefined
  private closed = false
  /** what had to be done to open it, in sentences */
  readonly notes: string[] = []

  constructor(private readonly folder: string) {}

  /** Opens the folder, or makes it; `migrate` brings its tables up to date. @throws FullDiskError */
  async open(migrate: (db: PGlite) => Promise<void>): Promise<void> {
    if (!isMade(this.folder)) await makeFolder(this.folder, migrate)
    const db = await this.engine()
    await migrate(db)
    await this.copy().catch(() => {})
    this.timer = setInterval(() => void this.copyWhereDue().catch(() => {}), look)
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

  async close(): Promise<void> {
    this.closed = true
    clearInterval(this.timer)
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
    await db.runExclusive(async () => {})
    await keepCopy(db, this.folder)
    this.copied = await journalPlace(db)
  }

  private async copyWhereDue(): Promise<void> {
    if ((await journalPlace(await this.engine())) - this.copied > journalPerCopy) await this.copy()
  }
}
