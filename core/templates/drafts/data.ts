import { accountWords } from '../../catalog/roleWords'
import type { Relation } from '../../catalog/relations'
import { singular } from '../../catalog/relations'
import { wordsOf } from '../../catalog/roles'
import { readable } from '../../catalog/types'
import type { DataSetDefinition, FieldSettings, LevelDefinition, RelatedDefinition } from '../../definition/levels'
import { freeId } from '../../definition/names'
import type { Tables } from './tables'

/** A table that is joined to a level (by its name) because somebody said so. */
export interface WantedJoin {
  level: string
  table: string
}

/** A join that somebody asked for and that no key or relation allows: one sentence. */
export class DraftError extends Error {}

const word = (name: string) => name.replace(/[^\p{L}\p{N}_]+/gu, '_').replace(/^(\d)/, '_$1') || 'level'

/**
 * The data set of a draft: a table with the records that it points at, and the records that are parts of one of its own. Ticked is what
 * a page of it shows, by the roles of the columns; keys never are. With `joins` those tables are joined, and no others.
 */
export function draftDataSet(tables: Tables, table: string, source: string, joins?: readonly WantedJoin[]): DataSetDefinition {
  const names: string[] = []
  const free = (name: string) => {
    const own = freeId(word(name), names, true)
    names.push(own)
    return own
  }
  const left = joins && [...joins]
  const wants = (level: string, each: Relation): boolean => {
    if (!left) return true
    const at = left.findIndex(join => join.level === level && join.table === each.table)
    if (at >= 0) left.splice(at, 1)
    return at >= 0
  }
  const fields: Record<string, FieldSettings> = {}
  const root = free(singular(table))
  const level = (name: string, own: string, under?: Relation): LevelDefinition => {
    const document = !under && tables.isDocument(own) && tables.parts(own).length > 0
    const back = (each: Relation) => under && each.on.every(pair => under.on.some(parent => parent.to === pair.from))
    const records = tables.related(own).filter(each => !back(each) && (left ? wants(name, each) : isShown(tables, own, each)))
    const partner = tables.partner(own)
    const taken: string[] = []
    const related = records.map(each => {
      const columns = tables.find(own)?.columns.map(column => column.name) ?? []
      // a column that points without saying so in its name leaves the record the name of its table
      const plain = columns.includes(each.name) ? singular(each.table) : each.name
      const called = freeId(word(plain), [...taken, ...columns], true)
      taken.push(called)
      return record(tables, own, each, called, each.table === partner?.table && document, !!under || !document)
    })
    const parts = left ? tables.details(own).filter(each => wants(name, each)) : under ? [] : tables.parts(own)
    Object.assign(
      fields,
      formatsOf(tables, own, name),
      ...records.map((each, at) => formatsOf(tables, each.table, name, related[at]!.name)),
    )
    const shown = shownFields(tables, own, records)
    return {
      name,
      caption: readable(name),
      table: own,
      on: under?.on ?? [],
      fields: shown,
      related,
      details: parts.map(each => level(free(each.name), each.table, each)),
      filters: [],
      sort: orderOf(tables, own),
    }
  }
  const made = level(root, table)
  const [stray] = left ?? []
  if (stray)
    throw new DraftError(
      `No key or relation joins “${stray.table}” to the level “${stray.level}”; join it on the Data stage, or name one of the levels ` +
        `${names.join(', ')}.`,
    )
  return { name: 'main', source, fields, root: made }
}

/** Is a record shown unasked? One that has a name or a number is; of a currency or unit its code says enough. */
function isShown(tables: Tables, own: string, each: Relation): boolean {
  const [from] = each.on
  const role = from && tables.role(own, from.from)
  if (role === 'currency' || role === 'unit' || role === 'language') return false
  if (each.on.some(pair => !tables.says(own, pair.from) || tables.isSparse(own, pair.from))) return false
  return tables.isDocument(each.table) ? each.on.length === 1 : tables.of(each.table, 'name', 'code', 'text').length > 0
}

const isAccount = (name: string) => wordsOf(name).some(each => accountWords.includes(each))

/** A related record with what is shown of it: its name, its code where names do not tell records apart; of a partner all of its address. */
function record(tables: Tables, own: string, each: Relation, name: string, address: boolean, listed: boolean): RelatedDefinition {
  const naming = tables.naming(each.table)
  const [last] = naming.slice(-1)
  const names = last === undefined ? undefined : tables.look(each.table, last)
  const repeats = names !== undefined && names.distinct < names.rows - names.empty
  const line = tables.of(own, 'quantity').length > 0 && tables.of(each.table, 'rate', 'unit').length > 0
  // lines that describe what they are about need its code only
  const described = line && tables.of(own, 'text', 'name').length > 0
  const key = each.on.map(pair => pair.to)
  const account = isAccount(each.table) || isAccount(each.name)
  const document = tables.isDocument(each.table)
  const shown = shownNames()
  const place = tables.related(each.table).find(inner => tables.of(inner.table, 'postcode').length > 0 || isPlace(inner))
  const holder = listed && document ? tables.partner(each.table) : undefined
  const own_ = tables.of(each.table, 'address', 'postcode', 'place', 'country', 'taxNumber')
  const unit = line && !tables.of(own, 'unit').length ? tables.of(each.table, 'unit').slice(0, 1) : []
  const dates = listed && document ? [tables.date(each.table)].flatMap(date => date ?? []) : []
  function shownNames(): string[] {
    if (document) return tables.of(each.table, 'number').slice(0, 1)
    if (described && tables.of(each.table, 'code').length) return tables.of(each.table, 'code').slice(0, 1)
    return repeats || line || account || naming.length < 2 ? naming : [last!]
  }
  return {
    name,
    table: each.table,
    on: each.on,
    // a key that is shown on the level itself is not shown again
    fields: [...shown.filter(field => !(account && key.includes(field))), ...dates, ...unit, ...(address ? own_ : [])],
    related: [
      ...(address && place ? [placeOf(tables, place)] : []),
      ...(holder ? [record(tables, each.table, holder, word(holder.name), false, true)] : []),
    ],
  }
}

