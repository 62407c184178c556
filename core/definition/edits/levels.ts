import type { ReportDefinition } from '../report'
import type {
  CalculatedDefinition,
  ChildTotalDefinition,
  DataSetDefinition,
  FieldSettings,
  LevelDefinition,
  RelatedDefinition,
  SortDefinition,
} from '../levels'
import { freeId } from '../names'
import { levelNames } from '../walk'

/**
 * Edits of a report. Each takes a definition and gives a new one that shares all that has not changed;
 * one that does not find its place gives the definition back as it is.
 */

/** Caption or format of a field; every cell and total of it follows. `field` is "level.path". */
export function setField(report: ReportDefinition, field: string, settings: FieldSettings): ReportDefinition {
  const level = field.split('.')[0]!
  const within = (each: LevelDefinition): boolean => each.name === level || each.details.some(within)
  return changeDataSet(
    report,
    Math.max(
      0,
      report.dataSets.findIndex(dataSet => within(dataSet.root)),
    ),
    dataSet => {
      const next = { ...dataSet.fields[field], ...settings }
      for (const name of ['caption', 'format', 'currency'] as const) if (!next[name]) Reflect.deleteProperty(next, name)
      return { ...dataSet, fields: { ...dataSet.fields, [field]: next } }
    },
  )
}

/** Changes the level of a name, in whichever data set or summary it stands: names are unique within a report. */
export function changeLevel(report: ReportDefinition, name: string, change: (level: LevelDefinition) => LevelDefinition): ReportDefinition {
  const has = (level: LevelDefinition): boolean => level.name === name || level.details.some(has)
  const apply = (level: LevelDefinition): LevelDefinition =>
    level.name === name ? change(level) : has(level) ? { ...level, details: level.details.map(apply) } : level
  return {
    ...report,
    dataSets: report.dataSets.map(dataSet => (has(dataSet.root) ? { ...dataSet, root: apply(dataSet.root) } : dataSet)),
    ...(report.tables
      ? {
          tables: report.tables.map(table => (table.kind === 'summary' && has(table.base) ? { ...table, base: apply(table.base) } : table)),
        }
      : {}),
  }
}

/** Ticks a column on or off in the rows. */
export function tickField(report: ReportDefinition, level: string, record: string, column: string, on: boolean): ReportDefinition {
  return changeLevel(report, level, found =>
    changeRecord(found, record, holder => ({
      ...holder,
      fields: on ? [...holder.fields.filter(each => each !== column), column] : holder.fields.filter(each => each !== column),
    })),
  )
}

export function addRelated(
  report: ReportDefinition,
  level: string,
  record: string,
  related: Pick<RelatedDefinition, 'name' | 'table' | 'on' | 'fields' | 'pick'>,
): ReportDefinition {
  return changeLevel(report, level, found =>
    changeRecord(found, record, holder => ({
      ...holder,
      related: [
        ...holder.related,
        {
          ...related,
          name: freeId(
            related.name,
            holder.related.map(each => each.name),
            true,
          ),
          related: [],
        },
      ],
    })),
  )
}

export function removeRelated(report: ReportDefinition, level: string, record: string): ReportDefinition {
  const names = record.split('.')
  const last = names.pop()
  return changeLevel(report, level, found =>
    changeRecord(found, names.join('.'), holder => ({ ...holder, related: holder.related.filter(each => each.name !== last) })),
  )
}

export function addDetail(
  report: ReportDefinition,
  level: string,
  detail: Pick<LevelDefinition, 'name' | 'caption' | 'table' | 'on' | 'fields'>,
): ReportDefinition {
  const taken = levelNames(report)
  return changeLevel(report, level, found => ({
    ...found,
    details: [...found.details, { ...detail, name: freeId(detail.name, taken, true), related: [], details: [], filters: [], sort: [] }],
  }))
}

export function removeDetail(report: ReportDefinition, name: string): ReportDefinition {
  const apply = (level: LevelDefinition): LevelDefinition => ({
    ...level,
    details: level.details.filter(each => each.name !== name).map(apply),
  })
  return { ...report, dataSets: report.dataSets.map(dataSet => ({ ...dataSet, root: apply(dataSet.root) })) }
}

/** Puts, changes or (empty) takes out the clause at an index. */
export function setFilter(report: ReportDefinition, level: string, index: number, clause: string): ReportDefinition {
  return changeLevel(report, level, found => {
    const filters = [...found.filters]
    if (clause.trim()) filters[index] = clause
    else filters.splice(index, 1)
    return { ...found, filters }
  })
}

/** All filters of a level: formulas that must all hold. */
export function setFilters(report: ReportDefinition, level: string, filters: string[]): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, filters }))
}

export function setSort(report: ReportDefinition, level: string, sort: SortDefinition[]): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, sort }))
}

export function setLevel(
  report: ReportDefinition,
  level: string,
  change: Partial<Pick<LevelDefinition, 'caption' | 'table' | 'on' | 'fields'>>,
): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, ...change }))
}

/** Which record is picked, under what conditions, and whether records without one are dropped. */
export function setRelated(
  report: ReportDefinition,
  level: string,
  record: string,
  change: Partial<Pick<RelatedDefinition, 'filters' | 'pick' | 'required'>>,
): ReportDefinition {
  const names = record.split('.')
  const last = names.pop()
  return changeLevel(report, level, found =>
    changeRecord(found, names.join('.'), holder => ({
      ...holder,
      related: holder.related.map(each => {
        if (each.name !== last) return each
        const next = { ...each, ...change }
        if (!next.filters?.length) delete next.filters
        if (!next.pick) delete next.pick
        if (!next.required) delete next.required
        return next
      }),
    })),
  )
}

/** Puts a calculated field in, or (with `before`) in the place of the one so named. */
export function putCalculated(report: ReportDefinition, level: string, field: CalculatedDefinition, before?: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, calculated: replaced(found.calculated ?? [], field, before) }))
}

export function removeCalculated(report: ReportDefinition, level: string, name: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, calculated: (found.calculated ?? []).filter(each => each.name !== name) }))
}

export function putTotal(report: ReportDefinition, level: string, total: ChildTotalDefinition, before?: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, totals: replaced(found.totals ?? [], total, before) }))
}

export function removeTotal(report: ReportDefinition, level: string, name: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, totals: (found.totals ?? []).filter(each => each.name !== name) }))
}

export function changeDataSet(
  report: ReportDefinition,
  index: number,
  change: (dataSet: DataSetDefinition) => DataSetDefinition,
): ReportDefinition {
  return { ...report, dataSets: report.dataSets.map((dataSet, at) => (at === index ? change(dataSet) : dataSet)) }
}

/** Changes the record at a path under a level ("" is the level itself). */
export function changeRecord<T extends WithRelated>(holder: T, path: string, change: (record: WithRelated) => WithRelated): T {
  if (!path) return change(holder) as T
  const [first, ...rest] = path.split('.')
  return { ...holder, related: holder.related.map(each => (each.name === first ? changeRecord(each, rest.join('.'), change) : each)) }
}

export function replaced<T extends { name: string }>(list: readonly T[], item: T, before: string | undefined): T[] {
  const at = list.findIndex(each => each.name === (before ?? item.name))
  return at < 0 ? [...list, item] : list.map((each, index) => (index === at ? item : each))
}

export type WithRelated = Pick<LevelDefinition, 'fields' | 'related'>
