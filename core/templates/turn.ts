import type { AxisGroup, CrosstabBlock, CrosstabMeasure } from '../definition/blocks/crosstab'
import { type GroupDefinition, rowKinds, type RowDefinition, type TableBlock } from '../definition/blocks/table'
import { wordOf } from '../definition/edits/tableGroups'
import { freeId } from '../definition/names'
import { plainTable } from '../definition/upgrade'
import { singleValue } from '../value/textParts'

/** A table and a crosstab of the same groups and totals, turned into one another. What has no meaning there is left out. */

/** What a group of a table and one of an axis share: by what records are grouped, in which order, and which of the groups stand. */
const grouping = ({ id, by, step, edges, order, none, top, having }: GroupDefinition): GroupDefinition => ({
  id,
  by,
  ...(step ? { step } : {}),
  ...(edges ? { edges } : {}),
  order,
  ...(none === undefined ? {} : { none }),
  ...(top ? { top } : {}),
  ...(having ? { having } : {}),
})
const axisGroup = (group: GroupDefinition): AxisGroup => ({ ...grouping(group), total: 'after' })

/** Totals at the end of a table or of its groups, each once: what a crosstab of it shows where its groups meet. */
function totalsOf(table: TableBlock): CrosstabMeasure[] {
  const taken = [table.level, ...table.groups.map(group => group.id)]
  const found = new Map<string, CrosstabMeasure>()
  const titles = table.rows.find(row => row.kind === 'titles')
  for (const row of table.rows) {
    if (row.kind !== 'groupEnd' && row.kind !== 'end') continue
    for (const column of table.columns) {
      const value = singleValue(row.cells[column.id]?.text ?? '')
      // the name of a group is no figure of it
      if (!value || found.has(value.formula) || !/\(/.test(value.formula) || /\b(running|carried|group)\b/.test(value.formula)) continue
      const id = freeId(wordOf(column.id), taken, true)
      taken.push(id)
      const caption = titles?.cells[column.id]?.text
      found.set(value.formula, {
        id,
        formula: value.formula,
        ...(caption && !caption.includes('{{') ? { caption } : {}),
        ...(value.pattern ? { format: value.pattern } : {}),
      })
    }
  }
  return [...found.values()]
}

/** Can a table be turned into a crosstab: does it have groups? */
export const turnsIntoCrosstab = (table: TableBlock): boolean => table.groups.length > 0

/** A crosstab of a table's groups: the innermost goes across the top where there are several; lines are left out. */
export function crosstabOfTable(table: TableBlock): CrosstabBlock {
  const groups = table.groups.map(axisGroup)
  const across = groups.length > 1 ? groups.slice(-1) : []
  const measures = totalsOf(table)
  return {
    kind: 'crosstab',
    id: table.id,
    level: table.level,
    left: table.left,
    width: table.width,
    after: table.after,
    ...(table.showWhen ? { showWhen: table.showWhen } : {}),
    rows: groups.slice(0, groups.length - across.length),
    columns: across,
    measures: measures.length
      ? measures
      : [{ id: freeId('count', [table.level, ...groups.map(each => each.id)], true), formula: `count(${table.level})` }],
    wide: 'down',
    repeatTitles: table.repeatTitles,
  }
}

/**
 * A table of a crosstab's groups, one inside the other, with its figures as totals at the end of each; how they are seen is left out.
 * `captionOf` says what a measure is called.
 */
export function tableOfCrosstab(crosstab: CrosstabBlock, captionOf: (measure: CrosstabMeasure) => string): TableBlock {
  const groups = [...crosstab.rows, ...crosstab.columns].map(grouping)
  const names = freeId(
    'name',
    crosstab.measures.map(each => each.id),
    true,
  )
  const plain = plainTable(
    crosstab.id,
    crosstab.level,
    [
      { id: names, title: '', text: '', width: 0 },
      ...crosstab.measures.map(each => ({ id: each.id, title: captionOf(each), text: '', width: 80, style: { align: 'right' as const } })),
    ],
    { left: crosstab.left, width: crosstab.width, after: crosstab.after, repeatTitles: crosstab.repeatTitles, groups },
  )
  const figures = Object.fromEntries(
    crosstab.measures.map(each => [each.id, { text: `{{ ${each.formula}${each.format ? ` | ${each.format}` : ''} }}` }]),
  )
  const innermost = groups.at(-1)
  const rows: RowDefinition[] = [
    ...plain.rows.filter(row => row.kind === 'titles'),
    ...groups
      .slice(0, -1)
      .map((group, depth): RowDefinition => ({
        id: `start ${group.id}`,
        kind: 'groupStart',
        group: group.id,
        cells: { [names]: { text: '{{ group.name }}', style: { indent: depth * 8 } } },
      })),
    ...groups.map((group, depth): RowDefinition => ({
      id: `end ${group.id}`,
      kind: 'groupEnd',
      group: group.id,
      cells: {
        [names]: { text: group === innermost ? '{{ group.name }}' : 'Total {{ group.name }}', style: { indent: depth * 8 } },
        ...figures,
      },
      ...(group === innermost && groups.length > 1 ? { style: { bold: false, above: 'none' as const } } : {}),
    })),
    { id: 'end', kind: 'end', cells: { [names]: { text: 'Total' }, ...figures } },
  ]
  return {
    ...plain,
    ...(crosstab.showWhen ? { showWhen: crosstab.showWhen } : {}),
    rows: rows.sort((a, b) => rowKinds.indexOf(a.kind) - rowKinds.indexOf(b.kind)),
  }
}
