import type { Catalog } from '../books/catalog'
import { ledgerLack } from '../books/ledger'
import { type SourceSettings, takesFormat } from '../books/settings'
import { findTable } from '../catalog/types'
import { checkFormula } from '../formula/check'
import { FormulaError } from '../formula/syntax'
import { tableLevel } from './levels'

/** What is wrong with settings of a source, held against what it holds: one sentence; nothing where all of them can be kept. */
export function settingsFault(settings: SourceSettings, catalog: Catalog): string | undefined {
  const column = (table: string, name: string) => findTable(catalog, table)?.columns.find(each => each.name === name)
  for (const { from, to } of settings.relations) {
    for (const side of [from, to]) {
      const gone = side.columns.find(name => !column(side.table, name))
      if (gone !== undefined) return `The relation of “${from.table}” names “${gone}” of “${side.table}”, which the source does not have.`
    }
    if (from.columns.length !== to.columns.length) return `The relation of “${from.table}” pairs columns unevenly; give each one its other.`
    const pairs = from.columns.map((name, at) => [column(from.table, name)!, column(to.table, to.columns[at]!)!] as const)
    const [own, other] = pairs.find(([a, b]) => a.type !== b.type) ?? []
    if (own && other)
      return `“${own.name}” of “${from.table}” and “${other.name}” of “${to.table}” hold values of two kinds and find nothing.`
  }
  for (const [path, { format }] of Object.entries(settings.columns)) {
    const [table, ...rest] = path.split('.')
    const found = column(table!, rest.join('.'))
    // what is said of a column that is gone waits for it
    if (found && format && !takesFormat(found, format))
      return `The format “${format.slice(0, 60)}” of “${path}” cannot print its values; write it like #,##0.00 or d MMM y.`
  }
  const names = new Set<string>()
  for (const { table: name, name: field, formula } of settings.calculated) {
    const table = findTable(catalog, name)
    if (!table) return `The calculated field “${field}” stands on “${name}”, which the source does not have.`
    if (column(name, field)) return `“${name}” has a column “${field}” already; call the calculated field otherwise.`
    if (names.has(`${name}.${field}`)) return `Two calculated fields of “${name}” are called “${field}”; each needs a name of its own.`
    names.add(`${name}.${field}`)
    try {
      checkFormula(formula, { levels: [tableLevel({ ...table, calculated: [] }, name)], level: 0, parameters: {} })
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      // one that stands on others is checked where it is used
      if (!settings.calculated.some(each => each.table === name && each.name !== field && formula.includes(each.name)))
        return `The calculated field “${field}” of “${name}” cannot be worked out: ${error.message}`
    }
  }
  const lack = settings.ledger && ledgerLack(settings.ledger, catalog)
  return lack ? `The books name ${lack}, which the source does not have.` : undefined
}
