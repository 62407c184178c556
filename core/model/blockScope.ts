import { isRepeat } from '../definition/blocks/block'
import { isCrosstab } from '../definition/blocks/crosstab'
import { isTable } from '../definition/blocks/table'
import { findBlock, layoutOf, repeatsAround } from '../definition/edits/edits'
import { parameterTypes } from '../definition/parameters'
import type { ReportDefinition } from '../definition/report'
import { isWithin } from '../formula/lineage'
import { pathText } from '../formula/syntax'
import type { LevelInfo, Scope } from '../formula/typed'

/** The level on which the formulas of a block stand. */
export function levelOfBlock(definition: ReportDefinition, levels: readonly LevelInfo[], id: string): number {
  const block = findBlock(definition, id)
  const named = (name: string) =>
    Math.max(
      0,
      levels.findIndex(level => level.name === name),
    )
  if (block && 'level' in block && block.level !== undefined) return named(block.level)
  const around = repeatsAround(definition, id).at(-1)
  if (around) return named(around.level)
  // what stands in the page's own margins speaks of the documents that the pages are cut into
  const blocks = layoutOf(definition, id)?.blocks ?? []
  const [first] = blocks
  return first && isRepeat(first) && !blocks.some(each => each.id === id) ? named(first.level) : 0
}

/** What formulas of a block may speak of; in a table that depends on the row. */
export function scopeOfBlock(definition: ReportDefinition, levels: readonly LevelInfo[], id: string, rowId?: string): Scope {
  const block = findBlock(definition, id)
  const scope: Scope = {
    levels,
    level: levelOfBlock(definition, levels, id),
    page: true,
    language: definition.language,
    parameters: parameterTypes(definition.parameters),
  }
  // what a cell of a crosstab holds is of many records
  if (isCrosstab(block)) return { ...scope, groups: [], row: -1 }
  if (!isTable(block)) return scope
  const groups = block.groups.map(group => group.id)
  const row = block.rows.find(each => each.id === rowId)
  const line = !row || row.kind === 'line' || row.kind === 'extra'
  return { ...scope, groups, row: line ? 'line' : row.group ? groups.indexOf(row.group) : -1 }
}

/** How a field is written in a formula that stands on a level; a field of a level below stands in a total. */
export function fieldFormula(levels: readonly LevelInfo[], standing: number, level: number, path: string): string {
  const written = pathText(path)
  if (level === standing) return written
  for (let at = standing; at >= 0; at = levels[at]!.parent)
    if (at === level) return shadowed(levels, standing, level, path) ? `${levels[level]!.name}.${written}` : written
  const names: string[] = []
  let at = level
  while (at >= 0 && at !== standing && !isWithin(levels, standing, at)) {
    names.unshift(levels[at]!.name)
    at = levels[at]!.parent
  }
  const full = [...names, written].join('.')
  const field = levels[level]!.fields.get(path)!
  return field.role === 'measure' ? `sum(${full})` : `first(${full})`
}

/** Does a level nearer to the formula have a field of the same path? */
function shadowed(levels: readonly LevelInfo[], standing: number, level: number, path: string): boolean {
  for (let at = standing; at !== level; at = levels[at]!.parent) if (levels[at]!.fields.has(path)) return true
  return false
}
