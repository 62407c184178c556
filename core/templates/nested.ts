import { findTable } from '../catalog/types'
import type { Catalog } from '../books/catalog'
import { type NestedBlock, type NestedFeed, type NestedTotal, usualMost } from '../definition/blocks/nested'
import { freeId } from '../definition/names'
import type { ParameterDefinition } from '../definition/parameters'
import { fieldFormula } from '../model/blockScope'
import type { LevelInfo } from '../formula/typed'
import { isWithin } from '../formula/lineage'
import type { ValueType } from '../value/value'

/** A report that is to be nested. */
export interface Nestable {
  id: string
  name: string
  parameters: readonly ParameterDefinition[]
  totals: readonly NestedTotal[]
}

/** A nested report to begin with, its parameters answered from the record around it where something fits. */
export function newNested(
  report: Nestable,
  around: { levels: readonly LevelInfo[]; level: number; catalog: Catalog; parameters: readonly ParameterDefinition[] },
  taken: string[],
): NestedBlock {
  return {
    kind: 'nested',
    id: freeId(wordFrom(report.name), taken, true),
    report: report.id,
    name: report.name,
    feeds: report.parameters.flatMap(parameter => feedOf(parameter, around) ?? []),
    ...(report.totals.length ? { totals: [...report.totals] } : {}),
    left: 0,
    width: 0,
    after: 10,
    most: usualMost,
  }
}

/** One word of a name: a formula calls the block's totals by it. */
function wordFrom(name: string): string {
  const words = name
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .match(/[a-z][a-z0-9]*/g)
  return words?.at(-1) ?? 'inner'
}

/**
 * By relation first: what chooses records of a table is answered by the key of that record; then by name, and by the report's own
 * answers.
 */
function feedOf(
  parameter: ParameterDefinition,
  { levels, level, catalog, parameters }: Parameters<typeof newNested>[1],
): NestedFeed | undefined {
  const fed = (formula: string) => ({ parameter: parameter.name, formula })
  const { choices } = parameter
  if (choices?.table) {
    const { table, value } = choices
    for (const own of above(levels, level)) {
      const path =
        own.definition.table === table && own.fields.has(value)
          ? value
          : (foreignTo(catalog, own.definition.table, table, value) ??
            [...own.fields.values()].find(field => field.record && field.column.name === value && tableOf(own, field.record) === table)
              ?.path)
      if (path !== undefined && own.fields.has(path)) return fed(fieldFormula(levels, level, own.index, path))
    }
  }
  const same = parameters.find(each => each.name === parameter.name && each.kind === parameter.kind)
  // a range is written with its ends; several choices cannot be handed on as one
  if (same) {
    if (same.kind === 'dates') return fed(`param.${same.name}.from & ".." & param.${same.name}.to`)
    if (same.kind !== 'choices') return fed(`param.${same.name}`)
  }
  const wanted = typeOf(parameter)
  for (const own of above(levels, level)) {
    const found = [parameter.name, `${parameter.name}_id`, `${parameter.name}.code`, `${parameter.name}.id`]
      .map(path => own.fields.get(path))
      .find(field => field && field.type === wanted)
    if (found) return fed(fieldFormula(levels, level, own.index, found.path))
  }
  return undefined
}

/** A level and those above it, the nearest first. */
const above = (levels: readonly LevelInfo[], level: number): LevelInfo[] =>
  levels.filter(each => isWithin(levels, level, each.index)).sort((a, b) => b.index - a.index)

/** A column that refers to another table's. */
function foreignTo(catalog: Catalog, from: string, to: string, column: string): string | undefined {
  if (!findTable(catalog, from)) return undefined
  const key = catalog.foreignKeys.find(
    each => each.from.table === from && each.to.table === to && each.to.columns.length === 1 && each.to.columns[0] === column,
  )
  return key?.from.columns[0]
}

/** The table of a related record. */
function tableOf({ definition }: LevelInfo, record: string): string | undefined {
  let list = definition.related
  let table: string | undefined
  for (const name of record.split('.')) {
    const found = list.find(each => each.name === name)
    if (!found) return undefined
    table = found.table
    list = found.related
  }
  return table
}

function typeOf({ kind, choices }: ParameterDefinition): ValueType {
  if (kind === 'whole' || kind === 'decimal') return 'number'
  if (kind === 'date' || kind === 'month') return 'date'
  if (kind === 'boolean') return 'boolean'
  return choices?.type ?? 'text'
}
