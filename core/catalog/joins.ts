import { type Relation, relationsOf, singular } from './relations'
import { type CatalogTable, findTable, readable, type TableCatalog } from './types'

/** A table that can be joined, and where the idea comes from. */
export interface JoinCandidate extends Relation {
  origin: 'declared' | 'kept' | 'guessed'
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
function keysOf(catalog: TableCatalog, table: CatalogTable): string[] {
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
export function joinCandidates(catalog: TableCatalog, table: string): JoinCandidate[] {
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
export function searchCatalog(catalog: TableCatalog, search: string): CatalogHit[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return []
  const holds = (text: string) => words.every(word => text.includes(word))
  // one invoice or many: the table of these comes before those whose names only begin so
  const single = (name: string) => name.replaceAll('_', ' ').replace(/s$/, '')
  const rank = (name: string) => (single(name) === single(words.join(' ')) ? 0 : name.startsWith(words[0]!) ? 1 : 2)
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
