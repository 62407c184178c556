import { accountWords } from '../../catalog/roleWords'
import { wordsOf } from '../../catalog/roles'
import { columnTotals } from '../../compose/totals'
import type { Block } from '../../definition/blocks/block'
import { isTable, type TableBlock } from '../../definition/blocks/table'
import { addGroup } from '../../definition/edits/tableGroups'
import type { ReportDefinition } from '../../definition/report'
import { type PlainColumn, plainTable } from '../../definition/upgrade'
import { pathText } from '../../formula/syntax'
import type { FieldInfo, LevelInfo, Scope } from '../../formula/typed'
import { type DraftField, draftColumns, draftFields, fitting, inOrder, spread, widthOf } from './fields'
import { labelColumn } from './parts'
import type { Tables } from './tables'

/** Dates, with a time or without one, are grouped by their month. */
const dated = (field: FieldInfo) => field.type === 'date' || field.type === 'moment'

/** What is drafted of a list: its fields in their order, the field it is grouped by, and whether it needs a wide page. */
export interface DraftList {
  fields: DraftField[]
  group?: FieldInfo
  landscape: boolean
}

/** Widths of the text of upright and of wide pages, in points. */
export interface Room {
  portrait: number
  landscape: number
}

const isTotalled = ({ field, role }: DraftField) =>
  !field.record && (role === 'amount' || role === 'quantity' || (role === undefined && field.role === 'measure'))

/** Fields below this worth do not make a page wide. */
const needed = 46

/** Which fields a list prints, by what it would be grouped, and how wide it is. */
export function chooseList(tables: Tables, levels: readonly LevelInfo[], grouped: boolean, room: Room): DraftList {
  const [root] = levels as [LevelInfo, ...LevelInfo[]]
  const all = usual(tables, root, draftFields(tables, root))
  const group = grouped ? groupOf(tables, root) : undefined
  // what the group says is not said again in each line, nor the place of a line in its document
  const keys = group ? (root.definition.related.find(each => each.name === group.record)?.on.map(pair => pair.from) ?? []) : []
  const said = ({ field, of }: DraftField) =>
    field === group ||
    keys.includes(field.path) ||
    (!!group?.record && field.record === group.record && (of === 'account' || field.role === 'label'))
  const fields = all.filter(each => !said(each) && each.role !== 'position')
  const upright = fitting(tables, fields, room.portrait, isTotalled)
  const landscape = fields.some(each => each.worth >= needed && !upright.includes(each))
  const chosen = landscape ? fitting(tables, fields, room.landscape, isTotalled) : upright
  return { fields: chosen, ...(group ? { group } : {}), landscape }
}

/** Price lists are read without what the things cost us, and ledgers by their day. */
function usual(tables: Tables, root: LevelInfo, fields: DraftField[]): DraftField[] {
  const prices = fields.filter(({ role, field }) => role === 'rate' && /price|preis|precio|preco|prix/i.test(field.column.name))
  const listed = tables.isMaster(root.definition.table) && prices.length > 0
  return listed
    ? fields.filter(({ role, field }) => !(role === 'rate' && /cost|kosten|coste|custo|einkauf/i.test(field.column.name)))
    : fields
}

/**
 * The record that divides a list most sensibly: an account, then what puts some records together and not most of them alone; without
 * looks those that are called after a category, a partner or a place of storage.
 */
export function groupOf(tables: Tables, root: LevelInfo): FieldInfo | undefined {
  const { table, related } = root.definition
  const partner = tables.partner(table)
  const rated = related.flatMap(each => {
    const [last] = tables.naming(each.table).slice(-1)
    const field = last === undefined ? undefined : root.fields.get(`${each.name}.${last}`)
    if (!field || tables.isDocument(each.table)) return []
    const look = tables.look(table, each.on[0]!.from)
    const words = wordsOf(`${each.name} ${each.table}`)
    const liked = words.some(word => accountWords.includes(word))
      ? 3
      : words.some(word => /categor|group|gruppe|grupo|familia|class|warehouse|lager|almacen|department|project|projekt/.test(word))
        ? 2
        : each.table === partner?.table
          ? 1
          : 0
    if (!look) return liked ? [{ field, score: liked }] : []
    const filled = look.rows - look.empty
    const per = filled / Math.max(1, look.distinct)
    if (look.distinct < 2 || per < 2.5 || look.empty > look.rows / 2) return []
    return [{ field, score: liked + Math.min(look.distinct, 60) / 60 }]
  })
  const own = [...root.fields.values()].flatMap(field => {
    if (field.record || field.formula || field.type !== 'text') return []
    const role = tables.role(table, field.column.name)
    const look = tables.look(table, field.column.name)
    if (!look || look.distinct < 2 || (role !== 'currency' && role !== 'status' && role !== 'country')) return []
    return look.rows / look.distinct >= 2.5 && look.empty < look.rows / 2 ? [{ field, score: 0.1 }] : []
  })
  const best = [...rated, ...own].sort((a, b) => b.score - a.score)[0]
  if (best) return best.field
  const date = tables.date(table)
  const figures = tables.of(table, 'amount', 'quantity').length > 0
  return figures && date !== undefined ? root.fields.get(date) : undefined
}

