import equal from 'fast-deep-equal'
import { isCrosstab } from '../../core/definition/blocks/crosstab'
import { blocksOf, layoutNamed } from '../../core/definition/walk'
import type { LevelDefinition } from '../../core/definition/levels'
import type { ReportDefinition } from '../../core/definition/report'
import { singular } from '../../core/catalog/relations'
import type { FieldInfo, LevelInfo } from '../../core/formula/typed'
import { tickedFields } from '../../core/model/levels'
import type { DataRecords } from '../../core/value/records'
import { valueAt } from '../../core/value/columns'
import type { Value } from '../../core/value/value'

/** The crosstabs of a layout, to be chosen from: what stands down and across in each. */
export function crosstabItems(definition: ReportDefinition, layout?: string): { value: string; label: string }[] {
  const named = (groups: readonly { caption?: string; by: string }[]) =>
    groups.map(({ caption, by }) => caption ?? by.split('.').slice(-2).join(' ').replaceAll('_', ' ')).join(', ')
  return blocksOf(layoutNamed(definition, layout))
    .filter(isCrosstab)
    .map(({ id, rows, columns }) => ({ value: id, label: [named(rows), named(columns)].filter(Boolean).join(' by ') || id }))
}

export { fieldText } from '../../core/compose/fieldText'

/** Ticked fields that the rows at hand hold. */
export function shownFields(level: LevelInfo, records: DataRecords | undefined): FieldInfo[] {
  const columns = records?.levels[level.index]?.columns ?? {}
  return tickedFields(level.definition).flatMap(path => {
    const field = level.fields.get(path)
    return field && path in columns ? [field] : []
  })
}

export { fieldTitle } from '../../core/model/titles'

export function cellOf(records: DataRecords, level: number, path: string, row: number): Value {
  const column = records.levels[level]!.columns[path]
  return column ? valueAt(column, row) : null
}

/** A level's colour, kept everywhere. */
export const levelColour = (level: number): string => `var(--level-${level % 6})`

/** "1 line", "4 lines": a level's records counted in words. */
export function counted(count: number, caption: string): string {
  const plural = caption.toLowerCase()
  const single = singular(plural)
  return `${grouped(count)} ${count === 1 ? single : plural === single ? `${single}s` : plural}`
}

/** One record of a level in words: "line" for Lines. */
export const oneOf = (caption: string): string => counted(1, caption).slice(2)
/** Its records in words: "invoices" for Invoice. */
export const manyOf = (caption: string): string => counted(2, caption).slice(2)

/** A copy without any of Vue's wrappers, as a definition holds it. */
export function plain<T>(value: T): T {
  return JSON.parse(JSON.stringify(value)) as T
}

/** Do two values hold the same as the store keeps them: in whatever order, and without members that say nothing? */
export function sameContent(a: unknown, b: unknown): boolean {
  const kept = (value: unknown): unknown => (value === undefined ? undefined : JSON.parse(JSON.stringify(value)))
  return equal(kept(a), kept(b))
}

/** Levels of what a report prints, outer ones first, as menus offer them. */
export function levelItems(definition: ReportDefinition): { value: string; label: string }[] {
  const visit = (level: LevelDefinition): { value: string; label: string }[] => [
    { value: level.name, label: level.caption ?? level.name },
    ...level.details.flatMap(visit),
  ]
  return visit(definition.dataSets[0]!.root)
}
