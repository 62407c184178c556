import { fieldFormula } from '../model/blockScope'
import { groupFields } from '../compose/totals'
import type { AxisGroup, CrosstabBlock } from '../definition/blocks/crosstab'
import { addAxisGroup, addMeasure } from '../definition/edits/crosstab'
import { wordOf } from '../definition/edits/tableGroups'
import { freeId } from '../definition/names'
import type { ReportDefinition } from '../definition/report'
import type { FieldInfo, LevelInfo } from '../formula/typed'

/** A group of an axis by a field, as it begins. */
export function axisGroupBy(field: FieldInfo, formula: string): Omit<AxisGroup, 'id'> {
  const date = field.type === 'date' || field.type === 'moment'
  return {
    by: formula,
    ...(date ? { step: 'month' as const } : {}),
    order: { by: date ? 'value' : 'name', descending: false },
    total: 'after',
  }
}

/** The sum of a field that can be added up, as a formula; else how many records there are. */
function firstMeasure(levels: readonly LevelInfo[], level: number): string {
  const fields = [...levels[level]!.fields.values()].filter(
    field => field.type === 'number' && field.role === 'measure' && !field.record && !field.format?.includes('%'),
  )
  const total = (field: FieldInfo) => /amount|total|value|net|sum/.test(field.column.name)
  // amounts of several currencies add up in that of the company only
  const likely = fields.find(field => total(field) && /^base_|_base\b/.test(field.path)) ?? fields.find(total) ?? fields[0]
  return likely ? `sum(${fieldFormula(levels, level, level, likely.path)})` : `count(${levels[level]!.name})`
}

/** A crosstab of a level to begin with: a record down the left, dates or another record across, the amount where they meet. */
export function newCrosstab(levels: readonly LevelInfo[], level: number, taken: string[]): CrosstabBlock {
  const fields = groupFields(levels, level)
  const named = fields.filter(field => field.record && field.column.name === 'name')
  const down = named[0] ?? fields.find(field => field.type === 'text')
  const across = fields.find(field => field.type === 'date') ?? named[1] ?? fields.find(field => field !== down)
  const group = (field: FieldInfo | undefined): AxisGroup[] => {
    if (!field) return []
    const formula = fieldFormula(levels, level, field.level, field.path)
    return [{ ...axisGroupBy(field, formula), id: wordOf(formula) }]
  }
  const [rows, columns] = [group(down), group(across)]
  if (rows[0] && columns[0]?.id === rows[0].id) columns[0].id = `${columns[0].id}2`
  return {
    kind: 'crosstab',
    id: freeId('crosstab', taken, true),
    level: levels[level]!.name,
    left: 0,
    width: 0,
    after: 10,
    rows,
    columns,
    measures: [{ id: 'figure', formula: firstMeasure(levels, level) }],
    wide: 'down',
    repeatTitles: true,
  }
}

/**
 * Puts a field on a crosstab, by the place where it was dropped: titles of rows take a group down the left, titles of columns one across
 * the top, and figures a figure more. On the block as a whole a number is a figure, and all else a group on the axis that has fewer.
 */
export function putOnCrosstab(
  report: ReportDefinition,
  own: CrosstabBlock,
  levels: readonly LevelInfo[],
  field: FieldInfo,
  at: { part: string; cell?: string | undefined },
): ReportDefinition {
  const standing = levels.findIndex(level => level.name === own.level)
  const formula = fieldFormula(levels, standing, field.level, field.path)
  const number = field.type === 'number' && field.role === 'measure'
  const group = (axis: 'rows' | 'columns') => addAxisGroup(report, own.id, axis, axisGroupBy(field, formula))
  if (at.cell?.startsWith('title ')) return group('rows')
  if (at.part === 'titles') return group('columns')
  if (at.cell || number) return addMeasure(report, own.id, { formula: number ? `sum(${formula})` : `distinct(${formula})` })
  return group(own.rows.length <= own.columns.length ? 'rows' : 'columns')
}
