import { type SQL, sql } from 'drizzle-orm'
import { type Query, withTexts } from './query'
import { pluralOf } from '../catalog/joins'
import { bound } from '../catalog/dialect'

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

/** The first look at a join: how many of some rows on the pointing side find a partner, before all are counted. */
export interface JoinSample {
  sampled: number
  finding: number
}

/** Rows on the pointing side that are looked at before all are counted. */
const sampleSize = 2000

/**
 * The statement of that first look. The side that points is looked at, since the other is found by its key: the level's own table where
 * each record has one partner, the joined table where it has many.
 */
export function sampleQuery(
  from: SQL,
  to: SQL,
  on: readonly { from: string; to: string }[],
  direction: 'related' | 'detail',
  texts: readonly string[] = [],
): Query {
  const [child, parent] = direction === 'related' ? [from, to] : [to, from]
  const [own, theirs] = direction === 'related' ? (['from', 'to'] as const) : (['to', 'from'] as const)
  const all = (part: (pair: { from: string; to: string }, index: number) => SQL, between: SQL) => sql.join(on.map(part), between)
  const keys = all((pair, index) => sql`t.${sql.identifier(pair[own])} as ${sql.identifier(`k${index}`)}`, sql`, `)
  const filled = all(pair => sql`t.${sql.identifier(pair[own])} is not null`, sql` and `)
  const equal = all((pair, index) => sql`b.${sql.identifier(pair[theirs])} = s.${sql.identifier(`k${index}`)}`, sql` and `)
  const { text, values } = bound(
    sql`with s as materialized (select ${keys} from ${child} as t where ${filled} limit ${sql.raw(String(sampleSize))})
      select count(*), count(*) filter (where exists (select 1 from ${parent} as b where ${equal})) from s`,
  )
  return { text, values, columns: ['sampled', 'finding'].map(path => ({ path, type: 'number', scale: 0 })), ...withTexts(texts) }
}

/**
 * The statement that works out how well a join fits: `from` is the level's table, `to` the joined one, as SQL that can stand after
 * `from`.
 */
export function matchQuery(
  from: SQL,
  to: SQL,
  on: readonly { from: string; to: string }[],
  direction: 'related' | 'detail',
  texts: readonly string[] = [],
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
  const { text, values: params } = bound(statement)
  return {
    text,
    values: params,
    columns: ['records', 'finding', 'orphans', 'most'].map(path => ({ path, type: 'number', scale: 0 })),
    ...withTexts(texts),
  }
}

/** A first look in words, while all are counted: “of the first 2,000, 98 % have one”. */
export function sampleWords({ sampled, finding }: JoinSample, direction: 'related' | 'detail', owner: string, joined: string): string {
  const [pointing, has] =
    direction === 'related' ? [owner, 'have one'] : [joined, `belong to ${/^[aeiou]/.test(owner) ? 'an' : 'a'} ${owner}`]
  if (!sampled) return 'counting …'
  return `of the first ${count(sampled)} ${pluralOf(pointing)} ${share(finding, sampled)} ${has} · counting …`
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
