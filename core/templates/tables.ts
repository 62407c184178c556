import { singular } from '../catalog/relations'
import { ageColumns } from '../model/ageing'
import type { FieldInfo, FormulaType, LevelInfo } from '../formula/typed'
import { tickedFields } from '../model/levels'
import { addGroup } from '../definition/edits/tableGroups'
import { freeId } from '../definition/names'
import { blocksOf } from '../definition/walk'
import type { Block } from '../definition/blocks/block'
import type { LayoutDefinition, ReportDefinition } from '../definition/report'
import type { TableBlock } from '../definition/blocks/table'
import type { PanelBlock } from '../definition/blocks/panel'
import type { ParameterDefinition } from '../definition/parameters'
import type { TextStyle } from '../definition/style'
import { type PlainColumn, plainTable } from '../definition/upgrade'
import { pathText } from '../formula/syntax'
import { columnTotals, groupFields } from '../compose/totals'

/** Dates, with a time or without one, are grouped by their month. */
const dated = (type: FormulaType) => type === 'date' || type === 'moment'

export const draftKinds = ['document', 'grouped', 'list'] as const
export type DraftKind = (typeof draftKinds)[number]

/** Fields that a page shows first: those ticked in Data without keys, or all that are no keys. */
export function fieldsToPrint(level: LevelInfo, most: number): FieldInfo[] {
  const ticked = tickedFields(level.definition).flatMap(path => level.fields.get(path) ?? [])
  const useful = (ticked.length ? ticked : [...level.fields.values()]).filter(field => field.role !== 'key' || field.type !== 'number')
  return useful.slice(0, most)
}

const caption = (field: FieldInfo) => {
  if (!field.record) return field.caption
  const record = field.record.split('.').at(-1)!.replaceAll('_', ' ')
  const owner = record.charAt(0).toUpperCase() + record.slice(1)
  return field.column.name === 'name'
    ? owner
    : /^(code|number)$/.test(field.column.name)
      ? `${owner} ${field.caption.toLowerCase()}`
      : field.caption
}

/** Columns of a level's fields: numbers at the right, the longest texts share what is left of the width. */
export function columnsOf(level: LevelInfo, fields: readonly FieldInfo[]): PlainColumn[] {
  const texts = fields.filter(field => field.type === 'text')
  const wide = texts.filter(field => /name|description|title|note|address|text/.test(field.column.name))
  const stretching = new Set(wide.length ? wide : texts.slice(0, 1))
  const ids: string[] = []
  return fields.map((field): PlainColumn => {
    const id = freeId(field.path.replace(/[^\p{L}\p{N}_]+/gu, '_'), ids, true)
    ids.push(id)
    const number = field.type === 'number'
    return {
      id,
      title: caption(field),
      text: `{{ ${pathText(field.path)} }}`,
      width: stretching.has(field) ? 0 : number ? 66 : field.type === 'date' ? 62 : field.type === 'moment' ? 92 : 64,
      ...(number ? { style: { align: 'right' } } : {}),
    }
  })
}

const answersLine = (parameters: readonly ParameterDefinition[]) =>
  parameters
    .filter(parameter => !parameter.hidden)
    .map(parameter =>
      parameter.kind === 'dates'
        ? `{{ param.${parameter.name}.label }}`
        : `${parameter.kind === 'period' || parameter.kind === 'month' ? '' : `${parameter.label.toLowerCase()} `}{{ ` +
          `param.${parameter.name}${parameter.kind === 'month' ? ' | MMMM y' : ''} }}`,
    )
    .join(' · ')

/**
 * A finished-looking layout from the levels of a data set: a document per root record with its details and totals, a list in groups, or
 * a plain list.
 * All of it is editable like anything else. Ids are not taken in the report.
 */
