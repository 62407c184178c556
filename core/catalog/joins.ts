import { sql, type SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import type { Query } from '../dataset/plan'
import { type Relation, relationsOf, singular } from './relations'
import { type Catalog, type CatalogTable, findTable, readable } from './types'

/** A table that can be joined, and where the idea comes from. */
export interface JoinCandidate extends Relation {
  origin: 'declared' | 'kept' | 'guessed'
}

/** How well a join fits, worked out from the data. */
export interface JoinMatch {
  /** records of the level, and how many of them find a partner */
  records: number
  finding: number
  /** records on the pointing side whose key is filled but finds nothing */
  orphans: number
  /** most partners of one record */
  most: number
}

/** Are the pairs of columns the same, in whatever order their sides are written? */
export function samePairs(a: readonly { from: string; to: string }[], b: readonly { from: string; to: string }[]): boolean {
  return a.length === b.length && a.every((pair, index) => pair.from === b[index]!.from && pair.to === b[index]!.to)
}

const stem = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]/g, '')
    .replace(/(id|code|no|number|key|ref)$/, '')

/** Does a column's name speak of a key of a table? `customer_code` of `customers.code`, `account` of `accounts.code`. */
function namesKey(column: string, table: CatalogTable, key: string): boolean {
  const [own, owner] = [column.toLowerCase(), singular(table.name.toLowerCase()).replace(/[^a-z0-9]/g, '')]
  if (own === key.toLowerCase() && !/^(id|code|no|number|name|line_no|date)$/.test(own)) return true
  // document_number may hold the numbers of any documents: the data say which
  if (/^(number|code)$/.test(key) && own.endsWith(`_${key}`)) return true
  const short = stem(own)
  return short.length > 2 && (short === owner || short.endsWith(owner) || (owner.endsWith(short) && short.length > 3))
}

/** Columns by which the rows of a table can be told apart: its primary key, and what others point at. */
function keysOf(catalog: Catalog, table: CatalogTable): string[] {
  return [
    ...new Set([
      ...(table.primaryKey.length === 1 ? table.primaryKey : []),
      ...catalog.foreignKeys
        .filter(key => key.to.table === table.name && key.to.columns.length === 1 && key.unique !== false)
        .map(key => key.to.columns[0]!),
      ...table.columns.filter(column => /^(code|number)$/.test(column.name) && column.required).map(column => column.name),
    ]),
  ]
}

/**
 * What can be joined to a table: by declared keys first, then by relations kept with the source, then guessed from names and types, in
 * both directions.
 * Guesses are ideas; how well they fit is asked of the data.
 */
export function joinCandidates(catalog: Catalog, table: string): JoinCandidate[] {
  const known = relationsOf(catalog, table).map((relation): JoinCandidate => ({
    ...relation,
    origin: catalog.foreignKeys.find(key => key.name === relation.foreignKey)?.origin ?? 'declared',
  }))
  const own = findTable(catalog, table)
  if (!own) return []
  const same = (candidate: JoinCandidate) => (other: JoinCandidate) =>
    other.table === candidate.table && other.direction === candidate.direction && samePairs(other.on, candidate.on)
  const guessed: JoinCandidate[] = []
  const add = (candidate: JoinCandidate) => {
    if (![...known, ...guessed].some(same(candidate))) guessed.push(candidate)
  }
  for (const other of catalog.tables) {
    if (other === own) continue
    for (const key of keysOf(catalog, other)) {
      const type = other.columns.find(column => column.name === key)!.type
      for (const column of own.columns) {
        if (column.type !== type || !namesKey(column.name, other, key)) continue
        if (!catalog.foreignKeys.some(each => each.from.table === own.name && each.from.columns[0] === column.name))
          add({
            direction: 'related',
            table: other.name,
            on: [{ from: column.name, to: key }],
            name: column.name.replace(/_(id|code|no)$/, ''),
            foreignKey: '',
            origin: 'guessed',
          })
      }
    }
    for (const key of keysOf(catalog, own)) {
      const type = own.columns.find(column => column.name === key)!.type
      for (const column of other.columns) {
        if (column.type !== type || !namesKey(column.name, own, key)) continue
        if (!catalog.foreignKeys.some(each => each.from.table === other.name && each.from.columns[0] === column.name))
          add({
            direction: 'detail',
            table: other.name,
            on: [{ from: key, to: column.name }],
            name: other.name.replace(/^@/, ''),
            foreignKey: '',
            origin: 'guessed',
          })
      }
    }
  }
  return [...known.filter(each => each.origin === 'declared'), ...known.filter(each => each.origin === 'kept'), ...guessed]
}

