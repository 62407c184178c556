import type { Decimal } from '../../value/decimal'
import type { Standing } from '../../formula/standing'

/** How a series is drawn. */
export type SeriesForm = 'bars' | 'lines' | 'areas' | 'points'

export interface ChartSeries {
  name: string
  form: SeriesForm
  colour: string
  values: (number | null)[]
  /** the figures themselves, of which `values` are lengths on paper */
  exact?: readonly (Decimal | null)[]
  /** the Unicode pattern that they are printed with */
  pattern?: string | undefined
  /** the figures as they are printed elsewhere */
  printed: string[]
  /** it is read at the axis on the right */
  second?: boolean
  /** records behind each figure, for what is traced, and the measure that they belong to */
  at?: (category: number) => Standing | undefined
  cell?: string
  /** the measure of each figure, where they differ; nothing where none is behind it */
  cellAt?: (category: number) => string | undefined
}

/** What is drawn: one value of each series for each category. */
export interface ChartData {
  categories: string[]
  /** the day that each category begins with: lines, areas and points stand at their days */
  days?: readonly number[]
  series: ChartSeries[]
  /** bars and areas stand on one another */
  stacked: boolean
  /** … and are told as shares of what stands on one another */
  shares?: boolean
  /** parts of a whole, the first series alone */
  round?: 'pie' | 'ring'
  /** each bar begins where the one before it ended; the first and the last are whole */
  steps?: boolean
  /** a line of what the bars come to so far, in per cent of all, at the axis on the right */
  runningShare?: boolean
  /** points stand where the first series (across) and the second (up) say */
  scatter?: boolean
  /** prints a mark of the axis, and of that on the right */
  tick: (value: number) => string
  tickRight?: (value: number) => string
  target?: { value: number; label: string }
}

/** Colours of series where none is chosen, from dark to light to dark, so that neighbours differ in grey print. */
const seriesColours = ['#0f4c5c', '#e07a3f', '#7a4a75', '#8aa866', '#5c6b7a', '#d9a0a8', '#3f7f8c', '#c2b280'] as const

export const seriesColour = (place: number): string => seriesColours[place % seriesColours.length]!

/** Parts of a pie beyond which the smallest are one. */
export const mostParts = 7

/** A share in per cent as a chart prints it. */
export const percentOf = (part: number, whole: number): number => (whole ? (part / whole) * 100 : 0)

/** The least and the greatest of some values; `low` is above `high` where there are none. */
export function extentOf(lists: Iterable<readonly (number | null)[]>): { low: number; high: number } {
  let [low, high] = [Infinity, -Infinity]
  for (const values of lists)
    for (const value of values) {
      if (value === null) continue
      if (value < low) low = value
      if (value > high) high = value
    }
  return { low, high }
}