export function draftLayout(
  report: ReportDefinition,
  levels: readonly LevelInfo[],
  kind: DraftKind,
  title: string,
  name: string,
): LayoutDefinition {
  const taken = report.layouts.flatMap(layout => blocksOf(layout).map(block => block.id))
  const id = (stem: string) => {
    const free = freeId(stem, taken, true)
    taken.push(free)
    return free
  }
  const [root] = levels as [LevelInfo, ...LevelInfo[]]
  const parameters = Object.fromEntries(report.parameters.map(parameter => [parameter.name, 'text' as const]))
  const listed = kind === 'document' ? (levels.find(level => level.parent === 0) ?? root) : root
  const [ageing] = listed.definition.ageings ?? []
  const fields = ageing
    ? [
        ...fieldsToPrint(listed, 30)
          .filter(field => !field.dated)
          .slice(0, 5),
        ...ageColumns(ageing).flatMap(path => listed.fields.get(path) ?? []),
      ]
    : fieldsToPrint(listed, 7)
  const landscape = kind !== 'document' && fields.length > 6
  const width = landscape ? 751.89 : 505.28
  const text = (item: string, x: number, y: number, across: number, source: string, style: TextStyle = {}) => ({
    kind: 'text' as const,
    id: item,
    x,
    y,
    width: across,
    text: source,
    style,
  })
  const top: PanelBlock = {
    kind: 'panel',
    id: id('pageTop'),
    height: 34,
    after: 14,
    items: [
      text('title', 0, 0, width * 0.6, title, { named: 'title' }),
      text('answers', width * 0.6, 6, width * 0.4, answersLine(report.parameters), { named: 'small', align: 'right' }),
      { kind: 'rule', id: 'rule', x: 0, y: 30, width, thickness: 0.6, colour: '#d9d2c7' },
    ],
  }
  const foot: PanelBlock = {
    kind: 'panel',
    id: id('pageFoot'),
    height: 14,
    after: 8,
    items: [
      text('printed', 0, 2, 200, '{{ page.printed }}', { named: 'small' }),
      text('page', width - 200, 2, 200, 'Page {{ page.number }} of {{ page.count }}', { named: 'small', align: 'right' }),
    ],
  }
  const list = (level: LevelInfo, stem: string): TableBlock => {
    const table = plainTable(id(stem), level.name, columnsOf(level, level === listed ? fields : fieldsToPrint(level, 6)))
    const totals = columnTotals(table, { levels, level: level.index, parameters, groups: [] })
    if (!Object.keys(totals).length) return table
    const label = table.columns.find(column => !totals[column.id])
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
  let blocks: Block[]
  if (kind === 'document') {
    const naming =
      [...root.fields.values()].find(field => !field.record && /^(number|code|name)$/.test(field.column.name)) ?? fieldsToPrint(root, 1)[0]
    const label = naming ? `{{ ${pathText(naming.path)} }}` : root.caption
    const head = fieldsToPrint(root, 12).filter(field => field !== naming)
    const texts = head.filter(field => field.type !== 'number').slice(0, 8)
    const amounts = head.filter(field => field.type === 'number' && field.role === 'measure').slice(0, 5)
    const pairs = (list: readonly FieldInfo[], x: number, labelWidth: number, valueWidth: number, align: 'left' | 'right') =>
      list.flatMap((field, index) => [
        text(`label_${field.path.replaceAll('.', '_')}`, x, index * 14, labelWidth, caption(field), { named: 'label' }),
        text(
          field.path.replaceAll('.', '_'),
          x + labelWidth,
          index * 14,
          valueWidth,
          `{{ ${pathText(field.path)} }}`,
          align === 'right' ? { align } : {},
        ),
      ])
    const half = Math.ceil(texts.length / 2)
    const details = levels.filter(level => level.parent === 0)
    blocks = [
      {
        kind: 'repeat',
        id: id('documents'),
        level: root.name,
        newPage: true,
        restartNumbers: true,
        outline: label,
        after: 0,
        blocks: [
          {
            kind: 'panel',
            id: id('heading'),
            height: 20 + half * 14,
            after: 14,
            items: [
              text('name', 0, 0, 300, `${singular(root.caption)} ${label}`, { named: 'heading' }),
              ...pairs(texts.slice(0, half), 0, 80, 165, 'left').map(item => ({ ...item, y: item.y + 20 })),
              ...pairs(texts.slice(half), 260, 80, 165, 'left').map(item => ({ ...item, y: item.y + 20 })),
            ],
          },
          ...details.map(level => ({ ...list(level, level.name), after: 14 })),
          ...(amounts.length
            ? [
                {
                  kind: 'panel' as const,
                  id: id('totals'),
                  height: amounts.length * 14,
                  after: 10,
                  items: pairs(amounts, 300, 110, width - 410, 'right'),
                },
              ]
            : []),
        ],
      },
    ]
  } else {
    const table = list(root, root.name)
    const [by] = kind === 'grouped' ? groupFields(levels, 0) : []
    if (!by) blocks = [table]
    else {
      const shell: ReportDefinition = { ...report, layouts: [{ name: 'x', page: report.layouts[0]!.page, blocks: [table] }] }
      const totals = columnTotals(table, { levels, level: 0, parameters, groups: [] })
      const path = pathText(by.path)
      // what the group says is not said again in each line
      const rest = {
        ...table,
        columns: table.columns.filter(column => table.rows.find(row => row.kind === 'line')?.cells[column.id]?.text !== `{{ ${path} }}`),
      }
      const grouped = addGroup(
        { ...shell, layouts: [{ ...shell.layouts[0]!, blocks: [rest.columns.length ? rest : table] }] },
        table.id,
        {
          by: path,
          ...(dated(by.type) ? { step: 'month' as const } : {}),
          order: { by: dated(by.type) ? 'value' : 'name', descending: false },
          repeatStart: true,
        },
        totals,
      )
      blocks = grouped.layouts[0]!.blocks
    }
  }
  return {
    name,
    page: { size: 'A4', orientation: landscape ? 'landscape' : 'portrait', margins: { top: 40, right: 45, bottom: 36, left: 45 } },
    top,
    foot,
    blocks,
  }
}
