import { sql, type SQL } from 'drizzle-orm'
import { type CatalogColumn, findTable } from '../catalog/types'
import type { ChildTotalDefinition, RelatedDefinition } from '../definition/levels'
import { checkFormula } from '../formula/check'
import { fieldsUsed, somePart } from '../formula/parts'
import type { FieldInfo, LevelInfo, Typed } from '../formula/typed'
import { formulaSql, hasSql, type SqlSurroundings } from '../formula/sql'
import { FormulaError } from '../formula/syntax'
import type { LedgerNeeds } from './ledger'
import type { OwnLedger } from '../model/ledger'
import { tableLevel } from '../model/levels'
import type { ValueType } from '../value/value'
import { PlanError } from './query'
import { sorted } from '../catalog/dialect'
import { type TablePlanner, ownTableSql, ledgerFiltersOf } from './ownTables'
import type { PlanInput, Place } from './planInput'

/** Puts statements together. All names are quoted, all values bound. */
export class Planner implements TablePlanner {
  /** texts of authors in what was planned, as they wrote them */
  readonly texts = new Set<string>()
  /** is there one? */
  get authored(): boolean {
    return this.texts.size > 0
  }
  /** for how many parents records are asked; all, where nothing is said */
  keys = Number.POSITIVE_INFINITY
  private readonly filters = new Map<LevelInfo, { typed: Typed; text: string }[]>()
  constructor(readonly input: PlanInput) {}

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

  statement(place: Place, columns: SQL[], paths: readonly string[], extra: SQL[], tail = sql``): SQL {
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

  /** A field that is compared with one of another table: as the database keeps both, where that is the same, so that indexes serve. */
  linked(place: Place, path: string, other: CatalogColumn | undefined): SQL {
    const field = place.level.fields.get(path)!
    const raw = rawOf(field.column, other)
    if (raw === undefined || field.formula || field.total) return this.column(place, path, false)
    return sql`${sql.identifier(place.prefix + (field.record || ownAlias))}.${sql.identifier(raw)}`
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
    const table = findTable(this.input.catalog, related.table)!
    const alone = tableLevel(table, related.name)
    const on = related.on.map(pair => {
      const own = alone.fields.get(pair.to)?.column
      const held = place.level.fields.get(above ? `${above}.${pair.from}` : pair.from)?.column
      return sql`${alias}.${sql.identifier(rawOf(own, held) ?? pair.to)} = ${holder}.${sql.identifier(rawOf(held, own) ?? pair.from)}`
    })
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
    const sortedBy = 'latest' in pick ? [{ field: pick.latest, descending: true }] : pick.sort
    const order = [...sortedBy, ...alone.key.map(field => ({ field, descending: false }))].map(
      sort =>
        sql`${alone.fields.get(sort.field)?.type === 'text' ? sorted(of(sort.field)) : of(sort.field)}
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
            ? sql`${sql.raw(own.total)}(${sorted(sql`${added}`)})`
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
    const heldOf = (path: string) => {
      const held = place.level.fields.get(path)!
      return held.formula || held.total ? undefined : held.column
    }
    const linkOf = (pair: { from: string; to: string }) => this.linked(inner, pair.to, heldOf(pair.from))
    const keys = definition.on.map((pair, index) => sql`${linkOf(pair)} as ${sql.identifier(`key${index}`)}`)
    const values = fields.map(field => sql`${measure(field)} as ${sql.identifier(field.path)}`)
    const grouped = sql`select ${sql.join([...keys, ...values], sql`, `)} from ${this.table(child.definition.table)} as
      ${sql.identifier(inner.prefix + ownAlias)}${conditions.length ? sql` where ${sql.join(conditions, sql` and `)}` : sql``}
      group by ${sql.join(definition.on.map(linkOf), sql`, `)}`
    return sql`left join (${grouped}) as ${alias} on ${sql.join(
      definition.on.map(
        (pair, index) =>
          sql`${alias}.${sql.identifier(`key${index}`)} = ${this.linked(place, pair.from, child.fields.get(pair.to)?.column)}`,
      ),
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
      const link = level!.definition.on.map(pair => {
        const [own, held] = [level!.fields.get(pair.to)!.column, above.level.fields.get(pair.from)!.column]
        return sql`${this.linked(inner, pair.to, held)} = ${this.linked(above, pair.from, own)}`
      })
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
    return sql`(${ownTableSql(this, name, own)})`
  }

  named(place: Place, columns: readonly { name: string; typed: Typed }[]): SQL {
    const used = columns.flatMap(each => fieldsUsed(each.typed).map(field => field.path))
    const values = columns.map(({ name, typed }) => {
      const value = typed.is === 'field' ? this.column(place, typed.path, false) : this.formula(place, typed, false)
      return sql`${value} as ${sql.identifier(name)}`
    })
    return this.statement(place, values, used, [])
  }

  /** Plans with the levels of another data set. */
  within(levels: readonly LevelInfo[], work: (planner: TablePlanner) => SQL): SQL {
    const planner = new Planner({ ...this.input, levels })
    const statement = work(planner)
    for (const text of planner.texts) this.texts.add(text)
    return statement
  }

  surroundings(): Omit<SqlSurroundings, 'column'> {
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
  test(text: string, level: LevelInfo): Typed | undefined {
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

/** Does the database keep two columns the same way, though they are read as another type? */
export const keptAlike = (column: CatalogColumn | undefined, other: CatalogColumn | undefined): boolean =>
  column?.raw !== undefined && other?.raw !== undefined && column.databaseType === other.databaseType

/** The name of a column as the database keeps it, where another that it is compared with is kept the same way. */
function rawOf(column: CatalogColumn | undefined, other: CatalogColumn | undefined): string | undefined {
  return keptAlike(column, other) ? column!.raw : undefined
}

const ownAlias = 'level'
const totalAlias = 'total '

/** A table of the source, or of the report's own, as it stands after `from`. */
export function tableSql(input: Omit<PlanInput, 'levels' | 'used'>, name: string): { sql: SQL; texts: readonly string[] } {
  const planner = new Planner({ ...input, levels: [], used: [] })
  const table = planner.table(name)
  return { sql: table, texts: [...planner.texts] }
}

/** All values of one field of a level, without the level's filters: what it really holds. */
export function fieldSelect(input: PlanInput, level: number, path: string): { select: SQL; texts: readonly string[] } {
  const info = input.levels[level]!
  if (!info.fields.has(path))
    throw new PlanError(`The field “${path}” of level “${info.caption}” is not in the source any more; take it out or choose another.`)
  const open: LevelInfo = { ...info, definition: { ...info.definition, filters: [] } }
  const planner = new Planner({ ...input, levels: input.levels.map(each => (each === info ? open : each)) })
  return { select: planner.select(open, [path], () => ({ conditions: [] })), texts: [...planner.texts] }
}

/** The filters of a ledger table as SQL, for statements that read its postings one by one. */
export function ledgerFilters(input: PlanInput, own: OwnLedger): Pick<LedgerNeeds, 'inside' | 'outside'> {
  return ledgerFiltersOf(new Planner(input), own)
}
