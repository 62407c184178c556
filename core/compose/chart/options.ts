import type { ThemeDefinition } from '../../definition/style'
import type { AxisSetting, ChartBox } from './frame'

/** A mark that shows a figure: where it stands, of which series and category. */
export interface ChartMark extends ChartBox {
  series: number
  category: number
}

export interface DrawOptions {
  theme: ThemeDefinition
  title?: string
  /** names of the series above the chart */
  legend: boolean
  /** … or at the ends of their lines */
  atEnds?: boolean
  /** figures stand at the marks */
  figures: boolean
  /** bars lie, with their categories one under the other */
  lying?: boolean
  axis?: AxisSetting
  /** told of each mark, for what is behind it */
  onMark?: (mark: ChartMark) => void
}
