import type { CalculatedDefinition } from '../levels'
import type { ReportDefinition } from '../report'
import { changeLevel } from './levels'

/**
 * Chooses how a calculated field of a level, or the measure of a summary that the level reads, is totalled: as a ratio of totals or record
 * by record (rule 11 of the semantics).
 */
export function setTotalledAs(
  report: ReportDefinition,
  level: string,
  field: string,
  total: NonNullable<CalculatedDefinition['total']>,
): ReportDefinition {
  const change = (list: readonly CalculatedDefinition[]) => list.map(each => (each.name === field ? { ...each, total } : each))
  let table = ''
  const changed = changeLevel(report, level, found => {
    table = found.table
    return found.calculated?.some(each => each.name === field) ? { ...found, calculated: change(found.calculated) } : found
  })
  if (!changed.tables?.some(each => `@${each.name}` === table)) return changed
  return {
    ...changed,
    tables: changed.tables.map(each =>
      `@${each.name}` === table && each.kind === 'summary' ? { ...each, measures: change(each.measures) } : each,
    ),
  }
}
