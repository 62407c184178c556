import { sql, type SQL } from 'drizzle-orm'
import { fieldsUsed } from '../formula/parts'
import type { FieldInfo, LevelInfo } from '../formula/typed'
import { compileFormula } from '../formula/evaluate'
import { Lineage } from '../formula/lineage'
import { needsWhole } from '../formula/whole'
import { type Column, columnOf } from '../value/columns'
import type { DataRecords } from '../value/records'
import { PlanError, type Query, withTexts } from './query'
import { bound, sorted, arrayOf, standIns, type ElementType, sqlTypes } from '../catalog/dialect'
import type { Place, PlanInput } from './planInput'
import { keptAlike, Planner } from './planner'

/**
 * The statements of a data set: keys of the roots with their sort values first, then one statement per level for the records under
 * given parents. Only wanted columns are read, joined records only where they are needed, and nothing is multiplied: a detail level is
 * never joined to its parent.
 */
export interface Plan {
  levels: readonly LevelInfo[]
  /** the roots come from a table that is made anew by each statement, so fewer and larger chunks are better */
  made: boolean
  keys: Query
  /** all roots with their wanted fields, in no order: read at once where `made` */
  roots: Query
  /** how many roots there are */
  count: Query
  /** records of a level whose `on` columns (the key, for the root) are among the given ones: one array of values per column */
  records: (level: number, parents: readonly unknown[][]) => Query
  /** columns by which the records of a level find their parent, as paths */
  link: (level: number) => { parent: string[]; own: string[] }
  /** a field speaks of all records, so that no stretch of them can be worked out by itself */
  whole: boolean
  /** works out the fields that the source could not */
  workOut: (data: DataRecords) => void
}

