import { blankLevel, type SummaryTable, tableNames } from '../definition/edits/ownTables'
import type { LevelDefinition, RelatedDefinition } from '../definition/levels'
import { freeId } from '../definition/names'
import type { ReportDefinition } from '../definition/report'
import { levelNames } from '../definition/walk'
import { checkFormula } from '../formula/check'
import { FormulaError, parseFormula, pathsOf, pathText } from '../formula/syntax'
import type { FieldInfo, LevelInfo, Scope } from '../formula/typed'

/** A level as the base of a summary over all of it, and the filters of the levels above that could not be brought along. */
export interface DerivedBase {
  base: LevelDefinition
  left: string[]
}

/**
 * The records of a level as they are shown: with the records above it as required related records, and their filters. A filter that
 * asks a level below,
 * or uses a field that is worked out on the level above, has no counterpart there and is named instead.
 */
export function baseOf(levels: readonly LevelInfo[], index: number): DerivedBase {
  const level = levels[index]!
  const base: LevelDefinition = {
    ...level.definition,
    details: [],
    on: [],
    sort: [],
    related: [...level.definition.related],
    filters: [...level.definition.filters],
  }
  const left: string[] = []
  let holder: { related: RelatedDefinition[] } = base
  let prefix = ''
  for (let at = level; at.parent >= 0; at = levels[at.parent]!) {
    const parent = levels[at.parent]!
    const taken = new Set(holder.related.map(each => each.name))
    let name = parent.name
    for (let count = 2; taken.has(name); count++) name = `${parent.name}${count}`
    const related: RelatedDefinition = {
      name,
      table: parent.definition.table,
      on: at.definition.on.map(pair => ({ from: pair.to, to: pair.from })),
      fields: [],
      related: [...parent.definition.related],
      required: true,
    }
    holder.related.push(related)
    prefix += `${name}.`
    for (const filter of parent.definition.filters) {
      const moved = moveFilter(filter, parent, prefix)
      if (moved === undefined) left.push(filter)
      else base.filters.push(moved)
    }
    holder = related
  }
  return { base, left }
}

/** A filter of a level above, as it reads from below; undefined where it cannot be said there. */
function moveFilter(text: string, level: LevelInfo, prefix: string): string | undefined {
  try {
    const { fields, calls } = pathsOf(parseFormula(text))
    if (calls.includes('has')) return undefined
    let moved = text
    for (const { names, from, to } of [...fields].sort((a, b) => b.from - a.from)) {
      if (names[0] === 'param') continue
      const path = (names[0] === level.name && !level.fields.has(names.join('.')) ? names.slice(1) : names).join('.')
      const field = level.fields.get(path)
      if (!field || field.formula || field.total) return undefined
      moved = `${moved.slice(0, from)}${prefix}${pathText(path)}${moved.slice(to)}`
    }
    return moved
  } catch (error) {
    if (error instanceof FormulaError) return undefined
    throw error
  }
}

/**
 * A summary to begin with: of a level (over all of its records, or, `under` the level above it, grouped by what links them), or of a table.
 * `left` are filters of the levels above that have no counterpart.
 */
export function newSummary(
  report: ReportDefinition,
  levels: readonly LevelInfo[],
  { of, under }: { of: string; under?: boolean },
): { table: SummaryTable; left: string[] } {
  const level = levels.find(each => each.name === of)
  const derived =
    level && (under ? { base: { ...level.definition, details: [], on: [] } as LevelDefinition, left: [] } : baseOf(levels, level.index))
  const inner = derived?.base ?? blankLevel('rows', of)
  return {
    table: {
      kind: 'summary',
      name: freeId(`${(level?.name ?? of.replace(/\W+/g, '')) || 'rows'}_summary`, tableNames(report), true),
      base: { ...inner, name: freeId(`${inner.name}_rows`, levelNames(report), true) },
      by: under && level ? level.definition.on.map(pair => ({ name: pair.to.replaceAll('.', '_'), formula: pathText(pair.to) })) : [],
      measures: [],
    },
    left: derived?.left ?? [],
  }
}

/**
 * What is wrong with a formula of a summary, in a sentence; nothing where it can be used. A measure may speak of the measures before it.
 * Nothing is said of one that is not written yet.
 */
export function summaryFault(
  formula: string,
  levels: readonly LevelInfo[],
  parameters: Scope['parameters'],
  earlier?: readonly { name: string }[],
): string {
  if (!levels.length || !formula.trim()) return ''
  const measures = earlier && new Map(earlier.map(({ name }) => [name, measureField(name)]))
  try {
    checkFormula(formula, { levels, level: 0, parameters, ...(measures ? { measure: true, measures } : { filter: true }) })
    return ''
  } catch (error) {
    if (error instanceof FormulaError) return error.message
    throw error
  }
}

/** A measure as the measures after it see it. */
const measureField = (name: string): FieldInfo => ({
  level: 0,
  path: name,
  type: 'number',
  role: 'measure',
  caption: name,
  record: '',
  column: { name, type: 'number', databaseType: 'numeric', required: false },
})
