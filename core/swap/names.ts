import { type CatalogColumn, type CatalogTable, type ForeignKey, findTable } from '../catalog/types'
import type { Catalog } from '../books/catalog'
import type { LedgerMap } from '../books/ledger'

/**
 * Under which names a report reads the tables of a source: by the report's name of a table, the table of the source and, by the
 * report's names of its columns, those of the source; an empty text leaves one out. What is not named has the source's own name.
 */
export interface SourceNames {
  tables: Record<string, { table: string; columns: Record<string, string> }>
}

/** A table as it is shown under other names. */
export interface NamedTable {
  name: string
  /** the table of the source */
  table: string
  /** the source's columns, by the names under which they are shown */
  columns: Map<string, string>
}

/** A name that is not taken yet, near to one that is wanted. */
function free(wanted: string, taken: ReadonlySet<string>): string {
  let name = wanted
  for (let number = 2; taken.has(name); number++) name = `${wanted}_${number}`
  return name
}

/**
 * All tables of a source under the names of a report. A table or column of the source whose own name the report has for another gets a
 * number behind it. Names of tables and columns that the source does not have are left aside.
 */
export function namedTables({ tables }: Pick<Catalog, 'tables'>, names: SourceNames): NamedTable[] {
  const said = Object.entries(names.tables).flatMap(([name, { table, columns }]) => {
    const own = tables.find(each => each.name === table)
    return own ? [{ name, own, columns }] : []
  })
  // also a table that was left out: one of the source that happens to be called so does not stand in for it
  const taken = new Set(Object.keys(names.tables))
  const used = new Set(said.map(({ own }) => own.name))
  const named = said.map(({ name, own, columns }) => ({ name, table: own.name, columns: namedColumns(own, columns) }))
  for (const own of tables) {
    if (used.has(own.name)) continue
    const name = free(own.name, taken)
    taken.add(name)
    named.push({ name, table: own.name, columns: new Map(own.columns.map(column => [column.name, column.name])) })
  }
  return named
}

/** The names under which a table of a source, or one of its columns, is shown. */
export function shownAs(
  catalog: Pick<Catalog, 'tables'>,
  names: SourceNames,
  { table, column }: { table: string; column?: string },
): { table: string; column?: string }[] {
  return namedTables(catalog, names)
    .filter(each => each.table === table)
    .flatMap(({ name, columns }) => {
      if (column === undefined) return [{ table: name }]
      return [...columns].flatMap(([shown, own]) => (own === column ? [{ table: name, column: shown }] : []))
    })
}

function namedColumns(table: CatalogTable, columns: Record<string, string>): Map<string, string> {
  const known = new Set(table.columns.map(column => column.name))
  const found = new Map(Object.entries(columns).filter(([, own]) => known.has(own)))
  const used = new Set(found.values())
  const taken = new Set(Object.keys(columns))
  for (const { name } of table.columns) {
    if (used.has(name)) continue
    const shown = free(name, taken)
    taken.add(shown)
    found.set(shown, name)
  }
  return found
}

/** What a source holds, under the names of a report, with its relations and its books. */
export function namedCatalog(catalog: Catalog, names: SourceNames): Catalog {
  const named = namedTables(catalog, names)
  const showing = (table: string) => named.filter(each => each.table === table)
  /** the first name of a column */
  const shown = (table: NamedTable, column: string) => [...table.columns].find(([, own]) => own === column)?.[0] ?? column
  const tables = named.map(each => {
    const own = findTable(catalog, each.table)!
    const byName = new Map(own.columns.map(column => [column.name, column]))
    return {
      ...own,
      name: each.name,
      columns: [...each.columns].map(([name, column]) => renamed(byName.get(column)!, name, each)),
      primaryKey: own.primaryKey.map(column => shown(each, column)),
      // formulas that are kept with the source speak of its own names
      ...(own.calculated && unnamed(each) ? { calculated: own.calculated } : { calculated: [] }),
    }
  })
  const ends = ({ table, columns }: ForeignKey['from']) =>
    showing(table).map(each => ({ table: each.name, columns: columns.map(column => shown(each, column)) }))
  const foreignKeys = catalog.foreignKeys.flatMap(key => {
    const all = ends(key.from).flatMap(from => ends(key.to).map(to => ({ ...key, from, to })))
    return all.length === 1 ? all : all.map((each, at) => ({ ...each, name: at ? `${each.name} ${at + 1}` : each.name }))
  })
  const ledger = catalog.ledger && namedLedger(catalog.ledger, table => showing(table)[0], shown)
  const { ledger: _, calendar, ...rest } = catalog
  const periods = calendar && {
    ...calendar,
    ...(calendar.from
      ? {
          from: Object.fromEntries(
            Object.entries(calendar.from).flatMap(([table, columns]) =>
              showing(table).map(each => [each.name, columns.map(column => shown(each, column))]),
            ),
          ),
        }
      : {}),
  }
  return { ...rest, tables, foreignKeys, ...(ledger ? { ledger } : {}), ...(periods ? { calendar: periods } : {}) }
}

/** Is a table shown as it is? */
export const unnamed = ({ name, table, columns }: NamedTable) => name === table && [...columns].every(([shown, own]) => shown === own)

/** What a column is called in the source is said beside it. */
function renamed(column: CatalogColumn, name: string, table: NamedTable): CatalogColumn {
  if (name === column.name) return column
  const { ratio: _, ...rest } = column
  return { ...rest, name, comment: `${column.comment ? `${column.comment} · ` : ''}${column.name} of ${table.table}` }
}

function namedLedger(
  map: LedgerMap,
  shownTable: (table: string) => NamedTable | undefined,
  shownColumn: (table: NamedTable, column: string) => string,
): LedgerMap | undefined {
  let lacks = false
  /** a part of the map whose columns belong to a table; values that are no columns stay */
  const part = <T extends { table: string }>(own: T, columns: readonly (keyof T)[]): T => {
    const table = shownTable(own.table)
    if (!table) {
      lacks = true
      return own
    }
    const put = Object.fromEntries(columns.flatMap(key => (own[key] === undefined ? [] : [[key, shownColumn(table, String(own[key]))]])))
    return { ...own, ...put, table: table.name }
  }
  const of = (table: string, column: string) => {
    const named = shownTable(table)
    return named ? shownColumn(named, column) : column
  }
  const head = map.journals?.table ?? map.lines.table
  const unit = ['table', 'key', 'code', 'name'] as const
  const period = (table: string, { year, number }: { year: string; number: string }) => ({
    year: of(table, year),
    number: of(table, number),
  })
  const named: LedgerMap = {
    ...map,
    accounts: part(map.accounts, ['code', 'name', 'type', 'class', 'side', 'parent']),
    lines: part(map.lines, ['account', 'debit', 'credit', 'amount', 'branch', 'department']),
    date: of(head, map.date),
    ...(map.journals
      ? {
          journals: {
            table: part(map.journals, []).table,
            on: map.journals.on.map(({ from, to }) => ({ from: of(map.lines.table, from), to: of(map.journals!.table, to) })),
          },
        }
      : {}),
    ...(map.period ? { period: period(head, map.period) } : {}),
    ...(map.closing ? { closing: of(head, map.closing) } : {}),
    ...(map.branches ? { branches: part(map.branches, unit.slice(1)) } : {}),
    ...(map.departments ? { departments: part(map.departments, unit.slice(1)) } : {}),
    ...(map.budgets
      ? {
          budgets: {
            ...part(map.budgets, ['account', 'amount', 'version', 'branch']),
            period: period(map.budgets.table, map.budgets.period),
          },
        }
      : {}),
  }
  return lacks ? undefined : named
}
