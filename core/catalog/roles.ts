import { firstDates, keyWords, lineWords, namingWords, numberWords, type RoleWords, systemWords, taxWords, textWords } from './roleWords'
import type { ColumnRole } from './columnRole'
import { isKeyColumn } from './relations'
import type { CatalogColumn, CatalogTable, TableCatalog } from './types'
import { findTable } from './types'

/** What the first rows of a table say of a column. Numbers and dates are texts, with a point. */
export interface ColumnLook {
  rows: number
  empty: number
  distinct: number
  /** its longest value, and of numbers the lowest and highest */
  longest: string
  lowest?: string
  highest?: string
  /** all numbers are whole */
  whole?: boolean
  /** texts of digits and short letters without spaces, as codes are */
  coded?: boolean
}

/** Looks at columns, by their names. */
export type TableLook = ReadonlyMap<string, ColumnLook>

/**
 * The words of a name: “dueDate”, “DUE_DATE” and “due date” are due, date. Signs above letters fall away; German umlauts are written out
 * as such names write them.
 */
export function wordsOf(name: string): string[] {
  return name
    .replace(/ä/gi, 'ae')
    .replace(/ö/gi, 'oe')
    .replace(/ü/gi, 'ue')
    .replace(/ß/g, 'ss')
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Z])([A-Z][a-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z%]+/)
    .filter(Boolean)
}

/** Words that most columns of a table begin with (`RE_NR`, `RE_DATUM`) say nothing. */
function shared(table: CatalogTable): string | undefined {
  const firsts = table.columns.map(column => wordsOf(column.name)).filter(words => words.length > 1)
  const [first] = firsts[0] ?? []
  const alike = firsts.filter(words => words[0] === first).length
  return table.columns.length > 2 && alike > table.columns.length * 0.6 ? first : undefined
}

const endsWith = (word: string, known: string) => known.length > 4 && word.length > known.length && word.endsWith(known)
/**
 * The role that words speak of: the first of the list that has one of them; two together (tax number) count as one word too. Only where
 * none is there, ends of longer words count.
 */
function said(words: readonly string[], list: RoleWords): ColumnRole | undefined {
  const all = [...words, ...words.slice(1).map((word, at) => words[at]! + word)]
  const whole = list.find(([, known]) => known.some(each => all.includes(each)))
  return (whole ?? list.find(([, known]) => known.some(each => words.some(word => endsWith(word, each)))))?.[0]
}
const speaksOf = (words: readonly string[], known: readonly string[]) =>
  words.some(word => known.includes(word)) || known.some(each => words.some(word => endsWith(word, each)))

