import type { TableDefinition, TableColumn } from '../definition/tables'
import { type TotalledAs, isRatio } from '../formula/ratio'
import type { LevelInfo, Typed } from '../formula/typed'
import type { LevelTree } from './levels'
import { type OwnLedger, ledgerColumns } from './ledger'
import type { ValueType } from '../value/value'
import type { RelatedDefinition } from '../definition/levels'
import type { CatalogColumn } from '../catalog/types'
import { scaleOf } from '../formula/scale'
import type { Catalog } from '../books/catalog'

/** A column of a table of the report's own, and the formula over its base that gives it. */
export interface OwnColumn {
  name: string
  typed: Typed
  /** of a measure: how it is totalled, where its author said so */
  total?: TotalledAs
}

/** A table of the report's own, ready to be planned. */
export type OwnTable =
  | { kind: 'dataSet'; tree: LevelTree; columns: OwnColumn[] }
  | { kind: 'sql'; definition: TableDefinition & { kind: 'sql' } }
  | { kind: 'elsewhere'; definition: TableDefinition & { kind: 'elsewhere' } }
  | { kind: 'summary'; tree: LevelTree; by: OwnColumn[]; measures: OwnColumn[] }
  | {
      kind: 'stack'
      definition: TableDefinition & { kind: 'stack' }
      columns: TableColumn[]
      parts: { tree: LevelTree; label: string; columns: (Typed | undefined)[] }[]
    }
  | OwnLedger
export const databaseTypes: Record<ValueType, string> = {
  number: 'numeric',
  text: 'text',
  date: 'date',
  moment: 'timestamp without time zone',
  boolean: 'boolean',
}

export const valueType = (typed: Typed): ValueType => (typed.type === 'empty' ? 'text' : typed.type)
/** The related record at a path of names. */
export function recordAt(list: readonly RelatedDefinition[], names: readonly string[]): RelatedDefinition | undefined {
  const found = list.find(each => each.name === names[0])
  return found && names.length > 1 ? recordAt(found.related, names.slice(1)) : found
}

export function ownColumn({ name, typed }: OwnColumn): CatalogColumn {
  const type = valueType(typed)
  const field =
    typed.is === 'field'
      ? typed.field
      : typed.is === 'total' && typed.name === 'sum' && typed.value?.is === 'field'
        ? typed.value.field
        : undefined
  const scale = scaleOf(typed)
  return {
    name,
    type,
    databaseType: typed.is === 'field' ? typed.field.column.databaseType : databaseTypes[type],
    required: false,
    ...(type === 'number' && scale !== undefined ? { scale } : {}),
    ...(field?.format ? { format: field.format } : {}),
    ...(typed.is === 'field' && typed.field.record === '' && typed.field.path === name ? { caption: typed.field.caption } : {}),
  }
}

/** How a calculated field is totalled (rule 11 of the semantics): as a ratio where its formula or its author says so. */
export function ratioOfField(typed: Typed, total: TotalledAs | undefined): { ratio?: { of: Typed; forced: boolean } } {
  if (typed.type !== 'number' || total === 'records') return {}
  const forced = total === 'ratio'
  return isRatio(typed, forced) ? { ratio: { of: typed, forced } } : {}
}

/** The texts that checked formulas were written as. */
export const formulas = new WeakMap<Typed, string>()
export function pointing(
  column: string,
  typed: Typed,
  level: LevelInfo,
  catalog: Catalog,
): { column: string; table: string; to: string }[] {
  if (typed.is !== 'field') return []
  const { field } = typed
  if (field.record) {
    const related = recordAt(level.definition.related, field.record.split('.'))
    const pair = related?.on.length === 1 ? related.on[0]! : undefined
    return pair && pair.to === field.column.name ? [{ column, table: related!.table, to: pair.to }] : []
  }
  return catalog.foreignKeys
    .filter(key => key.from.table === level.definition.table && key.from.columns.length === 1 && key.from.columns[0] === field.path)
    .map(key => ({ column, table: key.to.table, to: key.to.columns[0]! }))
}

/** Columns of an own table as a catalog holds them, and which of them point at other tables. */
export function describe(
  table: OwnTable,
  catalog: Catalog,
): { columns: CatalogColumn[]; keys: { column: string; table: string; to: string }[] } {
  const plain = (column: TableColumn): CatalogColumn => ({ ...column, required: false })
  const row: CatalogColumn = { name: 'row', type: 'number', scale: 0, databaseType: 'bigint', required: true }
  switch (table.kind) {
    case 'sql':
    case 'elsewhere':
      return { columns: [...(table.definition.key.length ? [] : [row]), ...table.definition.columns.map(plain)], keys: [] }
    case 'stack':
      return {
        columns: [
          { name: table.definition.origin, type: 'text', databaseType: 'text', required: true },
          ...table.columns.map(plain),
          { ...row, type: 'text', databaseType: 'text' },
        ],
        keys: table.columns.flatMap((column, index) =>
          table.parts[0]?.columns[index]
            ? pointing(column.name, table.parts[0].columns[index], table.parts[0].tree.levels[0]!, catalog)
            : [],
        ),
      }
    case 'ledger':
      return {
        columns: ledgerColumns(table).columns,
        keys: [{ column: 'account', table: table.map.accounts.table, to: table.map.accounts.code }],
      }
    case 'dataSet':
      return {
        columns: table.columns.map(ownColumn),
        keys: table.columns.flatMap(each => pointing(each.name, each.typed, table.tree.levels[0]!, catalog)),
      }
    case 'summary':
      return {
        columns: [
          ...table.by.map(ownColumn),
          ...table.measures.map(each => {
            const ratio = ratioOfField(each.typed, each.total).ratio
            return { ...ownColumn(each), ...(ratio ? { ratio: { formula: formulas.get(each.typed)!, forced: ratio.forced } } : {}) }
          }),
        ],
        keys: table.by.flatMap(each => pointing(each.name, each.typed, table.tree.levels[0]!, catalog)),
      }
  }
}
