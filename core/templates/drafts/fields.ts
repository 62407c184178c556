import type { ColumnRole } from '../../catalog/columnRole'
import type { Relation } from '../../catalog/relations'
import { accountWords } from '../../catalog/roleWords'
import { wordsOf } from '../../catalog/roles'
import { dayOf } from '../../value/date'
import { dateFormat } from '../../value/dateFormat'
import { parseDecimal } from '../../value/decimal'
import { numberFormat } from '../../value/numberFormat'
import { textWidth } from '../../compose/fonts'
import { defaultPattern } from '../../compose/text'
import { freeId } from '../../definition/names'
import type { PlainColumn } from '../../definition/upgrade'
import { pathText } from '../../formula/syntax'
import type { FieldInfo, LevelInfo } from '../../formula/typed'
import { tickedFields } from '../../model/levels'
import { recordAt } from '../../model/ownTable'
import type { Tables } from './tables'

/** A field of a level with what drafts know of it. */
export interface DraftField {
  field: FieldInfo
  /** nothing where it is worked out */
  role?: ColumnRole
  /** the record that holds it: whom a document is made out to, one of the things that lines are about, … */
  of: 'own' | 'partner' | 'item' | 'account' | 'document' | 'other'
  table: string
  /** how much a list would miss it, 0 to 100 */
  worth: number
  /** its place from left to right */
  rank: number
}

const plainWidths: Partial<Record<ColumnRole | 'number' | 'date' | 'text', number>> = {
  ...{ position: 30, number: 78, code: 64, date: 62, moment: 92, name: 130, text: 160, note: 160, status: 62, unit: 40, currency: 48 },
  ...{ amount: 72, quantity: 60, rate: 62, percent: 48, period: 44, place: 90, address: 130, postcode: 56, country: 80, flag: 44 },
}
/** Narrowest and widest that a text is drafted, in points; what is longer goes on in the next line. */
const [leastText, mostText] = [40, 170]
const rightRoles: readonly ColumnRole[] = ['amount', 'quantity', 'rate', 'percent', 'position', 'period']

/** The fields of a level as drafts take them: ticked ones, or where none is ticked all but keys, the weightiest first in doubt. */
export function draftFields(tables: Tables, level: LevelInfo): DraftField[] {
  const { definition } = level
  const ticked = tickedFields(definition).flatMap(path => level.fields.get(path) ?? [])
  const chosen = ticked.length > 0
  const fields = chosen ? ticked : [...level.fields.values()].filter(field => field.role !== 'key')
  const partner = tables.partner(definition.table)
  return fields
    .map(field => known(tables, level, field, partner))
    .filter(({ field, role }) => !(role === 'key' && (field.role === 'key' || field.type === 'number')) && role !== 'system')
}

function known(tables: Tables, level: LevelInfo, field: FieldInfo, partner: Relation | undefined): DraftField {
  const { definition } = level
  const names = field.record ? field.record.split('.') : []
  const held = names.length ? recordAt(definition.related, names) : undefined
  const table = held?.table ?? definition.table
  const made = !!field.formula || !!field.total
  const role = made ? undefined : tables.role(table, field.column.name)
  const words = [...wordsOf(names.at(-1) ?? ''), ...wordsOf(table)]
  const lines = tables.of(definition.table, 'quantity', 'amount').length > 0
  const of =
    !held || made
      ? !held && wordsOf(field.path).some(word => accountWords.includes(word))
        ? 'account'
        : 'own'
      : table === partner?.table ||
          (names.length > 1 && tables.partner(recordAt(definition.related, names.slice(0, -1))?.table ?? '')?.table === table)
        ? 'partner'
        : tables.isDocument(table)
          ? 'document'
          : words.some(word => accountWords.includes(word))
            ? 'account'
            : lines && tables.of(table, 'rate', 'unit').length > 0 && tables.naming(table).length > 0
              ? 'item'
              : 'other'
  return {
    field,
    ...(role ? { role } : {}),
    of,
    table,
    worth: worthOf(tables, level, field, role, of),
    rank: rankOf(tables, level, field, role, of),
  }
}

/** What a record comes to: an amount that is called so, or the last one that is in the record's own currency. */
function comesTo(tables: Tables, table: string, column: string): boolean {
  if (/(^|_)(total|due|gross|brutto|gesamt\w*|importe)$|^(grand|invoice|document)_?total/i.test(column)) return true
  const own = tables.of(table, 'amount').filter(each => !tables.isOwnCurrency(table, each))
  return own.at(-1) === column
}