const dialect = new PgDialect()

/**
 * The statement that works out how well a join fits: `from` is the level's table, `to` the joined one, as SQL that can stand after
 * `from`.
 */
export function matchQuery(
  from: SQL,
  to: SQL,
  on: readonly { from: string; to: string }[],
  direction: 'related' | 'detail',
  authored = false,
): Query {
  const list = (side: 'from' | 'to') =>
    sql.join(
      on.map(pair => sql`t.${sql.identifier(pair[side])}`),
      sql`, `,
    )
  const filled = (side: 'from' | 'to') =>
    sql.join(
      on.map(pair => sql`t.${sql.identifier(pair[side])} is not null`),
      sql` and `,
    )
  // each side grouped by its key once: the figures come from the groups
  const grouped = (table: SQL, side: 'from' | 'to') =>
    sql`select ${sql.join(
      on.map((pair, index) => sql`t.${sql.identifier(pair[side])} as ${sql.identifier(`k${index}`)}`),
      sql`, `,
    )}, count(*) as n from ${table} as t where ${filled(side)} group by ${list(side)}`
  const equal = sql.join(
    on.map((_, index) => sql`b.${sql.identifier(`k${index}`)} = a.${sql.identifier(`k${index}`)}`),
    sql` and `,
  )
  const statement = sql`with a as materialized (${grouped(from, 'from')}), b as materialized (${grouped(to, 'to')})
    select (select count(*) from ${from} as t), coalesce((select sum(a.n) from a where exists (select 1 from b where ${equal})), 0),
      coalesce(${
        direction === 'related'
          ? sql`(select sum(a.n) from a where not exists (select 1 from b where
        ${equal}))`
          : sql`(select sum(b.n) from b where not exists (select 1 from a where ${equal}))`
      }, 0),
      coalesce((select max(b.n) from b join a on ${equal}), 0)`
  const { sql: text, params } = dialect.sqlToQuery(statement)
  return {
    text,
    values: params,
    columns: ['records', 'finding', 'orphans', 'most'].map(path => ({ path, type: 'number', scale: 0 })),
    ...(authored ? { authored } : {}),
  }
}

const count = (number: number) => number.toLocaleString('en')

/** A match in words: “every invoice has one”, “3 lines find no item”. */
export function matchWords(match: JoinMatch, direction: 'related' | 'detail', owner: string, joined: string): string {
  const plural = (number: number, word: string) => `${count(number)} ${number === 1 ? word : pluralOf(word)}`
  if (!match.records) return `there are no ${pluralOf(owner)} yet`
  const without = match.records - match.finding
  if (direction === 'related') {
    const parts = [
      without === 0
        ? `every ${owner} has one`
        : match.finding === 0
          ? `no ${owner} has one`
          : `${share(match.finding, match.records)} of ${pluralOf(owner)} have one`,
    ]
    if (match.orphans) parts.push(`${plural(match.orphans, owner)} ${match.orphans === 1 ? 'finds' : 'find'} no ${joined}`)
    if (match.most > 1) parts.push(`up to ${count(match.most)} for one ${owner}`)
    return parts.join(' · ')
  }
  const parts = [
    without === 0 ? `every ${owner} has some` : `${share(match.finding, match.records)} of ${pluralOf(owner)} have some`,
    `${match.most === 1 ? 'one' : `up to ${count(match.most)}`} for one ${owner}`,
  ]
  if (match.orphans) parts.push(`${plural(match.orphans, joined)} ${match.orphans === 1 ? 'belongs' : 'belong'} to no ${owner}`)
  return parts.join(' · ')
}

