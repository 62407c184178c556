import { isNested, type NestedBlock } from '../blocks/nested'
import type { ReportDefinition } from '../report'
import { blocksOf } from '../walk'
import { changeBlock } from './layout'

/** Edits of nested reports. */

export function changeNested(report: ReportDefinition, id: string, change: (block: NestedBlock) => NestedBlock): ReportDefinition {
  return changeBlock(report, id, block => (isNested(block) ? change(block) : block))
}

/** Says by which formula a parameter of a nested report is answered; an empty one leaves it to its default. */
export function setFeed(report: ReportDefinition, id: string, parameter: string, formula: string): ReportDefinition {
  return changeNested(report, id, block => {
    const fed = block.feeds.some(each => each.parameter === parameter)
    const feeds = !formula.trim()
      ? block.feeds.filter(each => each.parameter !== parameter)
      : fed
        ? block.feeds.map(each => (each.parameter === parameter ? { parameter, formula } : each))
        : [...block.feeds, { parameter, formula }]
    return { ...block, feeds }
  })
}

/** A report whose nested ones are called by other ids: those of which `idOf` knows another. */
export function callNested(report: ReportDefinition, idOf: (report: string) => string | undefined): ReportDefinition {
  return report.layouts
    .flatMap(blocksOf)
    .filter(isNested)
    .reduce((now, { id, report: old }) => {
      const other = idOf(old)
      return other === undefined || other === old ? now : changeNested(now, id, block => ({ ...block, report: other }))
    }, report)
}

/** Gives the totals that a report hands out where it is nested; none takes them away. */
export function setHandsOut(report: ReportDefinition, totals: ReportDefinition['handsOut']): ReportDefinition {
  const { handsOut: _, ...rest } = report
  return totals?.length ? { ...rest, handsOut: totals } : rest
}