function worthOf(tables: Tables, level: LevelInfo, field: FieldInfo, role: ColumnRole | undefined, of: DraftField['of']): number {
  if (role === undefined) return 92
  const { table } = level.definition
  const naming = role === 'name' || role === 'code' || role === 'number' || role === 'text'
  switch (of) {
    case 'partner':
      return role === 'name' ? 94 : naming ? 56 : 30
    case 'item':
      return role === 'code' ? 85 : role === 'name' ? (tables.of(table, 'text', 'name').length ? 20 : 84) : role === 'unit' ? 60 : 25
    case 'account':
      // a ledger is read by its accounts; lines of documents hardly are
      return !naming ? 40 : (role === 'name' ? 87 : 88) - (tables.sides(table) ? 0 : 46)
    case 'document':
      return role === 'number' ? (tables.isDocument(table) ? 34 : 83) : role === 'date' ? 82 : 20
    case 'other':
      return naming ? (role === 'code' ? 38 : 46) : 24
    case 'own':
      break
  }
  const first = field.path === tables.date(table)
  const worth: Partial<Record<ColumnRole, number>> = {
    ...{
      number: 100,
      position: 99,
      name: 98,
      code: 97,
      date: first ? 96 : 50,
      moment: first ? 80 : 40,
      text: 78,
      status: tables.of(table, 'position').length ? 30 : 45,
      unit: 56,
    },
    ...{
      amount: comesTo(tables, table, field.path) ? 90 : 62,
      quantity: 75,
      rate: 70,
      percent: 65,
      currency: 57,
      period: 60,
      place: 52,
      country: 40,
    },
    ...{ taxNumber: 35, postcode: 30, address: 28, contact: 26, note: 12, flag: 22, picture: 5, language: 5 },
  }
  return worth[role] ?? 20
}

function rankOf(tables: Tables, level: LevelInfo, field: FieldInfo, role: ColumnRole | undefined, of: DraftField['of']): number {
  if (role === undefined) return field.type === 'number' ? 90 : 55
  const figures: Partial<Record<ColumnRole, number>> = { quantity: 70, unit: 71, rate: 72, percent: 73, currency: 79, amount: 80 }
  // beside one quantity its unit follows; several follow their unit
  if (role === 'unit' && tables.of(level.definition.table, 'quantity').length > 1) return 69
  if (figures[role]) return figures[role]!
  const code = role === 'code' || role === 'number' ? 0 : 1
  switch (of) {
    case 'partner':
      return 35 + code
    case 'item':
      return 40 + code
    case 'account':
      return 42 + code
    case 'document':
      return tables.isDocument(level.definition.table) ? 54 : role === 'date' ? 9 : 8
    case 'other':
      return 52
    case 'own':
      break
  }
  const first = field.path === tables.date(level.definition.table)
  // what happened on a day is read by its day; what has a number of its own, by that
  const ranks: Partial<Record<ColumnRole, number>> = {
    ...{
      position: 0,
      number: tables.isDocument(level.definition.table) ? 10 : 25,
      date: first ? 20 : 22,
      moment: 21,
      code: 15,
      name: 32,
      text: 45,
    },
    ...{ place: 47, postcode: 46, address: 46, country: 48, status: 60, period: 61, taxNumber: 62, contact: 63, note: 66, flag: 64 },
  }
  return ranks[role] ?? 65
}

/** What a field is called in a title: the name of a customer is the customer. */
export function captionOf({ field, role, of }: DraftField): string {
  // a code of a unit or of a currency is what people call the unit or the currency
  if (role === 'unit' || role === 'currency' || role === 'country') return field.caption.replace(/ (code|id|no)$/i, '')
  if (!field.record) return field.caption
  const record = field.record.split('.').at(-1)!.replaceAll('_', ' ')
  const owner = record.charAt(0).toUpperCase() + record.slice(1)
  if (role === 'name' || (of === 'document' && role === 'number')) return owner
  return role === 'code' || role === 'number' ? `${owner} ${field.caption.toLowerCase()}` : field.caption
}

