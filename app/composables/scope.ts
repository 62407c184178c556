import { isRepeat } from '../../core/definition/blocks/block'
import { isStatementBlock } from '../../core/definition/blocks/statement'
import { isTable } from '../../core/definition/blocks/table'
import { type LevelInfo, pageWords, type Scope } from '../../core/formula/typed'
import { findBlock, layoutOf, repeatsAround } from '../../core/definition/edits/edits'
import { parameterTypes } from '../../core/definition/parameters'
import type { ReportDefinition } from '../../core/definition/report'
import { pathText } from '../../core/formula/syntax'
import { periodFunctions, scalarFunctions, totalFunctions } from '../../core/formula/functions'
import { fieldTitle } from './cells'

/** The level on which the formulas of a block stand. */
export function levelOfBlock(definition: ReportDefinition, levels: readonly LevelInfo[], id: string): number {
  const block = findBlock(definition, id)
  const named = (name: string) =>
    Math.max(
      0,
      levels.findIndex(level => level.name === name),
    )
  if (isTable(block) || isRepeat(block) || isStatementBlock(block)) return named(block.level)
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
  while (at >= 0 && at !== standing && !isAbove(levels, at, standing)) {
    names.unshift(levels[at]!.name)
    at = levels[at]!.parent
  }
  const full = [...names, written].join('.')
  const field = levels[level]!.fields.get(path)!
  return field.role === 'measure' ? `sum(${full})` : `first(${full})`
}

const isAbove = (levels: readonly LevelInfo[], level: number, standing: number) => {
  for (let at = standing; at >= 0; at = levels[at]!.parent) if (at === level) return true
  return false
}
/** Does a level nearer to the formula have a field of the same path? */
function shadowed(levels: readonly LevelInfo[], standing: number, level: number, path: string): boolean {
  for (let at = standing; at !== level; at = levels[at]!.parent) if (levels[at]!.fields.has(path)) return true
  return false
}

export interface Choice {
  label: string
  insert: string
  hint: string
  level?: number
}

/** All that can be written into a text at a block: fields, parameters, page words, functions. */
export function choicesAt(scope: Scope, definition: ReportDefinition): Choice[] {
  const order = [...scope.levels].sort((a, b) => Number(b.index === scope.level) - Number(a.index === scope.level))
  return [
    ...order.flatMap(level =>
      [...level.fields.values()].map((field): Choice => ({
        label: fieldTitle(field),
        insert: fieldFormula(scope.levels, scope.level, level.index, field.path),
        hint: field.path,
        level: level.index,
      })),
    ),
    ...(scope.groups?.length && scope.row !== -1
      ? [
          { label: 'Name of the group', insert: 'group.name', hint: 'group' },
          { label: 'Place of the group', insert: 'group.number', hint: 'group' },
        ]
      : []),
    ...definition.parameters.map((parameter): Choice => ({ label: parameter.label, insert: `param.${parameter.name}`, hint: 'parameter' })),
    ...pageWords.map((word): Choice => ({
      label: {
        number: 'Page number',
        count: 'Pages of this document',
        overall: 'Page over the whole run',
        overallCount: 'Pages of the whole run',
        printed: 'Time printed',
      }[word],
      insert: `page.${word}`,
      hint: `page.${word}`,
    })),
    ...Object.entries({ ...totalFunctions, ...scalarFunctions }).map(([name, known]): Choice => ({
      label: known.usage,
      insert: `${name}()`,
      hint: known.help,
    })),
  ]
}

/**
 * What an editor proposes at a place: fields first (only those that stand for one value where `own` is set), then parameters and
 * functions.
 */
export function proposalsAt(
  scope: Scope,
  definition: ReportDefinition,
  options: { own?: boolean } = {},
): { label: string; insert: string; hint: string; kind: 'field' | 'function' | 'parameter' }[] {
  const levels = scope.levels.filter(
    level =>
      level.index === scope.level ||
      (!options.own && (isAbove(scope.levels, level.index, scope.level) || isAbove(scope.levels, scope.level, level.index))),
  )
  const fields = levels.flatMap(level =>
    [...level.fields.values()].map(field => {
      const below = level.index !== scope.level && isAbove(scope.levels, scope.level, level.index)
      return {
        label: fieldTitle(field),
        insert:
          level.index === scope.level
            ? pathText(field.path)
            : below
              ? `${namesDown(scope.levels, scope.level, level.index)}.${pathText(field.path)}`
              : `${level.name}.${pathText(field.path)}`,
        hint: field.column.comment ?? '',
        kind: 'field' as const,
      }
    }),
  )
  const functions = {
    ...scalarFunctions,
    ...periodFunctions,
    ...(options.own ? { has: totalFunctions.has! } : totalFunctions),
    today: { usage: 'today()', help: 'The day on which the report runs.' },
    if: { usage: 'if(test, then, otherwise)', help: 'One of two results.' },
    choose: { usage: 'choose(value, case, result, …, otherwise)', help: 'The result that belongs to a value.' },
    ifEmpty: { usage: 'ifEmpty(value, otherwise)', help: 'Something else where a value is empty.' },
  }
  return [
    ...fields,
    ...Object.keys(scope.parameters).map(name => ({
      label: definition.parameters.find(each => each.name === name.split('.')[0])?.label ?? name,
      insert: `param.${name}`,
      hint: '',
      kind: 'parameter' as const,
    })),
    ...Object.entries(functions).map(([name, known]) => ({
      label: known.usage,
      insert: `${name}()`,
      hint: known.help,
      kind: 'function' as const,
    })),
  ]
}

function namesDown(levels: readonly LevelInfo[], from: number, to: number): string {
  const names: string[] = []
  for (let at = to; at !== from; at = levels[at]!.parent) names.unshift(levels[at]!.name)
  return names.join('.')
}

/** A report's levels and own tables, for a definition that is only tried. */
export { reportModel as modelOf } from '../../core/model/model'
