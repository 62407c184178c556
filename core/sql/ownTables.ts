import { sql, type SQL } from 'drizzle-orm'
import { checkFormula } from '../formula/check'
import { fieldsUsed } from '../formula/parts'
import type { LevelInfo, Typed } from '../formula/typed'
import { compileFormula } from '../formula/evaluate'
import { formulaSql, type SqlSurroundings } from '../formula/sql'
import { FormulaError } from '../formula/syntax'
import { ColumnError } from '../statement/columns'
import { ledgerFilterColumns, type LedgerNeeds, ledgerSql } from './ledger'
import type { OwnLedger } from '../model/ledger'
import { tableLevel } from '../model/levels'
import type { OwnTable } from '../model/ownTable'
import { bindNames } from './authored'
import { PlanError } from './query'
import { readAs } from '../catalog/readAs'
import { sqlTypes } from '../catalog/dialect'
import type { TableColumn } from '../definition/tables'
import type { PlanInput, Place } from './planInput'

/** What an own table needs of whoever plans the statement that it stands in. */
export interface TablePlanner {
  readonly input: PlanInput
  readonly texts: Set<string>
  /** plans with the levels of another data set */
  within: (levels: readonly LevelInfo[], work: (planner: TablePlanner) => SQL) => SQL
  named: (place: Place, columns: readonly { name: string; typed: Typed }[]) => SQL
  statement: (place: Place, columns: SQL[], paths: readonly string[], extra: SQL[]) => SQL
  column: (place: Place, path: string, reading: boolean) => SQL
  formula: (place: Place, typed: Typed, required: boolean) => SQL
  test: (text: string, level: LevelInfo) => Typed | undefined
  surroundings: () => Omit<SqlSurroundings, 'column'>
}

/** Keys keep whole numbers, so that those of the source's own tables are found by their index; all else is a word of ours. */
const elsewhereType = ({ type, databaseType }: TableColumn) =>
  databaseType === 'integer' || databaseType === 'bigint' ? databaseType : sqlTypes[type]

/** A table of the report's own as a select. @throws PlanError */
export function ownTableSql(planner: TablePlanner, name: string, own: OwnTable): SQL {
  switch (own.kind) {
    case 'sql': {
      planner.texts.add(own.definition.text)
      const text = bindNames(own.definition.text, planner.input.parameterTypes, planner.input.parameters)
      const columns = own.definition.columns.map(({ name: column, databaseType }) => {
        const as = sql.identifier(column)
        return sql`${sql.identifier(name)}.${as}${sql.raw(readAs(databaseType).cast ?? '')} as ${as}`
      })
      const number = own.definition.key.length ? [] : [sql`row_number() over () as ${sql.identifier('row')}`]
      return sql`select ${sql.join([...number, ...columns], sql`, `)} from (${text}) as ${sql.identifier(name)}`
    }
    case 'elsewhere': {
      const { columns, key } = own.definition
      const rows = planner.input.elsewhere?.[own.definition.name]
      if (!rows)
        throw new PlanError(`The rows of “${own.definition.name}”, which stand in another source, are not read yet; read them again.`)
      const arrays = columns.map((column, at) => sql`${sql.param(rows[at])}::${sql.raw(elsewhereType(column))}[]`)
      const names = columns.map(column => sql.identifier(column.name))
      const list = sql.join(key.length ? names : [sql.identifier('row'), ...names], sql`, `)
      return sql`select ${list} from unnest(${sql.join(arrays, sql`, `)}) with ordinality as ${sql.identifier(name)} (${sql.join(
        [...names, sql.identifier(key.length ? 'read as' : 'row')],
        sql`, `,
      )})`
    }
    case 'dataSet':
      return planner.within(own.tree.levels, inner => inner.named({ level: own.tree.levels[0]!, prefix: '' }, own.columns))
    case 'summary':
      return planner.within(own.tree.levels, inner => {
        const place: Place = { level: own.tree.levels[0]!, prefix: '' }
        const groups = own.by.map(each => inner.formula(place, each.typed, false))
        return sql`${inner.named(place, [...own.by, ...own.measures])}${
          groups.length
            ? sql` group by ${sql.join(
                own.by.map((_, index) => sql.raw(String(index + 1))),
                sql`, `,
              )}`
            : sql``
        }`
      })
    case 'ledger':
      return ledgerTable(planner, own)
    case 'stack': {
      const parts = own.parts.map(part =>
        planner.within(part.tree.levels, inner => {
          const [level] = part.tree.levels
          const place: Place = { level: level!, prefix: '' }
          const key = sql`concat_ws('·', ${sql.join(
            level!.key.map(path => sql`${inner.column(place, path, false)}::text`),
            sql`, `,
          )})`
          const columns = own.columns.map((column, index) => {
            const typed = part.columns[index]
            const whole = column.databaseType === 'integer' || column.databaseType === 'bigint'
            const value = typed ? inner.formula(place, typed, false) : sql`null`
            return sql`${value}::${sql.raw(whole ? column.databaseType : sqlTypes[column.type])} as ${sql.identifier(column.name)}`
          })
          const used = [...level!.key, ...part.columns.flatMap(typed => (typed ? fieldsUsed(typed).map(field => field.path) : []))]
          return inner.statement(
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
export function ledgerFiltersOf(planner: TablePlanner, own: OwnLedger): Pick<LedgerNeeds, 'inside' | 'outside'> {
  const level = tableLevel(
    { schema: '', name: `@${own.definition.name}`, columns: ledgerFilterColumns, primaryKey: [], rowEstimate: 0 },
    own.definition.name,
  )
  const clauses = own.definition.filters.flatMap(text => planner.test(text, level) ?? [])
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
        return [formulaSql(typed, { ...planner.surroundings(), column: path => column(path)! }, true)]
      })
  return { inside: inSql(ofUnits!), outside: inSql(ofAccounts!) }
}

function ledgerTable(planner: TablePlanner, own: OwnLedger): SQL {
  const { parameters, today, catalog, parameterTypes, schema } = planner.input
  const filters = ledgerFiltersOf(planner, own)
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