/** The widest text that a field is likely to print, from what its table's first rows hold; nothing where nobody has looked. */
function widest(tables: Tables, { field, table }: DraftField, totalled: boolean): string | undefined {
  const look = tables.look(table, field.column.name)
  if (!look || look.rows === look.empty || field.formula || field.total) return undefined
  if (field.type === 'date') return dateFormat('d MMM y', 'en-GB')(dayOf(2026, 9, 30))
  if (field.type === 'moment') return undefined
  if (field.type !== 'number') return look.longest
  const print = numberFormat(field.format ?? defaultPattern('number', field) ?? '#,##0.00', 'en-GB')
  const printed = [look.lowest, look.highest].flatMap(text => {
    const value = text === undefined ? undefined : parseDecimal(text)
    // a sum of some hundred records is two digits and their mark longer
    return value ? [print(value) + (totalled ? '000,' : '')] : []
  })
  return printed.sort((a, b) => b.length - a.length)[0]
}

/** How wide a column is drafted, in points, with its padding: its longest value, and each word of its title. */
export function widthOf(tables: Tables, draft: DraftField, totalled = false): number {
  const { field, role } = draft
  const plain = plainWidths[role ?? (field.type as 'text')] ?? (field.type === 'number' ? 72 : 80)
  const title =
    Math.max(
      ...captionOf(draft)
        .split(/\s+/)
        .map(each => textWidth(each, 'sansBold', 8.5)),
    ) + 10
  const text = widest(tables, draft, totalled)
  const own = text === undefined ? plain : textWidth(text, 'sans', 9) * (totalled ? 1.06 : 1) + 10
  const bounded = field.type === 'text' ? Math.min(mostText, Math.max(leastText, own)) : own
  return Math.ceil(Math.max(bounded, Math.min(title, 90)))
}

/** Can it give up width: a text of several words? */
export const stretches = ({ field, role }: DraftField) =>
  field.type === 'text' && (role === undefined || ['name', 'text', 'note', 'address'].includes(role))

/** Does it stand at the right of its column? */
const standsRight = ({ field, role }: DraftField) => field.type === 'number' && (role === undefined || rightRoles.includes(role))

/** Columns of fields with widths as drafted; `totalled` are the fields whose sums stand under them. */
export function draftColumns(tables: Tables, fields: readonly DraftField[], totalled: (each: DraftField) => boolean): PlainColumn[] {
  const ids: string[] = []
  return fields.map((each): PlainColumn => {
    const id = freeId(each.field.path.replace(/[^\p{L}\p{N}_]+/gu, '_'), ids, true)
    ids.push(id)
    return {
      id,
      title: captionOf(each),
      text: `{{ ${pathText(each.field.path)} }}`,
      width: widthOf(tables, each, totalled(each)),
      ...(standsRight(each) ? { style: { align: 'right' } } : {}),
    }
  })
}

/** Fields in the order of a page that fit into a width, in points: those that a list would miss least are left out first. */
export function fitting(
  tables: Tables,
  fields: readonly DraftField[],
  width: number,
  totalled: (each: DraftField) => boolean,
): DraftField[] {
  // a text can be narrower than its longest value
  const least = (each: DraftField) => Math.min(widthOf(tables, each, totalled(each)), stretches(each) ? 96 : Infinity)
  const kept: DraftField[] = []
  let left = width
  for (const each of [...fields].sort((a, b) => b.worth - a.worth)) {
    const own = least(each)
    if (own > left && kept.length) continue
    kept.push(each)
    left -= own
  }
  return inOrder(kept, fields)
}

export const inOrder = (some: readonly DraftField[], all: readonly DraftField[]): DraftField[] =>
  [...some].sort((a, b) => a.rank - b.rank || all.indexOf(a) - all.indexOf(b))

/** Widths that fill a table: texts take what is left, or all stay as they are where the table may be narrower than the page. */
export function spread(
  columns: readonly PlainColumn[],
  fields: readonly DraftField[],
  width: number,
  whole: boolean,
): { columns: PlainColumn[]; width: number } {
  const sum = columns.reduce((all, column) => all + column.width, 0)
  if (!whole && sum < width * 0.8) return { columns: [...columns], width: Math.ceil(sum) }
  const longest = fields
    .map((each, at) => ({ at, wide: stretches(each) ? columns[at]!.width : 0, text: each.role === 'text' || each.role === 'note' }))
    .filter(each => each.wide > 0)
    .sort((a, b) => Number(b.text) - Number(a.text) || b.wide - a.wide)
  // one text takes the rest; where that is too little for it, its neighbours give too
  const taking = new Set<number>()
  for (const { at } of longest) {
    taking.add(at)
    const rest = width - columns.reduce((all, column, place) => all + (taking.has(place) ? 0 : column.width), 0)
    if (rest / taking.size >= 90) break
  }
  return { columns: columns.map((column, at) => (taking.has(at) ? { ...column, width: 0 } : column)), width: 0 }
}
