import type { LedgerMap } from '../../books/ledger'
import type { PanelBlock } from '../blocks/panel'
import { isStatementBlock } from '../blocks/statement'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import type { LedgerTable } from '../tables'

const parameter = 'period'

/**
 * A report that reads the books: the table, a data set on it and a parameter for the period are added where they are missing. Comes back
 * with the name of the level.
 */
export function addBooks(report: ReportDefinition): { report: ReportDefinition; level: string; period: string } {
  const known = report.tables?.find(each => each.kind === 'ledger')
  const taken = [...report.dataSets.map(each => each.name), ...(report.tables?.map(each => each.name) ?? [])]
  const name = known?.name ?? freeId('books', taken, true)
  const period =
    report.parameters.find(each => each.kind === 'period')?.name ??
    freeId(
      parameter,
      report.parameters.map(each => each.name),
      true,
    )
  const held = report.dataSets.find(each => each.root.table === `@${name}`)
  const level =
    held?.root.name ??
    freeId(
      'figures',
      report.dataSets.flatMap(each => each.root.name),
      true,
    )
  return {
    level,
    period: `param.${period}`,
    report: {
      ...report,
      ...(known ? {} : { tables: [...(report.tables ?? []), { kind: 'ledger', name, filters: [] }] }),
      ...(report.parameters.some(each => each.kind === 'period')
        ? {}
        : {
            parameters: [
              ...report.parameters,
              { name: period, label: 'Period', kind: 'period', required: true, default: 'period(today())' },
            ],
          }),
      ...(held
        ? {}
        : {
            dataSets: [
              ...report.dataSets,
              {
                name: freeId('ledger', taken, true),
                source: report.dataSets[0]?.source ?? '',
                fields: {},
                root: {
                  name: level,
                  caption: 'Figures of the books',
                  table: `@${name}`,
                  on: [],
                  fields: ['account', 'account_name', 'period', 'debit', 'credit'],
                  related: [],
                  details: [],
                  filters: [],
                  sort: [
                    { field: 'account', descending: false },
                    { field: 'period', descending: false },
                  ],
                },
              },
            ],
          }),
    },
  }
}

export const freeParameter = (report: ReportDefinition, wanted: string) =>
  freeId(
    wanted,
    report.parameters.map(each => each.name),
    true,
  )
export const ledgerTableOf = (report: ReportDefinition) => report.tables?.find((each): each is LedgerTable => each.kind === 'ledger')
/** Asks for the branches that count, unless the report does: a parameter, and the filter of the books. */
export function askBranches(report: ReportDefinition, books: LedgerMap): ReportDefinition {
  const unit = books.branches
  const table = ledgerTableOf(report)
  if (!unit || !table || report.parameters.some(each => each.choices?.table === unit.table)) return report
  const name = freeParameter(report, 'branches')
  return filterBooks(
    {
      ...report,
      parameters: [
        ...report.parameters,
        { name, label: 'Branches', kind: 'choices', required: false, choices: { table: unit.table, value: unit.code, label: unit.name } },
      ],
    },
    table,
    `branch in (param.${name})`,
  )
}

/** Asks for the first and the last account that count, unless the report does. */
export function askAccounts(report: ReportDefinition): ReportDefinition {
  const table = ledgerTableOf(report)
  if (!table || table.filters.some(filter => /\baccount\s*[<>]/.test(filter))) return report
  const from = freeParameter(report, 'fromAccount')
  const asked: ReportDefinition = {
    ...report,
    parameters: [...report.parameters, { name: from, label: 'From account', kind: 'text', required: false }],
  }
  const to = freeParameter(asked, 'toAccount')
  return filterBooks(
    { ...asked, parameters: [...asked.parameters, { name: to, label: 'To account', kind: 'text', required: false }] },
    table,
    `account >= param.${from}`,
    `account <= param.${to}`,
  )
}

