import { sql, type SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import type { Catalog } from '../catalog/types'
import { checkFormula, fieldsUsed, somePart, type Typed } from '../formula/check'
import { formulaSql } from '../formula/sql'
import { FormulaError } from '../formula/syntax'
import type { Day } from '../value/date'
import type { LevelInfo } from './levels'
import type { Column, Value, ValueType } from './records'

/** A statement with its values bound, and what its columns hold. */
export interface Query {
  text: string
  values: unknown[]
  columns: { path: string, type: ValueType, scale?: number }[]
}

/** A definition that cannot be read from the source: one sentence. */
export class PlanError extends Error {}

export interface PlanInput {
  levels: readonly LevelInfo[]
  catalog: Catalog
  /** schema of the source's tables */
  schema: string
  /** fields that are wanted, by level */
  used: readonly ReadonlySet<string>[]
  parameterTypes: Readonly<Record<string, ValueType>>
  parameters: Readonly<Record<string, Value>>
  today: Day
}

/**
 * The statements of a data set: keys of the roots with their sort values first, then one statement per level for the records under
 * given parents. Only wanted columns are read, joined records only where they are needed, and nothing is multiplied: a detail level is never joined to its parent.
 */
export interface Plan {
  levels: readonly LevelInfo[]
  keys: Query
  /** records of a level whose `on` columns (the key, for the root) are among the given ones: one array of values per column */
  records: (level: number, parents: readonly unknown[][]) => Query
  /** columns by which the records of a level find their parent, as paths */
  link: (level: number) => { parent: string[], own: string[] }
}

const dialect = new PgDialect()

export function planDataSet(input: PlanInput): Plan {
  const { levels } = input
  const filters = levels.map(level => levelFilters(level, input))
  const link = (level: number) => {
    const { definition, key } = levels[level]!
    return levels[level]!.parent < 0 ? { parent: key, own: key } : { parent: definition.on.map(pair => pair.from), own: definition.on.map(pair => pair.to) }
  }
  const wanted = levels.map((level) => {
    const paths = new Set<string>([...level.key, ...link(level.index).own, ...level.definition.sort.map(sort => sort.field)])
    for (const child of level.children) for (const path of link(child).parent) paths.add(path)
    for (const path of input.used[level.index] ?? []) paths.add(path)
    return [...paths]
  })
  const select = (level: number, paths: readonly string[], extra: SQL[]): Query => {
    const info = levels[level]!
    for (const path of paths) {
      if (!info.fields.has(path)) throw new PlanError(`The field “${path}” of level “${info.caption}” is not in the source any more; take it out or choose another.`)
    }
    const conditions = [...filters[level]!.map(filter => filter.condition), ...extra]
    const joined = new Set([...paths, ...filters[level]!.flatMap(filter => filter.fields)].flatMap(path => recordsOf(info, path)))
    const statement = sql`select ${sql.join(paths.map(path => columnSql(info, path, true)), sql`, `)} from ${fromSql(info, joined, input.schema)}${conditions.length ? sql` where ${sql.join(conditions, sql` and `)}` : sql``}`
    const { sql: text, params } = dialect.sqlToQuery(statement)
    return {
      text, values: params,
      columns: paths.map((path) => {
        const field = info.fields.get(path)!
        return field.scale === undefined ? { path, type: field.type } : { path, type: field.type, scale: field.scale }
      }),
    }
  }
  const root = levels[0]!
  return {
    levels,
    keys: select(0, [...new Set([...root.key, ...root.definition.sort.map(sort => sort.field)])], []),
    link,
    records: (level, parents) => {
      const own = link(level).own
      const info = levels[level]!
      const arrays = own.map((path, index) => sql`${sql.param(arrayText(parents[index]!))}::${sql.raw(arrayType(info, path))}[]`)
      const restricted = own.length === 1
        ? sql`${columnSql(info, own[0]!, false)} = any(${arrays[0]})`
        : sql`(${sql.join(own.map(path => columnSql(info, path, false)), sql`, `)}) in (select * from unnest(${sql.join(arrays, sql`, `)}))`
      return select(level, wanted[level]!, [restricted])
    },
  }
}

/** An array literal of PostgreSQL (manual, section 8.15.2), bound as one value. */
function arrayText(values: readonly unknown[]): string {
  return `{${values.map(value => value === null ? 'NULL' : typeof value === 'number' ? value : `"${String(value).replace(/["\\]/g, '\\$&')}"`).join(',')}}`
}

