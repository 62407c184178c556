import type { ColumnRole } from '../../catalog/columnRole'
import type { Catalog } from '../../books/catalog'
import { lineWords, ownCurrencyWords, ownWords, partnerWords } from '../../catalog/roleWords'
import { type ColumnLook, columnsOfRole, firstDate, namingColumns, tableRoles, type TableLook, wordsOf } from '../../catalog/roles'
import { type Relation, relationsOf } from '../../catalog/relations'
import { type CatalogTable, findTable } from '../../catalog/types'

/** Looks at the first rows of tables, by their names; tables that nobody has looked at are judged by names, types and keys alone. */
export type Looks = ReadonlyMap<string, TableLook>

/** What the tables of a source are for, as far as drafts need to know. */
export class Tables {
  constructor(
    readonly catalog: Catalog,
    readonly looks: Looks = new Map(),
  ) {}

  find(table: string): CatalogTable | undefined {
    return findTable(this.catalog, table)
  }

  private readonly known = new Map<string, Map<string, ColumnRole>>()
  roles(table: string): Map<string, ColumnRole> {
    let found = this.known.get(table)
    if (!found) this.known.set(table, (found = tableRoles(this.catalog, table, this.looks.get(table))))
    return found
  }

  role(table: string, column: string): ColumnRole | undefined {
    return this.roles(table).get(column)
  }

  look(table: string, column: string): ColumnLook | undefined {
    return this.looks.get(table)?.get(column)
  }

  of(table: string, ...roles: ColumnRole[]): string[] {
    return columnsOfRole(this.roles(table), ...roles)
  }

  /** Does a column tell records apart? One that is empty, or the same everywhere, does not. */
  says(table: string, column: string): boolean {
    const look = this.look(table, column)
    if (!look || !look.rows) return true
    // the first rows of a long table may all be of one kind
    if (this.role(table, column) === 'status' && look.distinct && (this.find(table)?.rowEstimate ?? 0) > look.rows * 1.2) return true
    return look.empty < look.rows && (look.rows < 3 || look.distinct + (look.empty ? 1 : 0) > 1)
  }

  /** Is a column empty in most rows? What few records have is nothing that a page shows of all of them. */
  isSparse(table: string, column: string): boolean {
    const look = this.look(table, column)
    return !!look && look.empty > look.rows / 2
  }

  /** Are the quantities of a table of one unit, so that they can be added up? Where nothing says a unit, they are. */
  isOfOneUnit(table: string): boolean {
    const own = this.of(table, 'unit')
    const held = own.length ? [{ table, column: own[0]! }] : []
    const related = own.length
      ? []
      : this.related(table).flatMap(each => this.of(each.table, 'unit').map(column => ({ table: each.table, column })))
    return [...held, ...related].every(each => this.look(each.table, each.column)?.distinct === 1)
  }

  /** Amounts of a table in the currency of the company, beside those of a document's own. */
  isOwnCurrency(table: string, amount: string): boolean {
    const comment = this.find(table)?.columns.find(column => column.name === amount)?.comment ?? ''
    return wordsOf(amount).some(word => ownCurrencyWords.includes(word)) || /company|firma|empresa/.test(comment)
  }

  naming(table: string): string[] {
    return namingColumns(this.roles(table))
  }

  date(table: string): string | undefined {
    return firstDate(this.catalog, table, this.roles(table))
  }

  private relations(table: string): Relation[] {
    // foreign keys that begin with the same column and lead to one table are told once
    const seen = new Set<string>()
    return relationsOf(this.catalog, table).filter(each => {
      const key = `${each.direction} ${each.table} ${each.on.map(pair => pair.from).join()}`
      return !seen.has(key) && seen.add(key)
    })
  }

  /** Records that those of a table point at, but for the table itself. */
  related(table: string): Relation[] {
    return this.relations(table).filter(each => each.direction === 'related' && each.table !== table)
  }

  /** Records that point at those of a table. */
  details(table: string): Relation[] {
    return this.relations(table).filter(each => each.direction === 'detail')
  }

  /** Does it hold documents: something with a number and a day? */
  isDocument(table: string): boolean {
    return this.of(table, 'number').length > 0 && this.of(table, 'date', 'moment').length > 0 && !this.of(table, 'position').length
  }

  /** Does it hold things that have a name or a code? */
  isMaster(table: string): boolean {
    return !this.isDocument(table) && (this.of(table, 'name').length > 0 || this.of(table, 'code').length > 0) && !this.parts(table).length
  }

  /** Tables whose records are parts of one of these: lines of a document, its taxes. Not what merely points here. */
  parts(table: string): Relation[] {
    const found = this.relations(table).filter(each => each.direction === 'detail' && this.isPart(each))
    // lines that name a thing are parts of their document, and not of the thing
    return this.isDocument(table)
      ? found
      : found.filter(
          each => this.isWithin(each) && this.of(each.table, 'position').length > 0 && this.of(each.table, 'amount', 'quantity').length > 0,
        )
  }

  /** Is the key of the parent a part of that of the child? */
  private isWithin(detail: Relation): boolean {
    const own = this.find(detail.table)?.primaryKey ?? []
    return own.length > detail.on.length && detail.on.every(pair => own.includes(pair.to))
  }

  private isPart(detail: Relation): boolean {
    const child = this.find(detail.table)
    if (!child) return false
    const within = this.isWithin(detail)
    const named = wordsOf(child.name).some(
      word => lineWords.includes(word) || lineWords.some(line => line.length > 4 && word.endsWith(line)),
    )
    const counted = this.of(child.name, 'position').length > 0
    const figures = this.of(child.name, 'amount', 'quantity', 'rate', 'percent').length > 0
    // what has a number and a day of its own is a document beside this one
    return figures && !this.isDocument(child.name) && (within || (counted && named) || (named && !this.of(child.name, 'date').length))
  }

  /** Whom a document is made out to: the related record that is called so, or that has an address. */
  partner(table: string): Relation | undefined {
    const score = (each: Relation) => {
      const words = [...wordsOf(each.name), ...wordsOf(each.table)]
      const named = words.some(word => partnerWords.includes(word) || partnerWords.some(own => own.length > 5 && word.endsWith(own)))
      if (words.some(word => ownWords.includes(word)) || !this.naming(each.table).length) return 0
      const address = this.of(each.table, 'address', 'postcode', 'place').length
      return (named ? 10 : 0) + Math.min(address, 2) * 2 + (this.of(each.table, 'taxNumber').length ? 2 : 0)
    }
    const scored = this.related(table).map(each => ({ each, score: score(each) }))
    return scored.filter(({ score: found }) => found > 3).sort((a, b) => b.score - a.score)[0]?.each
  }

  /** The column that holds the currency of an amount of the table, where it is not that of the company. */
  currency(table: string, amount: string): string | undefined {
    const [code] = this.of(table, 'currency')
    return this.role(table, amount) === 'amount' && !this.isOwnCurrency(table, amount) ? code : undefined
  }

  /** Debit and credit of the lines of a ledger. */
  sides(table: string): { debit: string; credit: string } | undefined {
    const amounts = this.of(table, 'amount')
    const named = (words: string[]) => amounts.find(name => wordsOf(name).some(word => words.includes(word)))
    const [debit, credit] = [named(['debit', 'soll', 'debe', 'debito', 'dr']), named(['credit', 'haben', 'haber', 'credito', 'cr'])]
    return debit && credit ? { debit, credit } : undefined
  }
}
