import type { Standing } from '../../formula/standing'
import type { AxisNode, Crossed } from '../../shape/cross'
import type { LayoutNotice } from '../notices'
import type { Place } from '../place'
import { totalledLevels } from '../totals'
import { cellStanding } from './figures'
import type { PreparedCrosstab } from './prepare'

const nodesOf = (node: AxisNode): AxisNode[] => [node, ...node.children.flatMap(nodesOf)]

/** Tells what is to be known of a crosstab that was laid out: each kind of thing once. */
export function remarkCrosstab(
  prepared: PreparedCrosstab,
  { crossed, parts, factor }: { crossed: Crossed; parts: readonly unknown[]; factor: number },
  { values, remarks }: Pick<Place, 'values' | 'remarks'>,
): void {
  const { block } = prepared
  const tell = (key: string, kind: LayoutNotice['kind'], sentence: string) =>
    remarks.count(`${key} ${block.id}`, { kind, block: block.id, part: 'block', sentence, remedies: [] })
  for (const [axis, groups] of [['rows', prepared.rows] as const, ['columns', prepared.columns] as const])
    groups.forEach(({ group }, depth) => {
      const shown = nodesOf(crossed[axis]).filter(node => node.depth === depth)
      const twins = crossed.twins[axis].filter(
        twin => twin.depth === depth && shown.filter(node => node.label.startsWith(`${twin.label} (`)).length > 1,
      )
      if (!twins.length) return
      const called = twins.length === 1 ? `Two groups are called “${twins[0]!.label}”` : `${twins.length} names stand for two groups each`
      tell(`twins ${group.id}`, 'twins', `${called}; they stay apart, with their codes.`)
    })
  const all = cellStanding(prepared, crossed, crossed.rows, crossed.columns)
  if (all) remarkCurrencies(prepared, all, { values, remarks })
  // rule 8 of the semantics: a record above may stand in several cells
  const above = new Set(prepared.measures.flatMap(each => totalledLevels(each.typed)).filter(level => level >= 0 && level < prepared.level))
  const leaves = (node: AxisNode): AxisNode[] => (node.children.length ? node.children.flatMap(leaves) : [node])
  remarks.severalGroups({ id: block.id, level: prepared.level, part: 'block', above }, function* () {
    const columns = leaves(crossed.columns)
    for (const row of leaves(crossed.rows))
      for (const column of columns) {
        const { records, from, to } = crossed.meet(row, column)
        yield records.subarray(from, to)
      }
  })
  if (parts.length > 1) tell('wide', 'narrow', `The crosstab is too wide for a page: it goes over ${parts.length} side by side.`)
  if (factor < 0.8) tell('narrow', 'narrow', `The crosstab is written at ${Math.round(factor * 100)} % of its size to fit the page.`)
}

/** Amounts that have no currency of their own, and are of several (rule 13 of the semantics). */
export function remarkCurrencies(
  { block, measures }: PreparedCrosstab,
  all: Standing,
  { values, remarks }: Pick<Place, 'values' | 'remarks'>,
): void {
  for (const { measure, caption, mixes } of measures) {
    if (!mixes) continue
    const { count, field, currency } = mixes
    const found = values.evaluate(count)(all)
    if (found === null || typeof found !== 'object' || Number(found.units) < 2) continue
    const level = values.options.levels[field.level]!
    remarks.count(`currencies ${measure.id} ${block.id}`, {
      kind: 'currencies',
      block: block.id,
      part: 'block',
      sentence: `“${values.print(caption)(all)}” adds up amounts of ${Number(found.units)} currencies.`,
      remedies: level.fields.has(currency)
        ? [{ label: 'One line per currency', edit: 'setField', args: [`${level.name}.${field.path}`, { currency }] }]
        : [],
    })
  }
}
