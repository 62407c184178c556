import { type Axis, type AxisGroup, type CrosstabBlock, type CrosstabMeasure, isCrosstab } from '../blocks/crosstab'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import { changeBlock } from './layout'
import { wordOf } from './tableGroups'

/** Edits of crosstabs. */

export function changeCrosstab(report: ReportDefinition, id: string, change: (own: CrosstabBlock) => CrosstabBlock): ReportDefinition {
  return changeBlock(report, id, block => (isCrosstab(block) ? change(block) : block))
}

/** Without what was set to nothing. */
const without = <T extends object>(value: T): T =>
  Object.fromEntries(Object.entries(value).filter(([, each]) => each !== undefined && each !== false && each !== '')) as T

const idsOf = ({ rows, columns, measures, level }: CrosstabBlock) => [...[...rows, ...columns, ...measures].map(each => each.id), level]

/** What stands down the left goes across the top, and the other way round. */
export const swapAxes = (report: ReportDefinition, id: string): ReportDefinition =>
  changeCrosstab(report, id, own => ({
    ...own,
    rows: own.columns,
    columns: own.rows,
    measures: own.measures.map(each => {
      const { along = 'columns' } = each
      return each.look === 'running' || each.look === 'difference' || each.look === 'percent'
        ? { ...each, along: along === 'columns' ? ('rows' as const) : ('columns' as const) }
        : each.look === 'shareOfRow'
          ? { ...each, look: 'shareOfColumn' as const }
          : each.look === 'shareOfColumn'
            ? { ...each, look: 'shareOfRow' as const }
            : each
    }),
  }))

/** A group more on an axis, innermost. */
export function addAxisGroup(
  report: ReportDefinition,
  id: string,
  axis: Axis,
  group: Omit<AxisGroup, 'id' | 'total'> & Partial<Pick<AxisGroup, 'total'>>,
): ReportDefinition {
  return changeCrosstab(report, id, own => ({
    ...own,
    [axis]: [...own[axis], { total: 'after' as const, ...group, id: freeId(wordOf(group.by), idsOf(own), true) }],
  }))
}

const axisOf = (own: CrosstabBlock, group: string): Axis | undefined =>
  (['rows', 'columns'] as const).find(axis => own[axis].some(each => each.id === group))

export const setAxisGroup = (
  report: ReportDefinition,
  id: string,
  group: string,
  change: Partial<Omit<AxisGroup, 'id'>>,
): ReportDefinition =>
  changeCrosstab(report, id, own => {
    const axis = axisOf(own, group)
    return axis ? { ...own, [axis]: own[axis].map(each => (each.id === group ? without({ ...each, ...change }) : each)) } : own
  })

export const removeAxisGroup = (report: ReportDefinition, id: string, group: string): ReportDefinition =>
  changeCrosstab(report, id, own => ({
    ...own,
    rows: own.rows.filter(each => each.id !== group),
    columns: own.columns.filter(each => each.id !== group),
  }))

/** Moves a group to a place on an axis, its own or the other. */
export const moveAxisGroup = (report: ReportDefinition, id: string, group: string, axis: Axis, to: number): ReportDefinition =>
  changeCrosstab(report, id, own => {
    const found = [...own.rows, ...own.columns].find(each => each.id === group)
    if (!found) return own
    const rest = { rows: own.rows.filter(each => each !== found), columns: own.columns.filter(each => each !== found) }
    const list = [...rest[axis]]
    list.splice(Math.max(0, Math.min(to, list.length)), 0, found)
    return { ...own, ...rest, [axis]: list }
  })

export const addMeasure = (report: ReportDefinition, id: string, measure: Omit<CrosstabMeasure, 'id'>): ReportDefinition =>
  changeCrosstab(report, id, own => {
    const word = wordOf(/\(([^(),]+)/.exec(measure.formula)?.[1] ?? measure.formula)
    return { ...own, measures: [...own.measures, { ...measure, id: freeId(word, idsOf(own), true) }] }
  })

export const setMeasure = (
  report: ReportDefinition,
  id: string,
  measure: string,
  change: Partial<Omit<CrosstabMeasure, 'id'>>,
): ReportDefinition =>
  changeCrosstab(report, id, own => ({
    ...own,
    measures: own.measures.map(each => (each.id === measure ? without({ ...each, ...change }) : each)),
  }))

export const removeMeasure = (report: ReportDefinition, id: string, measure: string): ReportDefinition =>
  changeCrosstab(report, id, own => ({ ...own, measures: own.measures.filter(each => each.id !== measure) }))

export const moveMeasure = (report: ReportDefinition, id: string, measure: string, to: number): ReportDefinition =>
  changeCrosstab(report, id, own => {
    const found = own.measures.find(each => each.id === measure)
    if (!found) return own
    const measures = own.measures.filter(each => each !== found)
    measures.splice(Math.max(0, Math.min(to, measures.length)), 0, found)
    return { ...own, measures }
  })
