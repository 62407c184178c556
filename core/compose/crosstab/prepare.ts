import { outsideTotals } from '../../formula/parts'
import type { AxisGroup, CrosstabBlock, CrosstabMeasure } from '../../definition/blocks/crosstab'
import type { ThemeDefinition } from '../../definition/style'
import type { Typed } from '../../formula/typed'
import { decapitalised, readable } from '../../catalog/types'
import { pathText } from '../../formula/syntax'
import { fieldTitle } from '../../model/titles'
import type { PreparedBlock, PreparedCell, PreparedGroup } from '../prepared'
import type { PrepareScope } from '../prepareScope'
import { mixedCurrencies } from '../table/prepare'
import { prepareGroup } from '../table/prepareGroup'
import { type CheckedText, onlyValue, patternOf } from '../text'

/** A measure whose formula is checked. */
export interface PreparedMeasure {
  measure: CrosstabMeasure
  /** it prints its figure as any cell would: with its currency, one line for each where there are several */
  text: CheckedText
  typed: Typed
  pattern: string | undefined
  caption: CheckedText
  /** a sum of amounts that have no currency of their own: how many currencies the records have that it adds up */
  mixes?: PreparedCell['mixes']
}

/** A crosstab with its formulas checked; its columns are found when there are records. */
export interface PreparedCrosstab extends PreparedBlock {
  kind: 'crosstab'
  block: CrosstabBlock
  x: number
  width: number
  theme: ThemeDefinition
  rows: PreparedGroup[]
  columns: PreparedGroup[]
  /** what its groups are called, and their totals where their author says so, by their ids */
  captions: ReadonlyMap<string, CheckedText>
  totalCaptions: ReadonlyMap<string, CheckedText>
  measures: PreparedMeasure[]
}

/** Words for what a formula gives, where its author chose none. */
function captionOf(typed: Typed, formula: string): string {
  switch (typed.is) {
    case 'field':
      return fieldTitle(typed.field)
    case 'total':
      if (!typed.value) return typed.name === 'count' ? 'Count' : readable(typed.name)
      return typed.name === 'sum'
        ? captionOf(typed.value, formula)
        : `${readable(typed.name)} of ${decapitalised(captionOf(typed.value, formula))}`
    default:
      return formula
  }
}

/** What stretches of dates are called. */
const stepCaptions: Record<NonNullable<AxisGroup['step']>, string> = {
  day: 'Day',
  week: 'Week',
  month: 'Month',
  quarter: 'Quarter',
  year: 'Year',
  period: 'Period',
}

/** What a group of an axis is called: as its author says, or by what its records are grouped by. */
export const groupCaption = (group: AxisGroup, by: Typed | undefined): string =>
  group.caption ?? (group.step ? stepCaptions[group.step] : by ? captionOf(by, group.by) : group.by)

/** What a measure is called: as its author says, or by what it is a total of. */
export const measureCaption = ({ caption, formula }: CrosstabMeasure, typed: Typed | undefined): string =>
  caption ?? (typed ? captionOf(typed, formula) : formula)

/** A crosstab with all its formulas checked at their places; faults go to the scope. */
export function prepareCrosstab(block: CrosstabBlock, level: number, under: number, scope: PrepareScope): PreparedCrosstab {
  const captions = new Map<string, CheckedText>()
  const totalCaptions = new Map<string, CheckedText>()
  const words = (text: string, cell: string) => scope.text(text, scope.at(level), { block: block.id, cell, place: 'text' })
  const everyOf = ({ from, to }: NonNullable<AxisGroup['every']>, cell: string): PreparedGroup['every'] => {
    const at = { block: block.id, cell, place: 'group' as const }
    // it is the same for all records, so that it speaks of none
    const [first, last] = [from, to].map(each => scope.formula(each, { ...scope.at(level), levels: [], level: -1 }, at, false))
    if (!first || !last) return undefined
    if (first.type === 'date' && last.type === 'date') return { from: first, to: last }
    scope.problem({ ...at, sentence: `“${from}” and “${to}” must be dates, such as param.dates.from.`, from: 0, to: from.length })
    return undefined
  }
  const axis = (groups: readonly AxisGroup[]) =>
    groups.flatMap((group, depth): PreparedGroup[] => {
      const outer = groups.slice(0, depth).map(each => each.id)
      const found = prepareGroup(group, outer, { block: block.id, level }, scope)
      if (!found) return []
      captions.set(group.id, words(groupCaption(group, found.by), group.id))
      const every = group.every && groups.length === depth + 1 ? everyOf(group.every, group.id) : undefined
      if (every) found.every = every
      if (group.totalCaption) totalCaptions.set(group.id, words(group.totalCaption, group.id))
      return [found]
    })
  const measures = block.measures.flatMap((measure): PreparedMeasure[] => {
    const at = { block: block.id, cell: measure.id, place: 'text' as const }
    const source = `{{ ${measure.formula}${measure.format ? ` | ${measure.format}` : ''} }}`
    const text = scope.text(source, { ...scope.at(level), groups: [], row: -1 }, at)
    const only = onlyValue(text.lines)
    if (!only) return []
    const [single] = outsideTotals(only.typed)
    if (single) {
      const name = pathText(single.path)
      scope.problem({
        ...at,
        sentence: `A cell is of many records, and “${name}” is of one; take a total of it, such as ${
          single.type === 'number' && single.field.role === 'measure' ? 'sum' : 'distinct'
        }(${name}).`,
        from: 0,
        to: source.length,
      })
      return []
    }
    const pattern = patternOf(only.typed, only.pattern)
    const mixes = mixedCurrencies(text, scope.levels)
    if (mixes) scope.note(mixes.count)
    const caption = words(measureCaption(measure, only.typed), measure.id)
    return [{ measure, text, typed: only.typed, pattern, caption, ...(mixes ? { mixes } : {}) }]
  })
  return {
    kind: 'crosstab',
    block,
    level,
    showWhen: scope.rule(block, under),
    columnsByRecords: true,
    x: block.left,
    width: block.width || Math.max(48, scope.width - block.left),
    theme: scope.theme,
    rows: axis(block.rows),
    columns: axis(block.columns),
    captions,
    totalCaptions,
    measures,
  }
}
