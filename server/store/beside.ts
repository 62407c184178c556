import { and, asc, eq } from 'drizzle-orm'
import type { Context } from '../access/context'
import type { Database } from './database'
import { pinnedRows, savedAnswers } from './schema'

/** What is kept beside reports: rows that they are designed against, and answers under a name. */
export class Beside {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  /** Pinned rows of a report, as the bytes that were kept: packed, or JSON where an earlier version kept them. */
  async pinned(
    _: Context,
    reportId: string,
    sight = '',
  ): Promise<{ answers: Record<string, string>; pinnedAt: Date; rows: Uint8Array } | undefined> {
    const [row] = await this.database()
      .select()
      .from(pinnedRows)
      .where(and(eq(pinnedRows.reportId, reportId), eq(pinnedRows.sight, sight)))
    return row && { answers: row.answers as Record<string, string>, pinnedAt: row.pinnedAt, rows: row.rows }
  }

  async pin(_: Context, reportId: string, answers: Record<string, string>, rows: Uint8Array, sight = ''): Promise<Date> {
    const pinnedAt = new Date()
    await this.saved(() =>
      this.database()
        .insert(pinnedRows)
        .values({ reportId, sight, answers, rows, pinnedAt })
        .onConflictDoUpdate({ target: [pinnedRows.reportId, pinnedRows.sight], set: { answers, rows, pinnedAt } }),
    )
    return pinnedAt
  }

  async savedAnswers({ signedIn }: Context, reportId: string): Promise<{ name: string; answers: Record<string, string> }[]> {
    const own = and(eq(savedAnswers.reportId, reportId), eq(savedAnswers.personId, signedIn?.id ?? ''))
    const rows = await this.database().select().from(savedAnswers).where(own).orderBy(asc(savedAnswers.name))
    return rows.map(row => ({ name: row.name, answers: row.answers as Record<string, string> }))
  }

  /** Keeps answers under a name; without answers, lets them go. */
  async saveAnswers({ signedIn }: Context, reportId: string, name: string, answers: Record<string, string> | undefined): Promise<void> {
    const personId = signedIn?.id ?? ''
    await this.saved(async () => {
      if (answers)
        await this.database()
          .insert(savedAnswers)
          .values({ reportId, personId, name, answers })
          .onConflictDoUpdate({ target: [savedAnswers.reportId, savedAnswers.personId, savedAnswers.name], set: { answers } })
      else
        await this.database()
          .delete(savedAnswers)
          .where(and(eq(savedAnswers.reportId, reportId), eq(savedAnswers.personId, personId), eq(savedAnswers.name, name)))
    })
  }
}
