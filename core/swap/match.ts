import { type CatalogColumn, type CatalogTable, columnCaption, findTable, readable, type TableCatalog } from '../catalog/types'
import { folded } from '../value/text'
import type { NeededTable } from './needs'

/** How sure a match is: as good as said · likely · to be looked at. */
export type Sureness = 'sure' | 'likely' | 'unsure'

export interface ColumnMatch {
  column: string
  /** the column of the other source; nothing where none is near */
  to?: string
  sure: Sureness
  /** reasons in a few words each */
  why: string[]
}

export interface TableMatch {
  table: string
  to?: string
  sure: Sureness
  why: string[]
  columns: ColumnMatch[]
}

/** Values of columns that were looked at, as texts, by table and column. */
export type Samples = ReadonlyMap<string, ReadonlyMap<string, ReadonlySet<string>>>

/** Words that people shorten. */
const short: Record<string, string> = Object.fromEntries(
  (
    'no nr num nbr:number qty:quantity amt sum total:amount dt:date cust client:customer inv:invoice acct acc:account desc:description ' +
    'addr:address ccy curr:currency ref:reference tel telephone:phone zip:postcode vat:tax pct:percent doc:document prod itm article ' +
    'product:item ord:order supp vendor:supplier title:name'
  )
    .split(/(?<=:\w+) /)
    .flatMap(group => {
      const [list = '', word = ''] = group.split(':')
      return list.split(' ').map(each => [each, word])
    }),
)

/** A name as the words that it is made of, in one number and at full length. */
function wordsOf(name: string): string[] {
  return folded(name.replace(/([a-z])([A-Z])/g, '$1 $2'))
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map(word =>
      word.length > 3
        ? word
            .replace(/ies$/, 'y')
            .replace(/(ss|x|ch|sh)es$/, '$1')
            .replace(/([^s])s$/, '$1')
        : word,
    )
    .map(word => short[word] ?? word)
}

/** Words for what tells records apart: they may stand for one another. */
const keyWords = new Set(['id', 'number', 'key', 'code'])

/** How near two names are, 0 to 1: 1 where they are the same words. */
export function nearness(a: string, b: string): number {
  if (a === b) return 1
  const [left, right] = [wordsOf(a), wordsOf(b)]
  if (!left.length || !right.length) return 0
  if (left.join(' ') === right.join(' ')) return 0.98
  if ([...left].sort().join(' ') === [...right].sort().join(' ')) return 0.95
  const near = (one: string, other: string) =>
    one === other
      ? 1
      : keyWords.has(one) && keyWords.has(other)
        ? 0.6
        : Math.min(one.length, other.length) > 2 && (one.startsWith(other) || other.startsWith(one))
          ? 0.8
          : 0
  const best = (own: string[], others: string[]) => own.reduce((sum, word) => sum + Math.max(...others.map(other => near(word, other))), 0)
  return (0.9 * (best(left, right) + best(right, left))) / (left.length + right.length)
}

/** Columns that stand beside one another: how well they fit, 0 to 1, and why. */
interface Fit {
  score: number
  why: string[]
}

function columnFit(own: CatalogColumn, other: CatalogColumn, tables: [CatalogTable, CatalogTable], samples?: [Values, Values]): Fit {
  const why: string[] = []
  // “customer_id” of another table’s “id” is said with the table before it
  const [name, full] = [nearness(own.name, other.name), nearness(own.name, `${tables[1].name} ${other.name}`)]
  const caption = nearness(columnCaption(own), columnCaption(other))
  const words = Math.max(name, caption * 0.97, full * 0.85)
  if (own.name === other.name) why.push('same name')
  else if (words >= 0.9) why.push(caption > name ? 'same caption' : 'same words')
  else if (words >= 0.4) why.push('similar name')
  const shared = samples && sharedPart(...samples)
  if (shared !== undefined && shared >= 0.1) why.push(`${Math.round(shared * 100)} % of the values looked at agree`)
  let score = words
  // values speak for a column as loud as its name, against it hardly: rows may be invented, or others
  if (shared !== undefined && shared >= 0.1) score = Math.min(1, Math.max(score, 0.4 + 0.45 * shared) + 0.1 * shared)
  if (own.type !== other.type) {
    const said = { number: 'numbers', text: 'texts', date: 'dates', moment: 'dates with times', boolean: 'yes or no' }
    why.push(`holds ${said[other.type]}, not ${said[own.type]}`)
    score *= own.name === other.name ? 0.6 : 0.3
  }
  const keys = [tables[0].primaryKey, tables[1].primaryKey]
  if (keys[0]!.length === 1 && keys[1]!.length === 1 && keys[0]![0] === own.name && keys[1]![0] === other.name) {
    why.push('key of its table')
    score = Math.min(1, score + 0.15)
  }
  return { score, why }
}

