import type { Standing } from '../../formula/standing'
import { fieldTitle } from '../../model/titles'
import type { AxisNode } from '../../shape/cross'
import { valueAt } from '../../value/columns'
import type { GridCells, GridFlow } from '../gridRows'
import { crossedUnder } from './crossed'
import { axisPlaces } from './places'
import type { PreparedCrosstab } from './prepare'

/**
 * The cells of a crosstab one by one: a pair of groups without records has none (rule 35 of the semantics). One inside a repeat names the
 * record that it stands in by its key.
 */
export function crosstabCells(
  crosstab: PreparedCrosstab,
  at: Standing,
  { values, layout }: Pick<GridFlow, 'values' | 'layout'>,
): GridCells {
  const say = (id: string) => values.print(crosstab.captions.get(id)!)({ level: crosstab.level, from: 0, to: 0 })
  const around = layout.blocks.includes(crosstab) ? undefined : values.options.levels[at.level]
  const keys = (around?.key ?? []).flatMap(path => around!.fields.get(path) ?? [])
  const groups = [...crosstab.rows, ...crosstab.columns]
  const none = (count: number) => Array.from({ length: count }, () => ({ total: 'none' as const }))
  return {
    block: crosstab.block.id,
    titles: [
      ...keys.map(fieldTitle),
      ...groups.map(({ group }) => say(group.id)),
      ...crosstab.measures.map(({ caption }) => values.print(caption)({ level: crosstab.level, from: 0, to: 0 })),
    ],
    *rows() {
      const { crossed, figures } = crossedUnder(crosstab, { values }, at)
      const own = keys.map(({ path }) => {
        const column = values.data.levels[at.level]!.columns[path]
        return column ? valueAt(column, at.from) : null
      })
      const columns = axisPlaces(crossed.columns, none(crosstab.columns.length))
      for (const { node: row } of axisPlaces(crossed.rows, none(crosstab.rows.length)))
        for (const { node: column } of columns) {
          const met = crossed.meet(row, column)
          if (met.from === met.to) continue
          // amounts of several currencies are no number, and are told as they are printed
          const cells = crosstab.measures.map(measure => {
            const { value, text } = figures.figure(measure, row, column)
            return value === null && text ? text : value
          })
          yield [...own, ...labels(row), ...labels(column), ...cells]
        }
    },
  }
}

/** What a group and those around it are called, outermost first. */
function labels(node: AxisNode): string[] {
  return node.depth < 0 ? [] : [...(node.parent ? labels(node.parent) : []), node.label]
}
