import type { PanelBlock, PanelItem } from '../../definition/blocks/panel'
import type { ParameterDefinition } from '../../definition/parameters'
import type { TextStyle } from '../../definition/style'

/** A text on a panel. */
export const text = (id: string, x: number, y: number, width: number, source: string, style: TextStyle = {}): PanelItem => ({
  kind: 'text',
  id,
  x,
  y,
  width,
  text: source,
  style,
})

/** The column in which “Total” stands: the first that has no total and is wide enough. */
export const labelColumn = <T extends { width: number }>(columns: readonly T[], totalled: (column: T) => boolean): T | undefined => {
  const free = columns.filter(column => !totalled(column))
  return free.find(column => column.width === 0 || column.width >= 44) ?? free[0]
}

/** Labels with their values, one under the other. */
export const pairs = (
  list: readonly { id: string; label: string; value: string; when?: string }[],
  place: { x: number; y: number; label: number; value: number; step?: number },
  style: TextStyle = {},
): PanelItem[] =>
  list.flatMap(({ id, label, value, when }, index) => {
    const y = place.y + index * (place.step ?? 14)
    const items = [
      text(`label_${id}`, place.x, y, place.label, label, { named: 'label' }),
      text(id, place.x + place.label, y, place.value, value, style),
    ]
    return when ? items.map(item => ({ ...item, showWhen: when })) : items
  })

/** What the reader answered, in one line. */
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

/** The title of a list with its answers and a line under it. */
export const listTop = (id: string, title: string, width: number, parameters: readonly ParameterDefinition[]): PanelBlock => {
  const answers = answersLine(parameters)
  return {
    kind: 'panel',
    id,
    height: 34,
    after: 14,
    items: [
      text('title', 0, 0, answers ? width * 0.6 : width, title, { named: 'title' }),
      ...(answers ? [text('answers', width * 0.6, 6, width * 0.4, answers, { named: 'small', align: 'right' })] : []),
      { kind: 'rule', id: 'rule', x: 0, y: 30, width, thickness: 0.6, colour: '#d9d2c7' },
    ],
  }
}

/** Time of printing, and page x of y. */
export const pageFoot = (id: string, width: number): PanelBlock => ({
  kind: 'panel',
  id,
  height: 14,
  after: 8,
  items: [
    text('printed', 0, 2, 200, '{{ page.printed }}', { named: 'small' }),
    text('page', width - 200, 2, 200, 'Page {{ page.number }} of {{ page.count }}', { named: 'small', align: 'right' }),
  ],
})