/** The table of a list, with its totals and its group. */
export function listBlocks(
  tables: Tables,
  levels: readonly LevelInfo[],
  { fields, group, landscape }: DraftList,
  room: Room,
  report: ReportDefinition,
  id: string,
): Block[] {
  const [root] = levels as [LevelInfo, ...LevelInfo[]]
  const width = landscape ? room.landscape : room.portrait
  const sides = tables.sides(root.definition.table)
  const balance: PlainColumn[] = sides
    ? [
        {
          id: 'runningBalance',
          title: 'Balance',
          text: `{{ running(${pathText(sides.debit)} - ${pathText(sides.credit)}) | #,##0.00 }}`,
          width: widthOf(tables, fields.find(({ field }) => field.path === sides.debit) ?? fields[0]!, true),
          style: { align: 'right' },
        },
      ]
    : []
  const left = width - balance.reduce((sum, each) => sum + each.width, 0)
  const shown = balance.length ? fitting(tables, fields, left, isTotalled) : inOrder(fields, fields)
  const spreading = spread(draftColumns(tables, shown, isTotalled), shown, left, balance.length > 0)
  const plain = plainTable(id, root.name, [...spreading.columns, ...balance], spreading.width ? { width: spreading.width } : {})
  const parameters = Object.fromEntries(report.parameters.map(parameter => [parameter.name, 'text' as const]))
  const scope: Scope = { levels, level: 0, parameters, groups: [] }
  const adds = (column: string) => {
    const at = shown[plain.columns.findIndex(each => each.id === column)]
    return !at || (isTotalled(at) && (at.role !== 'quantity' || tables.isOfOneUnit(root.definition.table)))
  }
  const totals = Object.fromEntries(Object.entries(columnTotals(plain, scope)).filter(([column]) => adds(column)))
  const table = withEnd(plain, totals)
  if (!group) return [table]
  const shell: ReportDefinition = { ...report, layouts: [{ name: 'x', page: report.layouts[0]!.page, blocks: [table] }] }
  // accounts stand in the order of their codes, and are known by them
  const code = sides && root.definition.related.find(each => each.name === group.record)?.on[0]?.from
  const grouped = addGroup(
    shell,
    table.id,
    {
      by: pathText(group.path),
      ...(dated(group) ? { step: 'month' as const } : {}),
      order: code
        ? { by: 'total', total: `min(${pathText(code)})`, descending: false }
        : { by: dated(group) ? 'value' : 'name', descending: false },
      repeatStart: true,
    },
    totals,
  )
  const blocks = grouped.layouts[0]!.blocks
  if (!code) return blocks
  const coded = `{{ first(${pathText(code)}) }} {{ group.name }}`
  return blocks.map(block =>
    isTable(block)
      ? {
          ...block,
          rows: block.rows.map(row =>
            row.kind === 'groupStart'
              ? { ...row, cells: Object.fromEntries(Object.entries(row.cells).map(([id, cell]) => [id, { ...cell, text: coded }])) }
              : row,
          ),
        }
      : block,
  )
}

/** Totals at the end of a table; what they are stands in the first column that has none. */
function withEnd(table: TableBlock, totals: Readonly<Record<string, string>>): TableBlock {
  if (!Object.keys(totals).length) return table
  const label = labelColumn(table.columns, column => !!totals[column.id])
  return {
    ...table,
    rows: [
      ...table.rows,
      {
        id: 'end',
        kind: 'end',
        cells: {
          ...(label ? { [label.id]: { text: 'Total', style: { align: 'left' } } } : {}),
          ...Object.fromEntries(Object.entries(totals).map(([column, each]) => [column, { text: each }])),
        },
      },
    ],
  }
}