type Values = ReadonlySet<string>

/**
 * How much two lists of values have in common, 0 to 1: half by what of the smaller stands in the larger, half by what of both stands in
 * both, since small numbers stand in many columns. Nothing where there is too little to say so.
 */
function sharedPart(a: Values, b: Values): number | undefined {
  const [few, many] = a.size < b.size ? [a, b] : [b, a]
  // yes and no, and a handful of small numbers, are in many columns
  if (few.size < 3) return undefined
  let found = 0
  for (const value of few) if (many.has(value)) found++
  return (found / few.size + found / (few.size + many.size - found)) / 2
}

const sureness = (score: number): Sureness => (score >= 0.85 ? 'sure' : score >= 0.6 ? 'likely' : 'unsure')

/** Below this, nothing is proposed. */
const least = 0.4

/** The best pairs of two lists, each taken once, the surest first. */
function pairs<A, B>(own: readonly A[], others: readonly B[], fit: (a: A, b: B) => Fit): Map<A, { other: B; fit: Fit }> {
  const all = own.flatMap(a => others.map(b => ({ a, b, fit: fit(a, b) }))).filter(each => each.fit.score >= least)
  all.sort((x, y) => y.fit.score - x.fit.score)
  const found = new Map<A, { other: B; fit: Fit }>()
  const taken = new Set<B>()
  for (const each of all) {
    if (found.has(each.a) || taken.has(each.b)) continue
    found.set(each.a, { other: each.b, fit: each.fit })
    taken.add(each.b)
  }
  return found
}

/** The columns of a needed table beside those of a table of the other source. */
export function matchColumns(
  needed: NeededTable,
  own: CatalogTable,
  other: CatalogTable,
  samples?: { own: Samples; other: Samples },
): ColumnMatch[] {
  const values = (list: Samples | undefined, table: string, column: string) => list?.get(table)?.get(column)
  const wanted = needed.columns.flatMap(({ column }) => own.columns.find(each => each.name === column) ?? [])
  const found = pairs(wanted, other.columns, (a, b) => {
    const [left, right] = [values(samples?.own, own.name, a.name), values(samples?.other, other.name, b.name)]
    return columnFit(a, b, [own, other], left && right ? [left, right] : undefined)
  })
  return needed.columns.map(({ column }): ColumnMatch => {
    const match = found.get(wanted.find(each => each.name === column)!)
    return match
      ? { column, to: match.other.name, sure: sureness(match.fit.score), why: match.fit.why }
      : { column, sure: 'unsure', why: ['no column is near'] }
  })
}

const weight: Record<Sureness, number> = { sure: 1, likely: 0.7, unsure: 0.4 }

/** Proposes for each table and column that a report needs which of another source it is. A table of the other is proposed once. */
export function proposeMatches(
  needs: readonly NeededTable[],
  from: TableCatalog,
  to: TableCatalog,
  samples?: { own: Samples; other: Samples },
): TableMatch[] {
  const columns = new Map<string, ColumnMatch[]>()
  const columnsOf = (need: NeededTable, other: CatalogTable) => {
    const key = `${need.table}\n${other.name}`
    const known = columns.get(key)
    if (known) return known
    const found = matchColumns(need, findTable(from, need.table)!, other, samples)
    columns.set(key, found)
    return found
  }
  const found = pairs(needs, to.tables, (need, other): Fit => {
    const name = Math.max(nearness(need.table, other.name), nearness(readable(need.table), other.comment ?? '') * 0.9)
    const list = columnsOf(need, other)
    const covered = list.filter(each => each.to).length
    const part = list.length ? list.reduce((sum, each) => sum + (each.to ? weight[each.sure] : 0), 0) / list.length : 0
    return {
      score: need.table === other.name && covered === list.length ? Math.max(0.9, part) : 0.4 * name + 0.6 * part,
      why: [
        ...(need.table === other.name ? ['same name'] : name >= 0.9 ? ['same words'] : name >= 0.4 ? ['similar name'] : []),
        list.length ? `${covered} of ${list.length} ${list.length === 1 ? 'column' : 'columns'}` : 'none of its columns is needed',
      ],
    }
  })
  return needs.map((need): TableMatch => {
    const match = found.get(need)
    return match
      ? {
          table: need.table,
          to: match.other.name,
          sure: sureness(match.fit.score),
          why: match.fit.why,
          columns: columnsOf(need, match.other),
        }
      : {
          table: need.table,
          sure: 'unsure',
          why: ['no table is near'],
          columns: need.columns.map(({ column }) => ({ column, sure: 'unsure', why: [] })),
        }
  })
}
