import type { StatementBlock } from '../definition/blocks/statement'
import { isStatementBlock } from '../definition/blocks/statement'
import { isTable, type TableBlock } from '../definition/blocks/table'
import type { ReportDefinition } from '../definition/report'
import type { TieFigure } from '../definition/tieOuts'
import { blocksOf } from '../definition/walk'

/** A figure of a report that can be held against another's, in words. */
export interface FigureChoice {
  figure: TieFigure
  /** what stands before it: a line, a column of a table */
  name: string
  /** the column, or the table */
  of: string
}

/** Figures that a report offers to be held against others: lines of its statements, totals of its tables. */
export function figureChoices(
  definition: ReportDefinition,
  columnName: (column: StatementBlock['columns'][number]) => string,
): FigureChoice[] {
  const blocks = definition.layouts.flatMap(blocksOf)
  const statements = blocks.filter((each): each is StatementBlock => isStatementBlock(each))
  const tables = blocks.filter((each): each is TableBlock => isTable(each))
  return [
    ...statements.flatMap(statement =>
      statement.lines.flatMap(line =>
        line.kind === 'accounts' || line.kind === 'sum' || line.kind === 'formula'
          ? statement.columns.map((column): FigureChoice => ({
              figure: { is: 'line', statement: statement.id, line: line.id, column: column.id },
              name: line.caption || line.id,
              of: columnName(column),
            }))
          : [],
      ),
    ),
    ...tables.flatMap(table => {
      const end = table.rows.find(row => row.kind === 'end')
      const titles = table.rows.find(row => row.kind === 'titles')
      return table.columns.flatMap((column): FigureChoice[] =>
        end?.cells[column.id]?.text.includes('{{')
          ? [
              {
                figure: { is: 'total', table: table.id, column: column.id },
                name: titles?.cells[column.id]?.text || column.id,
                of: table.id,
              },
            ]
          : [],
      )
    }),
    ...(definition.tieOuts ?? []).flatMap(({ name, left, right }) =>
      [left, right].flatMap(figure => (figure.is === 'formula' ? [{ figure, name: figure.formula, of: name }] : [])),
    ),
  ].filter((each, at, all) => all.findIndex(other => JSON.stringify(other.figure) === JSON.stringify(each.figure)) === at)
}
