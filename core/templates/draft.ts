import { isPanel } from '../definition/blocks/panel'
import { bodyWidth } from '../compose/paperSize'
import { type ReadyStatement, readyStatement } from './statements'
import { signaturePanel, askVersion, askAccounts, askBranches, addBooks } from '../definition/edits/books'
import { isKeyColumn, singular } from '../catalog/relations'
import { namingColumns, tableRoles } from '../catalog/roles'
import type { Catalog } from '../books/catalog'
import { columnCaption, findTable, readable } from '../catalog/types'
import { pathText } from '../formula/syntax'
import { formatVersion, type ReportDefinition } from '../definition/report'
import { type PlainColumn, plainTable } from '../definition/upgrade'

/** The few columns that say what a record is: its code and name; without such, the first that are no keys. */
export function usualFields(catalog: Catalog, table: string, most = 2, except: readonly string[] = []): string[] {
  const told = (list: readonly string[]) => list.filter(name => !except.includes(name))
  const found = told(namingColumns(tableRoles(catalog, table)))
  const all = (findTable(catalog, table)?.columns ?? []).map(column => column.name)
  return (found.length ? found : told(all).length ? told(all) : all).slice(-most)
}

/** A plain list of a table's first fields: a page at once, all of it editable. Widths are points; 0 shares what is left. */
export function listOfTable(catalog: Catalog, table: string, source: string, title: string): ReportDefinition {
  const found = findTable(catalog, table)!
  const plain = found.columns.filter(column => !isKeyColumn(catalog, table, column.name))
  const shown = (plain.length ? plain : found.columns).slice(0, 7)
  const level = singular(table).replace(/\W+/g, '_')
  const columns = shown
    .slice(0, 6)
    .map((column, index): PlainColumn => ({
      id: `column${index + 1}`,
      title: columnCaption(column),
      text: `{{ ${pathText(column.name)} }}`,
      width: column.type === 'text' ? 0 : 74,
      ...(column.type === 'number' ? { style: { align: 'right' } } : {}),
    }))
  return {
    format: formatVersion,
    language: 'en-GB',
    parameters: [],
    dataSets: [
      {
        name: 'main',
        source,
        fields: {},
        root: {
          name: level,
          caption: readable(level),
          table,
          on: [],
          fields: shown.map(column => column.name),
          related: [],
          details: [],
          filters: [],
          sort: [],
        },
      },
    ],
    layouts: [
      {
        name: 'Standard',
        page: { size: 'A4', orientation: 'portrait', margins: { top: 45, right: 45, bottom: 40, left: 45 } },
        foot: {
          kind: 'panel',
          id: 'pageFoot',
          height: 14,
          after: 0,
          items: [
            {
              kind: 'text',
              id: 'page',
              x: 0,
              y: 0,
              width: 505.28,
              text: 'Page {{ page.number }} of {{ page.count }}',
              style: { size: 8, align: 'centre', colour: '#6d655b' },
            },
          ],
        },
        blocks: [
          {
            kind: 'panel',
            id: 'heading',
            height: 24,
            after: 10,
            items: [
              {
                kind: 'text',
                id: 'title',
                x: 0,
                y: 0,
                width: 400,
                text: title,
                style: { font: 'serif', size: 16, bold: true, colour: '#0f4c5c' },
              },
            ],
          },
          plainTable('list', level, columns),
        ],
      },
    ],
  }
}

/** A report that begins as a ready statement on the books of its source. */
export function statementReport(kind: ReadyStatement, catalog: Catalog, source: string, title: string): ReportDefinition {
  const list = listOfTable(catalog, catalog.ledger!.accounts.table, source, title)
  const [heading] = list.layouts[0]!.blocks
  const books = catalog.ledger!
  const { report: begun, level, period } = addBooks({ ...list, dataSets: [] })
  const branched = askBranches(begun, books)
  const asked =
    kind === 'budget'
      ? askVersion(branched, books)
      : { report: kind === 'trial' || kind === 'account' ? askAccounts(branched) : branched, name: '' }
  const { report } = asked
  const branches = report.parameters.find(each => each.kind === 'choices')
  const wide = kind === 'months' || kind === 'budget'
  const page = { ...list.layouts[0]!.page, orientation: wide ? ('landscape' as const) : ('portrait' as const) }
  const { foot } = list.layouts[0]!
  const when = kind === 'balance' ? `as of {{ periodEnd(${period}) | d MMMM y }}` : `{{ ${period}.label }}`
  const under = `${when}${branches ? ` · {{ param.${branches.name}.label }}` : ''}`
  const ready = readyStatement(kind, books, period)
  const columns = ready.columns.map(column =>
    column.kind === 'budget' && asked.name ? { ...column, versionFrom: `param.${asked.name}` } : column,
  )
  return {
    ...report,
    dataSets: report.dataSets.map(each => ({ ...each, source })),
    layouts: [
      {
        ...list.layouts[0]!,
        page,
        ...(foot ? { foot: { ...foot, items: foot.items.map(item => ({ ...item, width: bodyWidth(page) })) } } : {}),
        blocks: [
          isPanel(heading!)
            ? {
                ...heading!,
                height: 40,
                items: [
                  ...heading!.items,
                  { kind: 'text' as const, id: 'answers', x: 0, y: 24, width: 400, text: under, style: { colour: '#6d655b' } },
                ],
              }
            : heading!,
          { kind: 'statement', id: 'statement', level, left: 0, width: 0, after: 8, repeatTitles: true, ...ready, columns },
          ...(kind === 'income' || kind === 'balance' || kind === 'cash' ? [signaturePanel('signatures', bodyWidth(page))] : []),
        ],
      },
    ],
  }
}