export function planDataSet(input: PlanInput): Plan {
  const { levels } = input
  const planner = new Planner(input)
  const link = (level: number) => {
    const { definition, key } = levels[level]!
    return levels[level]!.parent < 0
      ? { parent: key, own: key }
      : { parent: definition.on.map(pair => pair.from), own: definition.on.map(pair => pair.to) }
  }
  // what is worked out after reading needs its fields read, on whatever level
  const asked = levels.map(level => new Set(input.used[level.index]))
  const later: FieldInfo[] = []
  const askFor = (level: number, path: string): void => {
    const field = levels[level]!.fields.get(path)
    if (field?.inSql !== false) return void asked[level]!.add(path)
    // what a nested report hands out comes with its records
    if (field.nested) return
    if (later.includes(field)) return
    for (const each of fieldsUsed(field.formula!)) askFor(each.level, each.path)
    later.push(field)
  }
  levels.forEach(level => [...(input.used[level.index] ?? [])].forEach(path => askFor(level.index, path)))
  const wanted = levels.map(level => {
    const paths = new Set<string>([...level.key, ...link(level.index).own, ...level.definition.sort.map(sort => sort.field)])
    for (const child of level.children) for (const path of link(child).parent) paths.add(path)
    for (const path of asked[level.index]!) paths.add(path)
    for (const sort of level.definition.sort) {
      if (level.fields.get(sort.field)?.inSql === false)
        throw new PlanError(
          `Level “${level.caption}” is sorted by “${sort.field}”, which is worked out after reading; sort by a field of its own or ` +
            `a child total.`,
        )
    }
    return [...paths].filter(path => level.fields.get(path)?.inSql !== false)
  })
  const described = (level: LevelInfo, paths: readonly string[]): Query['columns'] =>
    paths.map(path => {
      const field = level.fields.get(path)!
      return field.scale === undefined ? { path, type: field.type } : { path, type: field.type, scale: field.scale }
    })
  const query = (statement: SQL, columns: Query['columns']): Query => {
    const { text, values: params } = bound(statement, planner.authored)
    return { text, values: params, columns, ...withTexts(planner.texts) }
  }
  const root = levels[0]!
  const first = (input.order ?? []).map(({ path, descending }) => ({ field: path, descending }))
  const keyPaths = [...new Set([...root.key, ...root.definition.sort.map(sort => sort.field), ...first.map(each => each.field)])]
  const made = root.definition.table.startsWith('@')
  const amongThem = (place: Place): SQL[] =>
    (input.among ?? []).map(({ path, values }) => {
      // numbers that the column's own type may not hold are compared as numbers of any size
      const small = values.every(value => typeof value === 'number' && Number.isInteger(value) && Math.abs(value) < 2 ** 31)
      const type = root.fields.get(path)!.type === 'number' && !small ? 'numeric' : elementType(root, path)
      return sql`${planner.column(place, path, true)} = any(${arrayOf(values, type)})`
    })
  const keys = once(() =>
    query(
      planner.select(root, keyPaths, place => {
        const conditions = amongThem(place)
        if (input.limit === undefined) return { conditions }
        const order = [...first, ...root.definition.sort, ...root.key.map(field => ({ field, descending: false }))].map(sort => {
          const column = planner.column(place, sort.field, false)
          return sql`${root.fields.get(sort.field)!.type === 'text' ? sorted(column) : column}
            ${sort.descending ? sql`desc` : sql`asc`} nulls last`
        })
        return { conditions, tail: sql` order by ${sql.join(order, sql`, `)} limit ${input.limit}` }
      }),
      described(root, keyPaths),
    ),
  )
  const roots = once(() =>
    query(
      planner.select(root, wanted[0]!, place => ({ conditions: amongThem(place) })),
      described(root, wanted[0]!),
    ),
  )
  const count = once(() => query(planner.count(root), [{ path: 'count', type: 'number', scale: 0 }]))
  // what cannot be planned is told now; a table that is made is written out for what is asked of it only, since it is long
  roots()
  if (!made) keys()
  return {
    levels,
    link,
    made,
    get keys() {
      return keys()
    },
    get roots() {
      return roots()
    },
    get count() {
      return count()
    },
    records: (level, parents) => {
      const own = link(level).own
      const info = levels[level]!
      planner.keys = parents[0]?.length ?? 0
      // keys that the database keeps as another type are asked for as that, where they were read from the same
      const above = info.parent < 0 ? info : levels[info.parent]!
      const mayBeEmpty = info.parent < 0 && own.some(path => !info.fields.get(path)!.column.required)
      const held = link(level).parent.map(path => (mayBeEmpty ? undefined : above.fields.get(path)?.column))
      const arrays = own.map((path, index) => {
        const column = info.fields.get(path)!.column
        return arrayOf(parents[index]!, keptAlike(column, held[index]) ? column.databaseType : elementType(info, path))
      })
      return query(
        planner.select(
          info,
          wanted[level]!,
          place => {
            if (mayBeEmpty) {
              // an empty key finds its record too: both sides as (is it empty, value or a stand-in)
              const pair = (value: SQL, path: string) =>
                sql`${value} is null, coalesce(${value}, ${sql.raw(standIns[info.fields.get(path)!.type])})`
              const names = own.map((_, index) => sql`k.${sql.identifier(`k${index}`)}`)
              return {
                conditions: [
                  sql`(${sql.join(
                    own.map(path => pair(planner.column(place, path, true), path)),
                    sql`, `,
                  )}) in (select ${sql.join(
                    own.map((path, index) => pair(names[index]!, path)),
                    sql`, `,
                  )} from unnest(${sql.join(arrays, sql`, `)}) as k(${sql.join(
                    own.map((_, index) => sql.identifier(`k${index}`)),
                    sql`, `,
                  )}))`,
                ],
              }
            }
            const restricted =
              own.length === 1
                ? sql`${planner.linked(place, own[0]!, held[0])} = any(${arrays[0]})`
                : sql`(${sql.join(
                    own.map((path, index) => planner.linked(place, path, held[index])),
                    sql`, `,
                  )}) in (select * from unnest(${sql.join(arrays, sql`, `)}))`
            return { conditions: [restricted] }
          },
          own.every(path => info.fields.get(path)!.record === ''),
        ),
        described(info, wanted[level]!),
      )
    },
    whole: later.some(field => needsWhole(field.formula!)),
    workOut: data => {
      if (!later.length) return
      const around = {
        levels,
        data,
        parameters: input.parameters,
        today: input.today,
        ...(input.catalog.calendar ? { calendar: input.catalog.calendar } : {}),
      }
      const lineage = new Lineage(levels, data)
      for (const field of later) {
        const evaluate = compileFormula(field.formula!, around, lineage)
        const { count, columns } = data.levels[field.level]!
        columns[field.path] = columnOf(
          field.type,
          Array.from({ length: count }, (_, row) => evaluate({ level: field.level, from: row, to: row + 1 })),
        ) satisfies Column
      }
    },
  }
}

function elementType(level: LevelInfo, path: string): ElementType {
  const { column, type } = level.fields.get(path)!
  if (type === 'number') return column.databaseType === 'integer' ? 'integer' : column.databaseType === 'bigint' ? 'bigint' : 'numeric'
  return sqlTypes[type]
}

/** Worked out when it is first asked for. */
function once<T>(work: () => T): () => T {
  let found: { value: T } | undefined
  return () => (found ??= { value: work() }).value
}
