import type { LevelInfo } from '../../core/dataset/levels'
import { findBlock, repeatsAround } from '../../core/definition/edits'
import { type ReportDefinition, parameterTypes } from '../../core/definition/types'
import type { Scope } from '../../core/formula/check'
import { pageWords } from '../../core/formula/check'
import { scalarFunctions, totalFunctions } from '../../core/formula/functions'
import { fieldTitle } from './cells'

/** The level on which the formulas of a block stand. */
export function levelOfBlock(definition: ReportDefinition, levels: readonly LevelInfo[], id: string): number {
  const block = findBlock(definition, id)
  const named = (name: string) => Math.max(0, levels.findIndex(level => level.name === name))
  if (block?.kind === 'table' || block?.kind === 'repeat') return named(block.level)
  const around = repeatsAround(definition, id).at(-1)
  return around ? named(around.level) : 0
}

export function scopeOfBlock(definition: ReportDefinition, levels: readonly LevelInfo[], id: string): Scope {
  return {
    levels, level: levelOfBlock(definition, levels, id), page: true,
    parameters: parameterTypes(definition.parameters),
  }
}

/** How a field is written in a formula that stands on a level; a field of a level below stands in a total. */
export function fieldFormula(levels: readonly LevelInfo[], standing: number, level: number, path: string): string {
  const written = path.split('.').map(quoted).join('.')
  if (level === standing) return written
  for (let at = standing; at >= 0; at = levels[at]!.parent) if (at === level) return shadowed(levels, standing, level, path) ? `${levels[level]!.name}.${written}` : written
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

const quoted = (name: string) => /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) ? name : `\`${name}\``
const isAbove = (levels: readonly LevelInfo[], level: number, standing: number) => {
  for (let at = standing; at >= 0; at = levels[at]!.parent) if (at === level) return true
  return false
}
/** Does a level nearer to the formula have a field of the same path? */
function shadowed(levels: readonly LevelInfo[], standing: number, level: number, path: string): boolean {
  for (let at = standing; at !== level; at = levels[at]!.parent) if (levels[at]!.fields.has(path)) return true
  return false
}

export interface Choice { label: string, insert: string, hint: string, level?: number }

/** All that can be written into a text at a block: fields, parameters, page words, functions. */
export function choicesAt(scope: Scope, definition: ReportDefinition): Choice[] {
  const order = [...scope.levels].sort((a, b) => Number(b.index === scope.level) - Number(a.index === scope.level))
  return [
    ...order.flatMap(level => [...level.fields.values()].map((field): Choice => ({
      label: fieldTitle(field), insert: fieldFormula(scope.levels, scope.level, level.index, field.path), hint: field.path, level: level.index,
    }))),
    ...definition.parameters.map((parameter): Choice => ({ label: parameter.label, insert: `param.${parameter.name}`, hint: 'parameter' })),
    ...pageWords.map((word): Choice => ({ label: { number: 'Page number', count: 'Pages of this document', overall: 'Page over the whole run', overallCount: 'Pages of the whole run' }[word], insert: `page.${word}`, hint: `page.${word}` })),
    ...Object.entries({ ...totalFunctions, ...scalarFunctions }).map(([name, known]): Choice => ({ label: known.usage, insert: `${name}()`, hint: known.help })),
  ]
}

