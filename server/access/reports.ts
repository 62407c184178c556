import { and, eq, inArray, isNotNull, isNull, or, type SQL, sql } from 'drizzle-orm'
import { reports, reportTeams, shelves } from '../store/schema'
import type { Context } from './context'

/*
 * Which reports somebody may run or edit, as conditions of statements over reports and their shelves. All reading of reports in a name
 * goes by them: those of the library, of one report, of what is nested, searched or found.
 */

export type ReportRight = 'run' | 'edit'

/** The condition under which a report is theirs; nothing where all are. */
export function mayReport(context: Context, right: ReportRight): SQL | undefined {
  const { signedIn } = context
  if (!signedIn || signedIn.role === 'administrator') return undefined
  const teams = signedIn.teams.map(each => each.id)
  const shared = (kind: 'run' | 'edit'): SQL =>
    teams.length
      ? sql`exists (select 1 from ${reportTeams} where ${and(
          eq(reportTeams.reportId, reports.id),
          eq(reportTeams.right, kind),
          inArray(reportTeams.teamId, teams),
        )!})`
      : sql`false`
  const shelf = mayShelf(context)
  const edits =
    signedIn.role === 'author'
      ? or(eq(reports.ownerId, signedIn.id), and(shelf, or(eq(reports.editing, 'all'), and(eq(reports.editing, 'teams'), shared('edit')))))!
      : sql`false`
  if (right === 'edit') return edits
  return or(edits, and(isNotNull(reports.published), shelf, or(reports.toAll, shared('run'))))!
}

/** The condition under which a shelf is theirs to see. */
export function mayShelf({ signedIn }: Context): SQL | undefined {
  if (!signedIn || signedIn.role === 'administrator') return undefined
  const teams = signedIn.teams.map(each => each.id)
  return teams.length ? or(isNull(shelves.teamId), inArray(shelves.teamId, teams))! : isNull(shelves.teamId)
}

/** Is a shelf of a team theirs to put something on? */
export const isOnTeam = ({ signedIn }: Context, team: string): boolean =>
  !signedIn || signedIn.role === 'administrator' || signedIn.teams.some(each => each.id === team)
