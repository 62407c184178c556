import { isKeyColumn, keyOf } from '../catalog/relations'
import { columnRole, isPerUnit } from '../catalog/roles'
import type { Catalog } from '../books/catalog'
import { type CatalogColumn, type CatalogTable, columnCaption, findTable, readable } from '../catalog/types'
import type { DataSetDefinition, LevelDefinition, RelatedDefinition } from '../definition/levels'
import { ageingShown } from './ageing'
import type { FieldRole, LevelInfo } from '../formula/typed'

/** A part of a definition that has no counterpart in the source: one sentence. */
export interface DataProblem {
  where: string
  sentence: string
}

export interface LevelTree {
  levels: LevelInfo[]
  problems: DataProblem[]
}

/** Levels of a data set, parents before children, with all columns that their tables offer; dataset/model.ts adds what is worked out. */
export function levelTree(dataSet: DataSetDefinition, catalog: Catalog): LevelTree {
  const tree: LevelTree = { levels: [], problems: [] }
  const visit = (definition: LevelDefinition, parent: number) => {
    const table = findTable(catalog, definition.table)
    const level: LevelInfo = {
      index: tree.levels.length,
      parent,
      children: [],
      name: definition.name,
      caption: definition.caption ?? readable(definition.name),
      definition,
      key: table ? keyOf(table) : [],
      fields: new Map(),
    }
    tree.levels.push(level)
    if (parent >= 0) tree.levels[parent]!.children.push(level.index)
    if (!table) {
      tree.problems.push({
        where: definition.name,
        sentence:
          `The table “${definition.table}” of level “${level.caption}” is not in the source any more; restore it or choose ` +
          `another table.`,
      })
    } else {
      addFields(level, '', definition.table, definition.fields)
      for (const related of definition.related) addRelated(level, related, '', definition.table)
      for (const pair of definition.on) if (!level.fields.has(pair.to)) requireColumn(definition.table, pair.to, `level “${level.caption}”`)
    }
    definition.details.forEach(detail => visit(detail, level.index))
  }
  const requireColumn = (table: string, column: string, where: string) => {
    if (!findTable(catalog, table)?.columns.some(found => found.name === column)) {
      tree.problems.push({
        where,
        sentence: `The column “${column}” of table “${table}” is not in the source any more; ${where} needs it.`,
      })
    }
  }
  const addFields = (level: LevelInfo, record: string, tableName: string, ticked: string[]) => {
    for (const name of ticked) requireColumn(tableName, name, `level “${level.caption}”`)
    for (const column of findTable(catalog, tableName)!.columns) {
      const path = record ? `${record}.${column.name}` : column.name
      const settings = dataSet.fields[`${level.name}.${path}`]
      level.fields.set(path, {
        level: level.index,
        path,
        type: column.type,
        scale: column.scale,
        column,
        record,
        role: roleOf(catalog, tableName, column),
        caption: settings?.caption ?? columnCaption(column),
        format: settings?.format ?? column.format,
        ...(settings?.currency ? { currency: settings.currency } : {}),
      })
    }
  }
  const addRelated = (level: LevelInfo, related: RelatedDefinition, above: string, holder: string) => {
    const record = above ? `${above}.${related.name}` : related.name
    for (const pair of related.on)
      if (!(above === '' && level.fields.has(pair.from))) requireColumn(holder, pair.from, `“${record}” of level “${level.caption}”`)
    if (!findTable(catalog, related.table)) {
      tree.problems.push({
        where: record,
        sentence:
          `The table “${related.table}” of “${record}” is not in the source any more; restore it or take “${record}” out of ` +
          `level “${level.caption}”.`,
      })
      return
    }
    addFields(level, record, related.table, related.fields)
    if (!findsOne(catalog, related)) {
      tree.problems.push({
        where: record,
        sentence:
          `“${record}” of level “${level.caption}” may find several records of “${related.table}”, since ` +
          `${related.on.map(pair => pair.to).join(', ')} is no key of it; join it by a key, or say which one to pick.`,
      })
    }
    for (const inner of related.related) addRelated(level, inner, record, related.table)
  }
  visit(dataSet.root, -1)
  return tree
}

/** A level of one table alone, as filters of related records and child totals see it. */
export function tableLevel(table: CatalogTable, name: string): LevelInfo {
  const definition: LevelDefinition = { name, table: table.name, on: [], fields: [], related: [], details: [], filters: [], sort: [] }
  return levelTree({ name, source: '', root: definition, fields: {} }, { tables: [table], foreignKeys: [] }).levels[0]!
}

/** Is the record picked, found by its primary key, or by columns that a foreign key points at (which must be unique)? */
export function findsOne(catalog: Catalog, related: RelatedDefinition): boolean {
  if (related.pick) return true
  const columns = related.on.map(pair => pair.to)
  const covers = (key: readonly string[]) => key.length > 0 && key.every(column => columns.includes(column))
  return (
    covers(findTable(catalog, related.table)!.primaryKey) ||
    catalog.foreignKeys.some(key => key.to.table === related.table && key.unique !== false && covers(key.to.columns))
  )
}

function roleOf(catalog: Catalog, table: string, column: CatalogColumn): FieldRole {
  if (isKeyColumn(catalog, table, column.name)) return 'key'
  if (column.type === 'text') return 'label'
  if (column.type !== 'number') return 'other'
  const role = columnRole(catalog, table, column.name)
  return role === 'amount' || role === 'quantity' ? 'measure' : isPerUnit(role) ? 'rate' : 'other'
}

/** Paths of the ticked fields of a level, its own first, then those of its related records. */
export function tickedFields(definition: LevelDefinition): string[] {
  const paths = [...definition.fields]
  const visit = (related: RelatedDefinition, above: string) => {
    const record = above ? `${above}.${related.name}` : related.name
    paths.push(...related.fields.map(field => `${record}.${field}`))
    related.related.forEach(inner => visit(inner, record))
  }
  definition.related.forEach(related => visit(related, ''))
  return [
    ...paths,
    ...(definition.totals ?? []).map(total => total.name),
    ...(definition.calculated ?? []).map(field => field.name),
    ...(definition.ageings ?? []).flatMap(ageingShown),
  ]
}
