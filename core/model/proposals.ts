import type { ReportDefinition } from '../definition/report'
import { periodFunctions, scalarFunctions, totalFunctions } from '../formula/functions'
import { isWithin } from '../formula/lineage'
import { pathText } from '../formula/syntax'
import { type LevelInfo, pageWords, type Scope } from '../formula/typed'
import { fieldFormula } from './blockScope'
import { fieldTitle } from './titles'

/** Something that can be written into a text, as a picker offers it. */
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
      (!options.own && (isWithin(scope.levels, scope.level, level.index) || isWithin(scope.levels, level.index, scope.level))),
  )
  const fields = levels.flatMap(level =>
    [...level.fields.values()].map(field => {
      const below = level.index !== scope.level && isWithin(scope.levels, level.index, scope.level)
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