/** Per cent, never rounded to a whole that it is not. */
function share(part: number, whole: number): string {
  const percent = (part / whole) * 100
  return percent > 99 && percent < 100 ? '99 %' : percent > 0 && percent < 1 ? 'under 1 %' : `${Math.round(percent)} %`
}

export function pluralOf(word: string): string {
  return /[^aeiou]y$/.test(word) ? word.replace(/y$/, 'ies') : /(x|sh|ch|s)$/.test(word) ? `${word}es` : `${word}s`
}

/** A table or column that a search finds. */
export interface CatalogHit {
  table: string
  column?: string
  where: 'table' | 'column' | 'comment'
  rank: number
}

/** Tables and columns whose names, captions or comments hold all words of a search, the closest first. */
export function searchCatalog(catalog: Catalog, search: string): CatalogHit[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return []
  const holds = (text: string) => words.every(word => text.includes(word))
  const rank = (name: string) => (name === words.join('_') || name === words.join(' ') ? 0 : name.startsWith(words[0]!) ? 1 : 2)
  return catalog.tables
    .flatMap((table): CatalogHit[] => {
      const name = `${table.name} ${readable(table.name)}`.toLowerCase()
      if (holds(name)) return [{ table: table.name, where: 'table', rank: rank(table.name.toLowerCase()) }]
      if (holds((table.comment ?? '').toLowerCase())) return [{ table: table.name, where: 'comment', rank: 3 }]
      const column = table.columns.find(each => holds(`${each.name} ${readable(each.name)} ${each.caption ?? ''}`.toLowerCase()))
      if (column) return [{ table: table.name, column: column.name, where: 'column', rank: 4 }]
      const commented = table.columns.find(each => holds((each.comment ?? '').toLowerCase()))
      return commented ? [{ table: table.name, column: commented.name, where: 'comment', rank: 5 }] : []
    })
    .sort((a, b) => a.rank - b.rank || a.table.localeCompare(b.table, 'en'))
}

/**
 * The statement that looks for a value in a table: how many rows hold it, per column, without case. Numbers and dates are compared as
 * they are written.
 */
export function valueQuery(schema: string, table: CatalogTable, value: string): Query {
  const wanted = value.trim()
  const columns = table.columns.filter(
    column =>
      column.type === 'text' ||
      (column.type === 'number' && /^-?\d+(\.\d+)?$/.test(wanted)) ||
      (column.type === 'date' && /^\d{4}-\d{2}-\d{2}$/.test(wanted)),
  )
  const tests = columns.map((column): SQL => {
    const name = sql`t.${sql.identifier(column.name)}`
    if (column.type === 'number') return sql`count(*) filter (where ${name} = ${wanted}::numeric)`
    if (column.type === 'date') return sql`count(*) filter (where ${name} = ${wanted}::date)`
    return wanted.length < 3
      ? sql`count(*) filter (where ${name}::text = ${wanted})`
      : sql`count(*) filter (where position(lower(${wanted}) in lower(${name}::text)) > 0)`
  })
  const { sql: text, params } = dialect.sqlToQuery(
    sql`select ${tests.length ? sql.join(tests, sql`, `) : sql`0`} from ${sql.identifier(schema)}.${sql.identifier(table.name)} as t`,
  )
  return {
    text,
    values: params,
    columns: (columns.length ? columns.map(column => column.name) : ['']).map(path => ({ path, type: 'number', scale: 0 })),
  }
}
