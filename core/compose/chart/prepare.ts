import type { ChartBlock } from '../../definition/blocks/chart'
import type { CrosstabBlock } from '../../definition/blocks/crosstab'
import type { ThemeDefinition } from '../../definition/style'
import type { Typed } from '../../formula/typed'
import { type PreparedCrosstab, prepareCrosstab } from '../crosstab/prepare'
import type { PreparedBlock, PreparedTable } from '../prepared'
import type { PrepareScope } from '../prepareScope'
import type { PreparedStatement } from '../statement/prepare'
import type { CheckedText } from '../text'

/** A chart with its texts checked. It draws one of a statement, a crosstab, a table of the layout, or groups of its own. */
export interface PreparedChart extends PreparedBlock {
  kind: 'chart'
  block: ChartBlock
  x: number
  width: number
  theme: ThemeDefinition
  title?: CheckedText
  alternative?: CheckedText
  target?: { typed: Typed; caption?: CheckedText }
  statement?: PreparedStatement
  crosstab?: PreparedCrosstab
  table?: PreparedTable
  /** groups of its own: what stands along the chart are its rows */
  own?: PreparedCrosstab
}

/** A chart's own groups and measures, as the crosstab that they would be. */
function crosstabOfChart(block: ChartBlock, level: string): CrosstabBlock {
  return {
    kind: 'crosstab',
    id: block.id,
    level,
    left: 0,
    width: 0,
    after: 0,
    rows: block.by ? [{ ...block.by, total: 'none' }] : [],
    columns: block.split ? [{ ...block.split, total: 'none' }] : [],
    measures: (block.measures ?? []).map(({ id, formula, caption, format }) => ({
      id,
      formula,
      ...(caption ? { caption } : {}),
      ...(format ? { format } : {}),
    })),
    wide: 'down',
    repeatTitles: true,
  }
}

export function prepareChart(block: ChartBlock, under: number, scope: PrepareScope): PreparedChart {
  const level = block.level === undefined ? under : scope.levelNamed(block.level, block, under)
  const words = (source: string | undefined, cell: string) =>
    source ? scope.text(source, scope.at(under), { block: block.id, cell, place: 'outline' }) : undefined
  const title = words(block.title, 'title')
  const alternative = words(block.alternative, 'alternative')
  const caption = words(block.target?.caption, 'target')
  const typed =
    block.target &&
    scope.formula(
      block.target.formula,
      { ...scope.at(level), groups: [], row: -1 },
      { block: block.id, cell: 'target', place: 'text' },
      false,
    )
  if (block.level !== undefined && !block.measures?.length)
    scope.problem({
      block: block.id,
      place: 'level',
      sentence: 'The chart has no figure to draw; add a measure under “What is drawn”.',
      from: 0,
      to: 0,
    })
  return {
    kind: 'chart',
    block,
    level: under,
    showWhen: scope.rule(block, under),
    x: block.left,
    width: block.width || Math.max(60, scope.width - block.left),
    theme: scope.theme,
    ...(title ? { title } : {}),
    ...(alternative ? { alternative } : {}),
    ...(typed ? { target: { typed, ...(caption ? { caption } : {}) } } : {}),
    ...(block.level === undefined ? {} : { own: prepareCrosstab(crosstabOfChart(block, block.level), level, under, scope) }),
  }
}
