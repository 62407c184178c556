import { singleValue } from '../value/textParts'
import type { CellDefinition, ColumnDefinition, RowDefinition, TableBlock } from './blocks/table'
import type { TextStyle } from './style'

/** A column as its parts are written down one by one. */
export interface PlainColumn {
  id: string
  title: string
  text: string
  end?: string
  width: number
  carry?: boolean
  style?: TextStyle
  fit?: boolean
  once?: boolean
}

/** A table with a row of titles, one of lines, and as wanted one at its end and those that carry sums over the page. */
export function plainTable(
  id: string,
  level: string,
  columns: readonly PlainColumn[],
  more: Partial<Pick<TableBlock, 'left' | 'width' | 'after' | 'showWhen' | 'repeatTitles' | 'groups' | 'sort'>> & {
    end?: boolean
    carried?: { forward: string; brought: string }
  } = {},
): TableBlock {
  const { end = columns.some(column => column.end), carried, ...rest } = more
  const cells = (text: (column: PlainColumn) => string | undefined): Record<string, CellDefinition> =>
    Object.fromEntries(
      columns.flatMap(column => {
        const found = text(column)
        return found ? [[column.id, { text: found }]] : []
      }),
    )
  const carriedRow = (kind: 'forward' | 'brought', caption: string): RowDefinition => {
    const sums = cells(column => (column.carry ? carriedText(column.text) : undefined))
    const place = columns.find(column => !sums[column.id])?.id ?? columns[0]!.id
    return { id: kind, kind, cells: { ...sums, [place]: { text: caption, style: { align: 'left' } } } }
  }
  return {
    kind: 'table',
    id,
    level,
    left: 0,
    width: 0,
    after: 0,
    repeatTitles: true,
    groups: [],
    ...rest,
    columns: columns.map(({ id: column, width, style, fit, once }): ColumnDefinition => ({
      id: column,
      width,
      ...(style ? { style } : {}),
      ...(fit ? { fit } : {}),
      ...(once ? { once } : {}),
    })),
    rows: [
      ...(columns.some(column => column.title.trim())
        ? [{ id: 'titles', kind: 'titles' as const, cells: cells(column => column.title) }]
        : []),
      { id: 'line', kind: 'line', cells: cells(column => column.text) },
      ...(end ? [{ id: 'end', kind: 'end' as const, cells: cells(column => column.end) }] : []),
      ...(carried ? [carriedRow('forward', carried.forward), carriedRow('brought', carried.brought)] : []),
    ],
  }
}

/** What a column has added up so far, written like the column's own value. */
export function carriedText(text: string): string {
  const single = singleValue(text)
  return single ? `{{ carried(${single.formula})${single.pattern ? ` | ${single.pattern}` : ''} }}` : ''
}

/** Tables of format 1 had one row of each kind, written down with the columns. */
interface OldTable {
  kind: 'table'
  id: string
  level: string
  left: number
  width: number
  after: number
  showWhen?: string
  repeatTitles: boolean
  end: boolean
  carried?: { forward: string; brought: string }
  columns: (PlainColumn & { end: string })[]
}

/** Brings a definition of an older format to the newest one; anything else stays as it is. */
export function upgraded(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || (value as { format?: unknown }).format !== 1) return value
  const block = (each: unknown): unknown => {
    if (typeof each !== 'object' || each === null) return each
    const { kind, blocks } = each as { kind?: unknown; blocks?: unknown }
    if (kind === 'repeat' && Array.isArray(blocks)) return { ...each, blocks: blocks.map(block) }
    if (kind !== 'table' || !Array.isArray((each as OldTable).columns) || 'rows' in each) return each
    const { id, level, left, width, after, showWhen, repeatTitles, end, carried, columns } = each as OldTable
    return plainTable(id, level, columns, {
      left,
      width,
      after,
      repeatTitles,
      end,
      ...(showWhen === undefined ? {} : { showWhen }),
      ...(carried ? { carried } : {}),
    })
  }
  const { layouts } = value as { layouts?: unknown }
  return {
    ...value,
    format: 2,
    ...(Array.isArray(layouts)
      ? {
          layouts: layouts.map(layout =>
            typeof layout === 'object' && layout !== null && Array.isArray((layout as { blocks?: unknown }).blocks)
              ? { ...layout, blocks: (layout as { blocks: unknown[] }).blocks.map(block) }
              : layout,
          ),
        }
      : {}),
  }
}