/** A column's role as far as its name, its type and its comment tell, sharpened by what its table's first rows hold. */
function roleOf(
  catalog: TableCatalog,
  table: CatalogTable,
  column: CatalogColumn,
  prefix: string | undefined,
  look?: ColumnLook,
): ColumnRole {
  const plain = wordsOf(column.name)
  const own = plain.length > 1 && plain[0] === prefix ? plain.slice(1) : plain
  const told = wordsOf((column.caption ?? column.comment ?? '').split(/[:;,.(]/)[0]!)
  // a sentence speaks of more than the column
  const comment = told.length > 4 ? [] : told
  const key = isKeyColumn(catalog, table.name, column.name)
  const points = catalog.foreignKeys.some(each => each.from.table === table.name && each.from.columns.includes(column.name))
  switch (column.type) {
    case 'boolean':
      return 'flag'
    case 'date':
      return 'date'
    case 'moment':
      return speaksOf(own, systemWords) ? 'system' : 'moment'
    case 'number': {
      if (key || own.at(-1) === 'id' || speaksOf(own.slice(-1), keyWords))
        return !points && (said(own, numberWords) === 'position' || (own.length === 1 && lineWords.includes(own[0]!))) ? 'position' : 'key'
      const whole = !column.scale
      const found = headRole(own, whole) ?? figureRole(own, whole) ?? headRole(comment, whole) ?? figureRole(comment, whole)
      return numberRole(found, [...own, ...comment], table, column, look)
    }
    default: {
      const found = said(own, textWords) ?? said(comment, textWords)
      if (found !== 'taxNumber' && speaksOf(own.slice(-1), keyWords)) return 'key'
      if (!key && speaksOf(own, systemWords)) return 'system'
      if (key && (!found || found === 'text' || found === 'note')) return look?.coded === false ? 'name' : 'code'
      if (found) return found
      return look && look.rows > look.empty
        ? look.coded && look.distinct > (look.rows - look.empty) * 0.9
          ? 'code'
          : look.distinct <= 12 && look.rows >= 40
            ? 'status'
            : look.longest.length > 120
              ? 'note'
              : 'text'
        : 'text'
    }
  }
}

const positionWords = numberWords.filter(([role]) => role === 'position')
/** What a number names by its last word (`tax_number`, `debit_account_no`), which in Spanish and Portuguese comes first. */
function headRole(words: readonly string[], whole: boolean): ColumnRole | undefined {
  if (!whole) return undefined
  const [first, last] = [words[0] ?? '', words.at(-1) ?? '']
  // the number of a line is its place
  if (said(words, positionWords)) return 'position'
  if (namingWords.number.includes(last) || namingWords.firstNumber.includes(first)) return 'number'
  if (namingWords.code.includes(last) || namingWords.firstCode.includes(first)) return 'code'
  // the order of something, not what is on order
  return last === 'order' && words.at(-2) !== 'on' ? 'number' : undefined
}

/** What a figure is by any of its words; one with decimals is no place, year or name. */
function figureRole(words: readonly string[], whole: boolean): ColumnRole | undefined {
  return said(words, whole ? numberWords : numberWords.filter(([role]) => !['position', 'period', 'number', 'code'].includes(role)))
}

function numberRole(
  found: ColumnRole | undefined,
  words: readonly string[],
  table: CatalogTable,
  column: CatalogColumn,
  look?: ColumnLook,
): ColumnRole {
  if (column.name.includes('%') || words.includes('%')) return 'percent'
  // a rate of tax or of a discount is told in per cent; one of a currency is not
  const least = !look || look.highest === undefined || Math.abs(Number(look.highest)) <= 100
  if (found === 'rate' && speaksOf(words, ['rate', 'satz', 'tasa', 'taxa', 'tipo']) && least) {
    const near = [...words, ...wordsOf(table.name)]
    if (speaksOf(near, taxWords) && !speaksOf(near, ['currency', 'exchange', 'kurs', 'cambio'])) return 'percent'
  }
  // “total price” and “price total” are what the line comes to
  if (found === 'rate' && speaksOf(words, ['total', 'gesamt', 'gesamtpreis', 'subtotal', 'importe', 'betrag', 'amount'])) return 'amount'
  // the cost of an article is that of one; costs of a document are added up
  if (found === 'amount' && ['cost', 'costo', 'coste', 'custo'].includes(wordsOf(column.name).at(-1) ?? ''))
    return speaksOf(words, ['unit', 'standard', 'average', 'stueck', 'unitario']) || isMaster(table) ? 'rate' : 'amount'
  if (found) return found
  if (column.scale === 2) return 'amount'
  if (look?.whole && look.distinct === look.rows - look.empty && look.rows > 20) return 'number'
  return 'quantity'
}

/** Does a table hold things that have names, and no documents of a day? */
function isMaster(table: CatalogTable): boolean {
  return (
    !table.columns.some(column => column.type === 'date') && table.columns.some(column => said(wordsOf(column.name), textWords) === 'name')
  )
}

const known = new WeakMap<CatalogTable, { keys: string; roles: Map<string, ColumnRole> }>()

/** The roles of all columns of a table, by their names; an unknown table has none. */
export function tableRoles(catalog: TableCatalog, name: string, look?: TableLook): Map<string, ColumnRole> {
  const table = findTable(catalog, name)
  if (!table) return new Map()
  const keys = catalog.foreignKeys.flatMap(key => (key.from.table === name ? key.from.columns : [])).join()
  const kept = known.get(table)
  if (!look && kept?.keys === keys) return kept.roles
  const prefix = shared(table)
  const roles = new Map(table.columns.map(column => [column.name, roleOf(catalog, table, column, prefix, look?.get(column.name))]))
  if (!look) known.set(table, { keys, roles })
  return roles
}

/** The column's role by name, type, keys and comment alone. */
export const columnRole = (catalog: TableCatalog, table: string, column: string): ColumnRole | undefined =>
  tableRoles(catalog, table).get(column)

/** Columns of a role, in the order of their table. */
export const columnsOfRole = (roles: ReadonlyMap<string, ColumnRole>, ...wanted: ColumnRole[]): string[] =>
  [...roles].flatMap(([name, role]) => (wanted.includes(role) ? [name] : []))

/** The date that a record begins with: that of the document itself, before when it is due or paid. */
export function firstDate(catalog: TableCatalog, table: string, roles: ReadonlyMap<string, ColumnRole>): string | undefined {
  const dates = columnsOfRole(roles, 'date', 'moment')
  const required = (name: string) => findTable(catalog, table)?.columns.find(column => column.name === name)?.required
  return (
    dates.find(name => speaksOf(wordsOf(name), firstDates) && !speaksOf(wordsOf(name), ['due'])) ??
    dates.find(
      name => !speaksOf(wordsOf(name), ['due', 'valid', 'faellig', 'faelligkeit', 'vencimiento', 'vencimento']) && required(name),
    ) ??
    dates[0]
  )
}

/**
 * Is a number told per one of something, or a factor: a price, a rate, days, the size of a pack? Such numbers are not added up, and what
 * is divided by one of them still is (rule 11 of the semantics).
 */
export const isPerUnit = (role: ColumnRole | undefined): boolean => role === 'rate' || role === 'percent'

/** The columns by which people know a record: its name (and its code where it has one), its number, its text; then what is no key. */
export function namingColumns(roles: ReadonlyMap<string, ColumnRole>): string[] {
  const [name] = columnsOfRole(roles, 'name')
  const [code] = columnsOfRole(roles, 'code')
  const [number] = columnsOfRole(roles, 'number')
  const [text] = columnsOfRole(roles, 'text')
  const found = [code ?? (name ? undefined : number), name ?? text].flatMap(each => each ?? [])
  return found.length ? found : [...roles].flatMap(([each, role]) => (role === 'key' || role === 'system' ? [] : [each])).slice(0, 1)
}