const isPlace = (each: Relation) =>
  wordsOf(`${each.name} ${each.table}`).some(part => /^(town|city|cities|ort|stadt|ciudad|cidade|ville|place)s?$/.test(part))

/** The town of an address, with its country where that can be reached from it. */
function placeOf(tables: Tables, place: Relation): RelatedDefinition {
  const country = (table: string, depth: number): RelatedDefinition[] =>
    tables.related(table).flatMap((each): RelatedDefinition[] => {
      const own: RelatedDefinition = {
        name: word(each.name.replace(/_(code|id)$/, '')),
        table: each.table,
        on: each.on,
        fields: [],
        related: [],
      }
      if (wordsOf(`${each.name} ${each.table}`).some(part => /^(country|countries|land|laender|pais|paises|pays)$/.test(part)))
        return [{ ...own, fields: tables.of(each.table, 'name').slice(0, 1) }]
      const [inner] = depth ? country(each.table, depth - 1) : []
      return inner ? [{ ...own, related: [inner] }] : []
    })
  return {
    name: word(place.name),
    table: place.table,
    on: place.on,
    fields: [...tables.of(place.table, 'postcode'), ...tables.of(place.table, 'name', 'place').slice(0, 1)],
    related: country(place.table, 1).slice(0, 1),
  }
}

/** Columns of a table's own that a page shows. What a joined record says by its name is not said again by its code. */
export function shownFields(tables: Tables, table: string, records: readonly Relation[]): string[] {
  const said = new Set(records.flatMap(each => each.on.map(pair => pair.from)))
  const roles = tables.roles(table)
  const keep = [...roles].filter(([name, role]) => {
    if (['key', 'system', 'flag', 'picture', 'language', 'postcode'].includes(role)) return false
    if (said.has(name) && !isAccount(name)) return false
    if (role === 'code' && tables.isSparse(table, name)) return false
    // a document's own number and day stay, whatever the first rows hold
    return role === 'number' || role === 'date' || tables.says(table, name)
  })
  const found = keep.map(([name]) => name)
  return found.length ? found : (tables.find(table)?.columns ?? []).slice(0, 1).map(column => column.name)
}

/** Formats and currencies of the figures of a table. */
function formatsOf(tables: Tables, table: string, level: string, record?: string): Record<string, FieldSettings> {
  return Object.fromEntries(
    (tables.find(table)?.columns ?? []).flatMap((column): [string, FieldSettings][] => {
      if (column.type !== 'number' || column.format) return []
      const role = tables.role(table, column.name)
      const look = tables.look(table, column.name)
      const currency = record === undefined ? tables.currency(table, column.name) : undefined
      const format =
        role === 'percent' && look?.highest !== undefined
          ? Math.abs(Number(look.highest)) <= 1 && !look.whole
            ? '0.## %'
            : "0.##' %'"
          : role === 'quantity' && (column.scale ?? 0) > 0
            ? `#,##0.${'#'.repeat(Math.min(column.scale!, 6))}`
            : role === 'rate' && (column.scale ?? 0) > 4
              ? '0.0000##'
              : role === 'rate' && (column.scale ?? 0) > 2 && !/pri[cx]e?|preis|precio|preco/i.test(column.name)
                ? `#,##0.${'0'.repeat(column.scale!)}`
                : role === 'number' || role === 'code' || role === 'period' || role === 'position'
                  ? '0'
                  : undefined
      const settings = { ...(format ? { format } : {}), ...(currency ? { currency } : {}) }
      return Object.keys(settings).length ? [[`${level}.${record ? `${record}.` : ''}${column.name}`, settings]] : []
    }),
  )
}

/** Lines in their own order, all else by day, number or name. */
function orderOf(tables: Tables, table: string): LevelDefinition['sort'] {
  const by = [
    ...tables.of(table, 'position').slice(0, 1),
    ...[tables.date(table)].flatMap(date => date ?? []),
    ...tables.of(table, 'number').slice(0, 1),
    ...tables.of(table, 'code').slice(0, 1),
    ...tables.of(table, 'name').slice(0, 1),
  ]
  return by.slice(0, tables.of(table, 'position').length ? 1 : 2).map(field => ({ field, descending: false }))
}
