import { or, sql } from 'drizzle-orm'
import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import type { Context } from '../access/context'
import type { Database } from './database'
import { StoreError } from './records'
import { reports, versions } from './schema'
import { shelfNamed } from './shelfNamed'

/** A version of a report. */
export interface VersionOf {
  id: string
  number: number
}

/** A report that is to be put on a shelf, with an id that nothing else has. */
export interface NewReport {
  id: string
  shelf: string
  name: string
  definition: ReportDefinition
}

/** How many rows go into one statement. */
const atOnce = 200
const inParts = <T>(list: readonly T[]): T[][] =>
  Array.from({ length: Math.ceil(list.length / atOnce) }, (_, part) => list.slice(part * atOnce, (part + 1) * atOnce))

/** Many reports at a time, as a folder of definitions reads and brings them: a few statements for all. */
export class ManyReports {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    private readonly check: (value: unknown) => Promise<ReportDefinition>,
  ) {}

  /**
   * Definitions of versions, by `<id> <number>`. They were checked when they were put down; those of older formats are brought to the
   * newest. @throws StoreError where one is not there
   */
  async definitions(list: readonly VersionOf[]): Promise<Map<string, ReportDefinition>> {
    const found = new Map<string, ReportDefinition>()
    for (const part of inParts(list)) {
      const rows = await this.database()
        .select({ id: versions.reportId, number: versions.number, definition: versions.definition })
        .from(versions)
        .where(or(...part.map(({ id, number }) => sql`(${versions.reportId} = ${id} and ${versions.number} = ${number})`)))
      for (const { id, number, definition } of rows) {
        const own = definition as ReportDefinition
        found.set(`${id} ${number}`, own.format === formatVersion ? own : await this.check(own))
      }
    }
    const missing = list.find(({ id, number }) => !found.has(`${id} ${number}`))
    if (missing) throw new StoreError(`There is no version ${missing.number} of this report.`, 404)
    return found
  }

  /**
   * Puts reports on their shelves at once, or none of them; their definitions are read and checked, and nobody has their names yet.
   * @throws StoreError where a shelf is another team's
   */
  async create(context: Context, list: readonly NewReport[]): Promise<void> {
    if (!list.length) return
    await this.saved(() =>
      this.database().transaction(async change => {
        const known = new Map<string, string>()
        for (const name of new Set(list.map(each => each.shelf)))
          known.set(name, (await shelfNamed(change as unknown as Database, context, name)).id)
        const [{ count } = { count: 0 }] = await change.select({ count: sql<number>`count(*)::int` }).from(reports)
        const ownerId = context.signedIn?.id ?? null
        const rows = list.map(({ id, name, shelf }, at) => ({
          ...{ id, name, shelfId: known.get(shelf)!, place: count + 1 + at },
          ...{ draft: 1, published: null, ownerId },
        }))
        for (const part of inParts(rows)) await change.insert(reports).values(part)
        const first = list.map(({ id, definition }) => ({ reportId: id, number: 1, basedOn: null, state: 'saved' as const, definition }))
        for (const part of inParts(first)) await change.insert(versions).values(part)
      }),
    )
  }
}
