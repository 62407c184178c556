import type { GridCell, GridRow } from '../gridRows'
import { type ResolvedStyle, resolveStyle } from '../style'
import type { ChartData } from './data'
import type { PreparedChart } from './prepare'

/** The figures of a chart as rows of a sheet: its title, the names of its series, and a row for each category. */
export function chartRows({ theme }: PreparedChart, data: ChartData, title: string | undefined): GridRow[] {
  const plain = resolveStyle(theme)
  const heading = resolveStyle(theme, theme.named.heading)
  const right: ResolvedStyle = { ...plain, align: 'right' }
  const bold: ResolvedStyle = { ...right, font: heading.font }
  const cell = (column: number, id: string, text: string, more: Partial<GridCell> = {}): GridCell => ({
    column,
    id,
    text,
    style: column ? right : plain,
    ...more,
  })
  const row = (kind: GridRow['kind'], cells: GridCell[]): GridRow => ({ kind, cells: cells.filter(each => each.text), depth: 0, nodes: [] })
  const names = data.series.map((each, at) => cell(at + 1, `series${at}`, each.name, { style: bold }))
  return [
    ...(title ? [row('panel', [cell(0, 'title', title, { style: heading })])] : []),
    row('titles', names),
    ...data.categories.map((category, index) =>
      row('line', [
        cell(0, 'category', category, { heads: true }),
        ...data.series.map((series, at) => {
          const exact = series.exact?.[index]
          return cell(
            at + 1,
            `series${at}`,
            series.printed[index] ?? '',
            exact ? { value: exact, pattern: series.pattern ?? '#,##0.##' } : {},
          )
        }),
      ]),
    ),
  ]
}