/** Array element types are words from a fixed list, never text of a user's. */
function arrayType(level: LevelInfo, path: string): 'numeric' | 'integer' | 'bigint' | 'date' | 'boolean' | 'text' {
  const { column } = level.fields.get(path)!
  if (column.type === 'number') return column.databaseType === 'integer' ? 'integer' : column.databaseType === 'bigint' ? 'bigint' : 'numeric'
  return column.type
}

/** Paths of the related records that must be joined for a field: "item.category.name" → item, item.category. */
function recordsOf(level: LevelInfo, path: string): string[] {
  const { record } = level.fields.get(path)!
  if (!record) return []
  const names = record.split('.')
  return names.map((_, index) => names.slice(0, index + 1).join('.'))
}

const ownAlias = 'level'

/** A field's column. For reading, types without a counterpart of ours come as text. */
function columnSql(level: LevelInfo, path: string, reading: boolean): SQL {
  const { record, column } = level.fields.get(path)!
  const name = sql`${sql.identifier(record || ownAlias)}.${sql.identifier(column.name)}`
  return reading && column.type === 'text' && !/^(text|character varying|varchar)/.test(column.databaseType) ? sql`${name}::text` : name
}

function fromSql(level: LevelInfo, joined: ReadonlySet<string>, schema: string): SQL {
  const parts = [sql`${sql.identifier(schema)}.${sql.identifier(level.definition.table)} as ${sql.identifier(ownAlias)}`]
  const visit = (related: LevelInfo['definition']['related'], above: string) => {
    for (const each of related) {
      const record = above ? `${above}.${each.name}` : each.name
      if (!joined.has(record)) continue
      const on = each.on.map(pair => sql`${sql.identifier(record)}.${sql.identifier(pair.to)} = ${sql.identifier(above || ownAlias)}.${sql.identifier(pair.from)}`)
      parts.push(sql`left join ${sql.identifier(schema)}.${sql.identifier(each.table)} as ${sql.identifier(record)} on ${sql.join(on, sql` and `)}`)
      visit(each.related, record)
    }
  }
  visit(level.definition.related, '')
  return sql.join(parts, sql` `)
}

function levelFilters(level: LevelInfo, input: PlanInput): { condition: SQL, fields: string[] }[] {
  return level.definition.filters.flatMap((text) => {
    let typed: Typed
    try {
      typed = checkFormula(text, { levels: input.levels, level: level.index, parameters: input.parameterTypes, filter: true })
    } catch (error) {
      if (error instanceof FormulaError) throw new PlanError(`The filter “${text}” of level “${level.caption}” cannot be used: ${error.message}`)
      throw error
    }
    if (typed.type !== 'boolean') throw new PlanError(`The filter “${text}” of level “${level.caption}” is not a test; write one such as total > 0.`)
    // rule 18: an answer left empty takes the clauses that use it away
    if (somePart(typed, part => part.is === 'parameter' && (input.parameters[part.name] ?? null) === null)) return []
    return [{
      condition: formulaSql(typed, { column: path => columnSql(level, path, false), parameters: input.parameters, today: input.today }, true),
      fields: fieldsUsed(typed).map(field => field.path),
    }]
  })
}

/** What a statement gave: one column each, in the order of its select list. */
export interface Rows { count: number, columns: Column[] }
