import { sql, type SQL } from 'drizzle-orm'
import type { Catalog } from '../books/catalog'
import { findTable } from '../catalog/types'
import type { ChildTotalDefinition, RelatedDefinition } from '../definition/levels'
import type { ParameterType } from '../definition/parameters'
import { checkFormula } from '../formula/check'
import { fieldsUsed, somePart } from '../formula/parts'
import type { FieldInfo, LevelInfo, Typed } from '../formula/typed'
import { compileFormula } from '../formula/evaluate'
import { Lineage } from '../formula/lineage'
import { arrayText, formulaSql, hasSql, type SqlSurroundings } from '../formula/sql'
import { FormulaError } from '../formula/syntax'
import { needsWhole } from '../formula/whole'
import { ColumnError } from '../statement/columns'
import type { Day } from '../value/date'
import { ledgerFilterColumns, type LedgerNeeds, ledgerSql } from './ledger'
import type { OwnLedger } from '../model/ledger'
import { tableLevel } from '../model/levels'
import type { OwnTable } from '../model/model'
import type { Answer, ValueType } from '../value/value'
import { type Column, columnOf } from '../value/columns'
import type { DataRecords } from '../value/records'
import { bindNames } from './authored'
import { bound, PlanError, type Query } from './query'

export interface PlanInput {
  levels: readonly LevelInfo[]
  catalog: Catalog
  /** the report's own tables */
  tables?: ReadonlyMap<string, OwnTable>
  /** schema of the source's tables */
  schema: string
  /** fields that are wanted, by level */
  used: readonly ReadonlySet<string>[]
  parameterTypes: Readonly<Record<string, ParameterType>>
  parameters: Readonly<Record<string, Answer>>
  today: Day
  /** a preview: at most so many roots, the first ones in the source's own order of the sort fields */
  limit?: number
  /** with a limit: an order that comes before that of the level, by fields of the roots */
  order?: readonly { path: string; descending: boolean }[]
}

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
    return { text, values: params, columns, ...(planner.authored ? { authored: true } : {}) }
  }
  const root = levels[0]!
  const first = (input.order ?? []).map(({ path, descending }) => ({ field: path, descending }))
  const keyPaths = [...new Set([...root.key, ...root.definition.sort.map(sort => sort.field), ...first.map(each => each.field)])]
  return {
    levels,
    link,
    made: root.definition.table.startsWith('@'),
    keys: query(
      planner.select(root, keyPaths, place => {
        if (input.limit === undefined) return { conditions: [] }
        const order = [...first, ...root.definition.sort, ...root.key.map(field => ({ field, descending: false }))].map(sort => {
          const column = planner.column(place, sort.field, false)
          return sql`${root.fields.get(sort.field)!.type === 'text' ? sql`${column} collate "unicode"` : column}
            ${sort.descending ? sql`desc` : sql`asc`} nulls last`
        })
        return { conditions: [], tail: sql` order by ${sql.join(order, sql`, `)} limit ${input.limit}` }
      }),
      described(root, keyPaths),
    ),
    roots: query(
      planner.select(root, wanted[0]!, () => ({ conditions: [] })),
      described(root, wanted[0]!),
    ),
    count: query(planner.count(root), [{ path: 'count', type: 'number', scale: 0 }]),
    records: (level, parents) => {
      const own = link(level).own
      const info = levels[level]!
      planner.keys = parents[0]?.length ?? 0
      const arrays = own.map((path, index) => sql`${sql.param(arrayText(parents[index]!))}::${sql.raw(arrayType(info, path))}[]`)
      return query(
        planner.select(
          info,
          wanted[level]!,
          place => {
            const mayBeEmpty = info.parent < 0 && own.some(path => !info.fields.get(path)!.column.required)
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
                ? sql`${planner.column(place, own[0]!, false)} = any(${arrays[0]})`
                : sql`(${sql.join(
                    own.map(path => planner.column(place, path, false)),
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

/** A table of the source, or of the report's own, as it stands after `from`. */
export function tableSql(input: Omit<PlanInput, 'levels' | 'used'>, name: string): { sql: SQL; authored: boolean } {
  const planner = new Planner({ ...input, levels: [], used: [] })
  const table = planner.table(name)
  return { sql: table, authored: planner.authored }
}

/** All values of one field of a level, without the level's filters: what it really holds. */
export function fieldSelect(input: PlanInput, level: number, path: string): { select: SQL; authored: boolean } {
  const info = input.levels[level]!
  if (!info.fields.has(path))
    throw new PlanError(`The field “${path}” of level “${info.caption}” is not in the source any more; take it out or choose another.`)
  const open: LevelInfo = { ...info, definition: { ...info.definition, filters: [] } }
  const planner = new Planner({ ...input, levels: input.levels.map(each => (each === info ? open : each)) })
  return { select: planner.select(open, [path], () => ({ conditions: [] })), authored: planner.authored }
}

/** Array element types are words from a fixed list, never text of a user's. */
function arrayType(level: LevelInfo, path: string): 'numeric' | 'integer' | 'bigint' | 'date' | 'boolean' | 'text' {
  const { column, type } = level.fields.get(path)!
  if (type === 'number') return column.databaseType === 'integer' ? 'integer' : column.databaseType === 'bigint' ? 'bigint' : 'numeric'
  return type
}

/**
 * A level standing in a statement: the names of its tables begin with the prefix, so that a level asked inside another's condition does
 * not hide it.
 */
interface Place {
  level: LevelInfo
  prefix: string
  restrict?: SQL
}

/** Puts statements together. All names are quoted, all values bound. */
/** The filters of a ledger table as SQL, for statements that read its postings one by one. */
export function ledgerFilters(input: PlanInput, own: OwnLedger): Pick<LedgerNeeds, 'inside' | 'outside'> {
  return new Planner(input).ledgerFilters(own)
}

class Planner {
  /** is there a text of an author's in what was planned? */
  authored = false
  /** for how many parents records are asked; all, where nothing is said */
  keys = Number.POSITIVE_INFINITY
  private readonly filters = new Map<LevelInfo, { typed: Typed; text: string }[]>()
  constructor(private readonly input: PlanInput) {}

  /** A select of fields of a level, with its filters; `more` gives further conditions and an end. */
  select(
    level: LevelInfo,
    paths: readonly string[],
    more: (place: Place) => { conditions: SQL[]; tail?: SQL },
    restrictTotals = false,
  ): SQL {
    for (const path of paths) {
      if (!level.fields.has(path))
        throw new PlanError(`The field “${path}” of level “${level.caption}” is not in the source any more; take it out or choose another.`)
    }
    const place: Place = { level, prefix: '' }
    const { conditions, tail } = more(place)
    if (restrictTotals && conditions.length) place.restrict = sql.join(conditions, sql` and `)
    return this.statement(
      place,
      paths.map(path => this.column(place, path, true)),
      paths,
      conditions,
      tail,
    )
  }

  count(level: LevelInfo): SQL {
    return this.statement({ level, prefix: '' }, [sql`count(*)`], [], [])
  }

  private statement(place: Place, columns: SQL[], paths: readonly string[], extra: SQL[], tail = sql``): SQL {
    const { level } = place
    const filters = this.levelFilters(level)
    const used = [
      ...paths,
      ...filters.flatMap(filter =>
        fieldsUsed(filter.typed)
          .filter(field => field.level === level.index)
          .map(field => field.path),
      ),
    ]
    const conditions = [...filters.map(filter => this.formula(place, filter.typed, true)), ...extra]
    return sql`select ${sql.join(columns, sql`, `)} from
      ${this.from(place, used)}${conditions.length ? sql` where ${sql.join(conditions, sql` and `)}` : sql``}${tail}`
  }

  /** A field as SQL. For reading, types without a counterpart of ours come as text. */
  column(place: Place, path: string, reading: boolean, field = place.level.fields.get(path)!): SQL {
    if (field.formula) {
      if (field.inSql === false)
        throw new PlanError(
          `“${path}” of level “${place.level.caption}” is worked out after reading, so it cannot stand in a filter or a sort; use a ` +
            `child total or has(…) there.`,
        )
      const value = this.formula(place, field.formula, false)
      return reading && field.type === 'boolean' ? sql`(${value})` : value
    }
    if (field.total) return this.totalColumn(place, field)
    const name = sql`${sql.identifier(place.prefix + (field.record || ownAlias))}.${sql.identifier(field.column.name)}`
    return reading && field.type === 'text' && !/^(text|character varying|varchar)/.test(field.column.databaseType)
      ? sql`${name}::text`
      : name
  }

  formula(place: Place, typed: Typed, required: boolean): SQL {
    const { parameters, today, catalog } = this.input
    const around: SqlSurroundings = {
      column: (path, field) => this.column(place, path, false, field),
      parameters,
      today,
      ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
      has: node => this.exists(place, node.level, node.where),
    }
    return formulaSql(typed, around, required)
  }

  /** The level's table with the joined records and child totals that some fields need; required records always. */
  private from(place: Place, paths: readonly string[]): SQL {
    const { level, prefix } = place
    const records = new Set<string>()
    const totals = new Set<FieldInfo>()
    const need = (path: string): void => {
      const field = level.fields.get(path)
      if (!field) return
      if (field.formula) for (const inner of fieldsUsed(field.formula)) if (inner.level === level.index) need(inner.path)
      if (field.total) {
        totals.add(field)
        for (const pair of field.total.definition.on) need(pair.from)
      }
      field.record.split('.').forEach((_, index, names) => records.add(names.slice(0, index + 1).join('.')))
    }
    paths.forEach(need)
    const requires = (related: RelatedDefinition): boolean => related.required === true || related.related.some(requires)
    const own = sql.identifier(prefix + ownAlias)
    const parts = [sql`${this.table(level.definition.table)} as ${own}`]
    const visit = (list: readonly RelatedDefinition[], above: string) => {
      for (const each of list) {
        const record = above ? `${above}.${each.name}` : each.name
        if (each.pick && 'latest' in each.pick)
          for (const inner of fieldsUsed(this.check(each.pick.at, level, 'date')))
            if (inner.path && !inner.path.startsWith(`${record}.`)) need(inner.path)
        if (!records.has(record) && !requires(each)) continue
        parts.push(this.join(place, each, record, above))
        visit(each.related, record)
      }
    }
    visit(level.definition.related, '')
    const joined = new Map<string, FieldInfo[]>()
    for (const field of totals) joined.set(leaderOf(place.level, field), [...(joined.get(leaderOf(place.level, field)) ?? []), field])
    for (const [leader, fields] of joined) parts.push(this.totalJoin(place, leader, fields))
    return sql.join(parts, sql` `)
  }

  private join(place: Place, related: RelatedDefinition, record: string, above: string): SQL {
    const { prefix } = place
    const alias = sql.identifier(prefix + record)
    const holder = sql.identifier(prefix + (above || ownAlias))
    const on = related.on.map(pair => sql`${alias}.${sql.identifier(pair.to)} = ${holder}.${sql.identifier(pair.from)}`)
    const table = findTable(this.input.catalog, related.table)!
    const alone = tableLevel(table, related.name)
    const inner: Place = { level: alone, prefix: '' }
    const conditions = (related.filters ?? []).flatMap(text => {
      const typed = this.test(text, alone)
      return typed
        ? [
            formulaSql(
              typed,
              { ...this.surroundings(), column: path => sql`${alias}.${sql.identifier(inner.level.fields.get(path)!.column.name)}` },
              true,
            ),
          ]
        : []
    })
    const kind = related.required ? sql`join` : sql`left join`
    const { pick } = related
    if (!pick) return sql`${kind} ${this.table(related.table)} as ${alias} on ${sql.join([...on, ...conditions], sql` and `)}`
    const of = (path: string) => sql`${alias}.${sql.identifier(path)}`
    const sorted = 'latest' in pick ? [{ field: pick.latest, descending: true }] : pick.sort
    const order = [...sorted, ...alone.key.map(field => ({ field, descending: false }))].map(
      sort =>
        sql`${alone.fields.get(sort.field)?.type === 'text' ? sql`${of(sort.field)} collate "unicode"` : of(sort.field)}
          ${sort.descending ? sql`desc` : sql`asc`} nulls last`,
    )
    if ('latest' in pick) {
      const at = this.check(pick.at, place.level, 'date')
      conditions.push(sql`${of(pick.latest)} <= ${this.formula(place, at, false)}`)
    }
    // one statement over all of them, where the record asked about does not matter and they are few beside the records that are read
    const shared = 'latest' in pick ? !fieldsUsed(this.check(pick.at, place.level, 'date')).length : true
    const few = !related.table.startsWith('@') && table.rowEstimate <= Math.max(2000, this.keys * 20)
    if (shared && few) {
      const own = related.on.map(pair => of(pair.to))
      return sql`${kind} (select distinct on (${sql.join(own, sql`, `)}) * from ${this.table(related.table)} as
        ${alias}${conditions.length ? sql` where ${sql.join(conditions, sql` and `)}` : sql``} order by
        ${sql.join([...own, ...order], sql`, `)}) as ${alias} on ${sql.join(on, sql` and `)}`
    }
    return sql`${kind} lateral (select * from ${this.table(related.table)} as ${alias} where
      ${sql.join([...on, ...conditions], sql` and `)} order by ${sql.join(order, sql`, `)} limit 1) as ${alias} on true`
  }

  private totalColumn(place: Place, field: FieldInfo): SQL {
    const value = sql`${sql.identifier(place.prefix + totalAlias + leaderOf(place.level, field))}.${sql.identifier(field.path)}`
    const { total } = field.total!.definition
    return total === 'sum' || total === 'count' ? sql`coalesce(${value}, 0)` : value
  }

  /**
   * A child total is one grouped join, never a query per row; it adds up only children of the records that are read. Totals of the same
   * children share one join.
   */
  private totalJoin(place: Place, leader: string, fields: readonly FieldInfo[]): SQL {
    const { definition, child } = fields[0]!.total!
    const inner: Place = { level: child, prefix: `${place.prefix}of ` }
    const of = (path: string) => sql`${sql.identifier(inner.prefix + ownAlias)}.${sql.identifier(path)}`
    const measure = (field: FieldInfo) => {
      const { definition: own, value } = field.total!
      const added = value && this.formula(inner, value, false)
      switch (own.total) {
        case 'count':
          return added ? sql`count(${added})::numeric` : sql`count(*)::numeric`
        case 'sum':
          return sql`sum(${added})`
        case 'latest':
          return sql`(array_agg(${added} order by ${of(own.by!)} desc nulls last, ${sql.join(child.key.map(of), sql` desc, `)} desc))[1]`
        default:
          return value!.type === 'text'
            ? sql`${sql.raw(own.total)}(${added} collate "unicode")`
            : value!.type === 'boolean'
              ? sql`(${sql.raw(own.total)}(${added}::int) = 1)`
              : sql`${sql.raw(own.total)}(${added})`
      }
    }
    const conditions = definition.filters.flatMap(text => {
      const typed = this.test(text, child)
      return typed ? [this.formula(inner, typed, true)] : []
    })
    // children that belong to nothing are never asked for
    for (const pair of definition.on) if (!child.fields.get(pair.to)!.column.required) conditions.push(sql`${of(pair.to)} is not null`)
    const plainKeys = definition.on.every(pair => place.level.fields.get(pair.from)!.record === '')
    if (place.restrict && plainKeys) {
      const parents = sql`select ${sql.join(
        definition.on.map(pair => this.column(place, pair.from, false)),
        sql`, `,
      )} from ${this.table(place.level.definition.table)} as ${sql.identifier(place.prefix + ownAlias)} where ${place.restrict}`
      conditions.push(
        sql`(${sql.join(
          definition.on.map(pair => of(pair.to)),
          sql`, `,
        )}) in (${parents})`,
      )
    }
    const alias = sql.identifier(place.prefix + totalAlias + leader)
    const keys = definition.on.map((pair, index) => sql`${of(pair.to)} as ${sql.identifier(`key${index}`)}`)
    const values = fields.map(field => sql`${measure(field)} as ${sql.identifier(field.path)}`)
    const grouped = sql`select ${sql.join([...keys, ...values], sql`, `)} from ${this.table(child.definition.table)} as
      ${sql.identifier(inner.prefix + ownAlias)}${conditions.length ? sql` where ${sql.join(conditions, sql` and `)}` : sql``}
      group by ${sql.join(
        definition.on.map(pair => of(pair.to)),
        sql`, `,
      )}`
    return sql`left join (${grouped}) as ${alias} on ${sql.join(
      definition.on.map((pair, index) => sql`${alias}.${sql.identifier(`key${index}`)} = ${this.column(place, pair.from, false)}`),
      sql` and `,
    )}`
  }

  /** Is there a record of a level below with all its filters and this test? */
  private exists(place: Place, target: number, where: Typed | undefined): SQL {
    const { levels } = this.input
    const path: LevelInfo[] = []
    for (let at = levels[target]!; at.index !== place.level.index; at = levels[at.parent]!) path.unshift(at)
    const nested = (above: Place, [level, ...rest]: LevelInfo[]): SQL => {
      const inner: Place = { level: level!, prefix: `${above.prefix}under ` }
      const link = level!.definition.on.map(pair => sql`${this.column(inner, pair.to, false)} = ${this.column(above, pair.from, false)}`)
      const last = rest.length ? [nested(inner, rest)] : where ? [this.formula(inner, where, true)] : []
      const paths = [
        ...level!.definition.on.map(pair => pair.to),
        ...(where && !rest.length
          ? fieldsUsed(where)
              .filter(field => field.level === level!.index)
              .map(field => field.path)
          : []),
      ]
      return sql`exists (${this.statement(inner, [sql`1`], paths, [...link, ...last])})`
    }
    return nested(place, path)
  }

  /** A table of the source, or of the report's own, as it stands after `from`. */
  table(name: string): SQL {
    const own = this.input.tables?.get(name)
    if (!own) return sql`${sql.identifier(this.input.schema)}.${sql.identifier(name)}`
    return sql`(${this.ownTable(name, own)})`
  }

  private ownTable(name: string, own: OwnTable): SQL {
    switch (own.kind) {
      case 'sql': {
        this.authored = true
        const text = bindNames(own.definition.text, this.input.parameterTypes, this.input.parameters)
        return own.definition.key.length
          ? sql`select * from (${text}) as ${sql.identifier(name)}`
          : sql`select row_number() over () as ${sql.identifier('row')}, ${sql.identifier(name)}.* from (${text}) as
            ${sql.identifier(name)}`
      }
      case 'dataSet':
        return this.within(own.tree.levels, planner => planner.named({ level: own.tree.levels[0]!, prefix: '' }, own.columns))
      case 'summary':
        return this.within(own.tree.levels, planner => {
          const place: Place = { level: own.tree.levels[0]!, prefix: '' }
          const groups = own.by.map(each => planner.formula(place, each.typed, false))
          return sql`${planner.named(place, [...own.by, ...own.measures])}${
            groups.length
              ? sql` group by ${sql.join(
                  own.by.map((_, index) => sql.raw(String(index + 1))),
                  sql`, `,
                )}`
              : sql``
          }`
        })
      case 'ledger':
        return this.ledger(own)
      case 'stack': {
        const parts = own.parts.map(part =>
          this.within(part.tree.levels, planner => {
            const [level] = part.tree.levels
            const place: Place = { level: level!, prefix: '' }
            const key = sql`concat_ws('·', ${sql.join(
              level!.key.map(path => sql`${planner.column(place, path, false)}::text`),
              sql`, `,
            )})`
            const columns = own.columns.map((column, index) => {
              const typed = part.columns[index]
              const whole = column.databaseType === 'integer' || column.databaseType === 'bigint'
              const value = typed ? planner.formula(place, typed, false) : sql`null`
              return sql`${value}::${sql.raw(whole ? column.databaseType : arrayWords[column.type])} as ${sql.identifier(column.name)}`
            })
            const used = [...level!.key, ...part.columns.flatMap(typed => (typed ? fieldsUsed(typed).map(field => field.path) : []))]
            return planner.statement(
              place,
              [sql`${part.label}::text as ${sql.identifier(own.definition.origin)}`, ...columns, sql`${key} as ${sql.identifier('row')}`],
              used,
              [],
            )
          }),
        )
        if (!parts.length) throw new PlanError(`“${name.slice(1)}” stacks no data set yet; add one to it.`)
        return sql.join(parts, sql` union all `)
      }
    }
  }

  /**
   * The filters of a ledger table that speak of branches, departments and dates of posting, and those that speak of accounts, each given
   * the SQL of its fields.
   */
  ledgerFilters(own: OwnLedger): Pick<LedgerNeeds, 'inside' | 'outside'> {
    const level = tableLevel(
      { schema: '', name: `@${own.definition.name}`, columns: ledgerFilterColumns, primaryKey: [], rowEstimate: 0 },
      own.definition.name,
    )
    const clauses = own.definition.filters.flatMap(text => this.test(text, level) ?? [])
    const speaksOf = (typed: Typed, names: readonly string[]) => fieldsUsed(typed).some(field => names.includes(field.path))
    const [ofUnits, ofAccounts] = [
      ['branch', 'department', 'date'],
      ['account', 'account_type', 'account_class', 'account_parent'],
    ]
    const mixed = clauses.find(typed => speaksOf(typed, ofUnits!) && speaksOf(typed, ofAccounts!))
    if (mixed)
      throw new PlanError(
        `A filter of “${own.definition.name}” speaks of accounts and of branches, departments or dates at once; write one for each.`,
      )
    const inSql = (wanted: readonly string[]) => (column: (path: string) => SQL | undefined) =>
      clauses
        .filter(typed => speaksOf(typed, wanted))
        .flatMap(typed => {
          // a budget without departments is not narrowed by them, and no budget by dates
          if (fieldsUsed(typed).some(field => !column(field.path))) return []
          return [formulaSql(typed, { ...this.surroundings(), column: path => column(path)! }, true)]
        })
    return { inside: inSql(ofUnits!), outside: inSql(ofAccounts!) }
  }

  private ledger(own: OwnLedger): SQL {
    const { parameters, today, catalog, parameterTypes, schema } = this.input
    const filters = this.ledgerFilters(own)
    const anchor = (formula: string): string => {
      const typed = checkFormula(formula, { levels: [], level: -1, parameters: parameterTypes })
      const evaluate = compileFormula(typed, {
        levels: [],
        data: { levels: [] },
        parameters,
        today,
        ...(catalog.calendar ? { calendar: catalog.calendar } : {}),
      })
      return String(evaluate({ level: -1, from: 0, to: 0 }) ?? '')
    }
    try {
      return ledgerSql(own, { schema, anchor, ...filters })
    } catch (error) {
      if (error instanceof ColumnError || error instanceof FormulaError) throw new PlanError(error.message)
      throw error
    }
  }

  private named(place: Place, columns: readonly { name: string; typed: Typed }[]): SQL {
    const used = columns.flatMap(each => fieldsUsed(each.typed).map(field => field.path))
    const values = columns.map(({ name, typed }) => {
      const value = typed.is === 'field' ? this.column(place, typed.path, false) : this.formula(place, typed, false)
      return sql`${value} as ${sql.identifier(name)}`
    })
    return this.statement(place, values, used, [])
  }

  /** Plans with the levels of another data set. */
  private within(levels: readonly LevelInfo[], work: (planner: Planner) => SQL): SQL {
    const planner = new Planner({ ...this.input, levels })
    const statement = work(planner)
    this.authored ||= planner.authored
    return statement
  }

  private surroundings(): Omit<SqlSurroundings, 'column'> {
    const { parameters, today, catalog } = this.input
    return { parameters, today, ...(catalog.calendar ? { calendar: catalog.calendar } : {}) }
  }

  /** A formula over a level's own fields. @throws PlanError */
  private check(text: string, level: LevelInfo, type: ValueType): Typed {
    const levels = this.input.levels[level.index] === level ? this.input.levels : [level]
    try {
      const typed = checkFormula(text, { levels, level: level.index, parameters: this.input.parameterTypes, filter: true })
      if (typed.type !== type && typed.type !== 'empty')
        throw new PlanError(
          type === 'boolean'
            ? `The filter “${text}” of level “${level.caption}” is not a test; write one such as total > 0.`
            : `“${text}” is no ${type}; write one such as today().`,
        )
      return typed
    } catch (error) {
      if (error instanceof FormulaError)
        throw new PlanError(`The filter “${text}” of level “${level.caption}” cannot be used: ${error.message}`)
      throw error
    }
  }

  /** A clause, or nothing where a parameter that it uses was left empty (rule 18 of the semantics). */
  private test(text: string, level: LevelInfo): Typed | undefined {
    const typed = this.check(text, level, 'boolean')
    return somePart(typed, part => part.is === 'parameter' && (this.input.parameters[part.name] ?? null) === null) ? undefined : typed
  }

  private levelFilters(level: LevelInfo): { typed: Typed; text: string }[] {
    const known = this.filters.get(level)
    if (known) return known
    const found = level.definition.filters.flatMap(text => {
      const typed = this.test(text, level)
      if (typed && !somePart(typed, part => part.is === 'has') && !hasSql(typed, level.index))
        throw new PlanError(
          `The filter “${text}” of level “${level.caption}” uses a field that is worked out after reading; use a child total or ` +
            `has(…) there.`,
        )
      return typed ? [{ typed, text }] : []
    })
    this.filters.set(level, found)
    return found
  }
}

/** Child totals of the same children (table, link and filters) share a join, named after the first of them in the definition. */
function leaderOf(level: LevelInfo, field: FieldInfo): string {
  const told = ({ table, on, filters }: ChildTotalDefinition) => JSON.stringify([table, on, filters])
  const own = told(field.total!.definition)
  return level.definition.totals?.find(each => told(each) === own)?.name ?? field.path
}

/** Stand for empty in comparisons of keys; whether it is empty is compared beside. */
const standIns = { number: '0', text: "''", date: "'1970-01-01'::date", boolean: 'false' } as const
const ownAlias = 'level'
const totalAlias = 'total '
const arrayWords = { number: 'numeric', text: 'text', date: 'date', boolean: 'boolean' } as const
