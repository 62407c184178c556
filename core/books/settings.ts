import { array, boolean, lazy, mixed, number, object, string } from 'yup'
import { type FiscalYearRule, ruledCalendar, weekPatterns } from './fiscalYear'
import { accountNatures, ledgerLack, type LedgerMap } from './ledger'
import type { Catalog } from './catalog'
import { type CatalogColumn, findTable, type ForeignKey } from '../catalog/types'
import { recordOf } from '../value/checking'
import { dateFormat } from '../value/dateFormat'
import { numberFormat, PatternError } from '../value/numberFormat'

/** What is kept with a source for all its reports. */
export interface SourceSettings {
  /** relations that somebody made by hand or accepted */
  relations: { from: { table: string; columns: string[] }; to: { table: string; columns: string[] }; unique: boolean }[]
  /** captions and formats of columns, by "table.column" */
  columns: Record<string, { caption?: string; format?: string }>
  /** calculated fields, by table */
  calculated: { table: string; name: string; formula: string }[]
  /** where the books are, as somebody said; else as they are found. Its classes are always those of the rows */
  ledger?: LedgerMap
  /** how fiscal years are cut, in place of the source's table of periods; postings then belong to the period of their date */
  fiscalYear?: FiscalYearRule
}

export const noSettings: SourceSettings = { relations: [], columns: {}, calculated: [] }

/** What is said of a source twice, as one; what comes later counts. */
export function bothSettings(first: SourceSettings, later: SourceSettings): SourceSettings {
  return {
    ...first,
    ...later,
    relations: [...first.relations, ...later.relations],
    columns: { ...first.columns, ...later.columns },
    calculated: [
      ...first.calculated.filter(({ table, name }) => !later.calculated.some(each => each.table === table && each.name === name)),
      ...later.calculated,
    ],
  }
}

const name = string().strict().required().max(200)
const end = object({ table: name, columns: array(name).required().min(1) }).noUnknown()
const maybe = string().strict().max(200)
const period = object({ year: name, number: name }).noUnknown()
const unit = object({ table: name, key: name, code: name, name, units: mixed() }).noUnknown()
const month = number().strict().required().integer().min(1).max(12)
const ledger = object({
  accounts: object({ table: name, code: name, name, type: name, class: maybe, side: maybe, parent: maybe }).noUnknown().required(),
  lines: object({ table: name, account: name, debit: maybe, credit: maybe, amount: maybe, branch: maybe, department: maybe })
    .noUnknown()
    .required()
    .test(
      'amounts',
      'journal lines have debit and credit, or one amount',
      each => !!each && (!!each.amount || !!(each.debit && each.credit)),
    ),
  journals: object({
    table: name,
    on: array(object({ from: name, to: name }).noUnknown())
      .required()
      .min(1),
  })
    .noUnknown()
    .default(undefined),
  date: name,
  period: period.default(undefined),
  closing: maybe,
  retainedEarnings: name,
  cash: array(name),
  types: object()
    .required()
    .test('types', `a type of accounts means one of ${accountNatures.join(', ')}`, each =>
      Object.values(each).every(nature => (accountNatures as readonly unknown[]).includes(nature)),
    ),
  classes: mixed(),
  versions: mixed(),
  branches: unit.default(undefined),
  departments: unit.default(undefined),
  budgets: object({
    table: name,
    account: name,
    amount: name,
    version: maybe,
    branch: maybe,
    period: period.required(),
    sign: string().oneOf(['natural', 'debit']).required(),
  })
    .noUnknown()
    .default(undefined),
})
  .noUnknown()
  .default(undefined)
const fiscalYear = lazy(value =>
  value === undefined
    ? mixed()
    : object({
        kind: string().oneOf(['months', 'weeks']).required(),
        month,
        ...((value as FiscalYearRule).kind === 'weeks'
          ? {
              pattern: string().oneOf(weekPatterns).required(),
              weekday: number().strict().required().integer().min(0).max(6),
              end: string().oneOf(['last', 'nearest']).required(),
            }
          : {}),
      }).noUnknown(),
)
const shape = object({
  relations: array(object({ from: end, to: end, unique: boolean().strict().required() }).noUnknown()).required(),
  columns: recordOf(object({ caption: string().strict().max(200), format: string().strict().max(200) }).noUnknown(), true),
  calculated: array(
    object({
      table: name,
      name: name.matches(/^[\p{L}_][\p{L}\p{N}_]*$/u, 'a calculated field is called by one word of letters, digits and _'),
      formula: string().strict().required().max(4000),
    }).noUnknown(),
  ).required(),
  ledger,
  fiscalYear,
}).noUnknown()

/** Checks settings that come from a request. @throws ValidationError of Yup */
export function readSettings(value: unknown): SourceSettings {
  return shape.validateSync(value, { strict: true }) as SourceSettings
}

/** A catalog with what is kept with its source. What speaks of a table or column that is gone is left aside. */
export function applySettings(catalog: Catalog, settings: SourceSettings): Catalog {
  const known = (side: { table: string; columns: string[] }) =>
    side.columns.every(column => findTable(catalog, side.table)?.columns.some(each => each.name === column))
  const kept = settings.relations
    .filter(relation => known(relation.from) && known(relation.to))
    .map((relation): ForeignKey => ({
      name: `kept ${relation.from.table}.${relation.from.columns.join(',')} ${relation.to.table}.${relation.to.columns.join(',')}`,
      from: relation.from,
      to: relation.to,
      origin: 'kept',
      unique: relation.unique,
    }))
  const { ledger: said, fiscalYear: rule } = settings
  const books = said && !ledgerLack(said, catalog) ? said : catalog.ledger
  const periods = catalog.calendar?.periods
  const [first, last] = [catalog.posted?.first ?? periods?.[0]?.start, catalog.posted?.last ?? periods?.at(-1)?.end]
  const ruled = rule && first !== undefined && last !== undefined ? ruledCalendar(rule, first, last) : undefined
  return {
    ...catalog,
    ...(ruled ? { calendar: ruled } : {}),
    ...(books ? { ledger: ruled ? byDate(books) : books } : {}),
    tables: catalog.tables.map(table => ({
      ...table,
      columns: table.columns.map(column => ({ ...column, ...saidOf(column, settings.columns[`${table.name}.${column.name}`]) })),
      ...(settings.calculated.some(each => each.table === table.name)
        ? {
            calculated: settings.calculated
              .filter(each => each.table === table.name && !table.columns.some(column => column.name === each.name))
              .map(({ name: field, formula }) => ({ name: field, formula })),
          }
        : {}),
    })),
    foreignKeys: [...catalog.foreignKeys, ...kept],
  }
}

/** Can a column's values be printed with a format? */
export function takesFormat(column: Pick<CatalogColumn, 'type'>, format: string): boolean {
  try {
    if (column.type === 'number') numberFormat(format, 'en')
    else if (column.type === 'date' || column.type === 'moment') dateFormat(format, 'en')
    else return false
    return true
  } catch (error) {
    if (error instanceof PatternError) return false
    throw error
  }
}

/** What is said of a column: a caption, and a format that its values take. Nothing else of it can be said. */
function saidOf(column: CatalogColumn, said: { caption?: string; format?: string } | undefined): { caption?: string; format?: string } {
  return {
    ...(typeof said?.caption === 'string' && said.caption ? { caption: said.caption } : {}),
    ...(typeof said?.format === 'string' && takesFormat(column, said.format) ? { format: said.format } : {}),
  }
}

/** Periods that are cut by a rule know nothing of the numbers that journals carry. */
function byDate({ period: _, ...books }: LedgerMap): LedgerMap {
  return books
}
