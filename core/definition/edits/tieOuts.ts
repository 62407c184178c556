import { freeId } from '../names'
import type { TieOut } from '../tieOuts'
import type { ReportDefinition } from '../report'

/** Puts a tie-out into a report: in the place of the one with its id, or at the end with an id of its own. */
export function putTieOut(report: ReportDefinition, tieOut: Omit<TieOut, 'id'> & { id?: string }): ReportDefinition {
  const list = report.tieOuts ?? []
  if (list.some(each => each.id === tieOut.id))
    return { ...report, tieOuts: list.map(each => (each.id === tieOut.id ? { ...tieOut, id: each.id } : each)) }
  return {
    ...report,
    tieOuts: [
      ...list,
      {
        ...tieOut,
        id: freeId(
          'tie',
          list.map(each => each.id),
          true,
        ),
      },
    ],
  }
}

export function removeTieOut(report: ReportDefinition, id: string): ReportDefinition {
  return { ...report, tieOuts: (report.tieOuts ?? []).filter(each => each.id !== id) }
}