/**
 * Asks for a day instead of a period: what is posted up to it counts, in the period in which it lies. Spans and titles that spoke of the
 * period speak of the day.
 */
export function askDay(report: ReportDefinition): ReportDefinition {
  const table = ledgerTableOf(report)
  const period = report.parameters.find(each => each.kind === 'period')
  if (!table || !period || table.filters.some(filter => /\bdate\s*<=/.test(filter))) return report
  const name = freeParameter(report, 'asOf')
  const anchor = `period(param.${name})`
  const spoken = (text: string) =>
    text
      .replaceAll(`periodEnd(param.${period.name})`, `param.${name}`)
      .replaceAll(`param.${period.name}.label`, `param.${name} | d MMMM y`)
      .replace(new RegExp(`param\\.${period.name}(?![\\w.])`, 'g'), anchor)
  // whatever speaks of the period: spans, titles, texts, rules
  const follow = <T>(value: T): T =>
    typeof value === 'string'
      ? (spoken(value) as T)
      : Array.isArray(value)
        ? (value.map(follow) as T)
        : value && typeof value === 'object'
          ? (Object.fromEntries(Object.entries(value).map(([key, each]) => [key, follow(each)])) as T)
          : value
  const layouts = follow(report.layouts).map(layout => ({
    ...layout,
    blocks: layout.blocks.map(block =>
      !isStatementBlock(block)
        ? block
        : {
            // a balance says its day, where it is the one that was asked for
            ...block,
            columns: block.columns.map(column =>
              column.kind === 'balance' && !column.title && !column.repeat && column.span?.unit === 'period' && !column.span.back
                ? { ...column, title: `{{ param.${name} | d MMM y }}` }
                : column,
            ),
          },
    ),
  }))
  const parameters = report.parameters.map(each =>
    each === period ? { name, label: 'As of', kind: 'date' as const, required: true, default: 'today()' } : each,
  )
  return filterBooks(
    { ...report, layouts, parameters, ...(report.tieOuts ? { tieOuts: follow(report.tieOuts) } : {}) },
    table,
    `date <= param.${name}`,
  )
}

/** Asks for the version of the budget, unless the report does; comes back with the parameter's name, empty where there are no versions. */
export function askVersion(report: ReportDefinition, books: LedgerMap): { report: ReportDefinition; name: string } {
  const { budgets, versions = [] } = books
  const known = report.parameters.find(each => each.kind === 'choice' && each.choices?.table === budgets?.table)
  if (known || !budgets?.version) return { report, name: known?.name ?? '' }
  const name = freeParameter(report, 'version')
  return {
    name,
    report: {
      ...report,
      parameters: [
        ...report.parameters,
        {
          name,
          label: 'Budget version',
          kind: 'choice',
          required: false,
          ...(versions[0] ? { default: JSON.stringify(versions[0]) } : {}),
          choices: { table: budgets.table, value: budgets.version, label: budgets.version },
        },
      ],
    },
  }
}

export function filterBooks(report: ReportDefinition, table: LedgerTable, ...filters: string[]): ReportDefinition {
  return {
    ...report,
    tables: report.tables!.map(each =>
      each.kind === 'ledger' && each.name === table.name ? { ...each, filters: [...each.filters, ...filters] } : each,
    ),
  }
}

/** Lines to be signed: who prepared the statement and who approved it. */
export function signaturePanel(id: string, width: number): PanelBlock {
  const half = Math.min(200, (width - 24) / 2)
  const line = (name: string, x: number, words: string): PanelBlock['items'] => [
    { kind: 'rule', id: `${name}Rule`, x, y: 22, width: half, thickness: 0.5, colour: '#6d655b' },
    { kind: 'text', id: name, x, y: 25, width: half, text: words, style: { named: 'small' } },
  ]
  return {
    kind: 'panel',
    id,
    height: 40,
    after: 0,
    items: [...line('prepared', 0, 'Prepared by, date'), ...line('approved', half + 24, 'Approved by, date')],
  }
}
