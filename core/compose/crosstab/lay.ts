import type { AxisGroup } from '../../definition/blocks/crosstab'
import type { ColumnDefinition, RowKind } from '../../definition/blocks/table'
import type { TextStyle } from '../../definition/style'
import type { Standing } from '../../formula/standing'
import type { AxisNode, Crossed } from '../../shape/cross'
import type { Place } from '../place'
import type { PreparedCell, PreparedGroup, PreparedRow, PreparedTable } from '../prepared'
import type { CheckedText, CheckedValue } from '../text'
import { literal, literalCell, literalRow, type LiteralTable, placeColumns } from '../table/literal'
import { pageWordsOf } from '../words'
import { type CrossedRecords, crossedUnder } from './crossed'
import { cellStanding, type Figures, isPerCent, percentPattern } from './figures'
import { remarkCrosstab } from './notices'
import { shadesOf } from './shades'
import { type AxisPlace, axisPlaces, type FigureColumn, type FigureRow, groupAt } from './places'
import type { PreparedCrosstab } from './prepare'
import { fitCrosstab, type FittedPart, type TitleCell, type Unfitted } from './widths'

/** A crosstab worked out for the records at hand: one table, or several that stand side by side on pages; `whole` is all in one. */
export interface LaidCrosstab {
  parts: LiteralTable[]
  whole: () => LiteralTable
  /** sizes are multiplied by it */
  factor: number
  crossed: Crossed
}

/** What tells a group of an axis from all others in any run. */
const pathOf = (node: AxisNode): string =>
  node.depth < 0 ? '' : `${node.parent ? pathOf(node.parent) : ''}/${node.group.others ? '*' : encodeURIComponent(node.label)}`

/** A crosstab worked out once for the records at hand; inside a repeat, for those under the record in which it stands. */
export function laidCrosstab(block: PreparedCrosstab, place: Place, within?: Standing): LaidCrosstab {
  const { values } = place
  const crossed = crossedUnder(block, place, within)
  const known = values.memo(block, () => new WeakMap<CrossedRecords, LaidCrosstab>())
  let found = known.get(crossed)
  if (!found) known.set(crossed, (found = layCrosstab(block, crossed, place)))
  remarkCrosstab(block, found, place)
  return found
}

function layCrosstab(prepared: PreparedCrosstab, { records, crossed, figures }: CrossedRecords, { values }: Place): LaidCrosstab {
  const { block, theme } = prepared
  const stacked = !!block.stacked && prepared.measures.length > 1
  const settings = (groups: readonly PreparedGroup[]) => groups.map(({ group }) => group as AxisGroup)
  const [rowGroups, columnGroups] = [settings(prepared.rows), settings(prepared.columns)]
  const words = pageWordsOf(values.language)
  const own: Standing = { level: prepared.level, from: records[0] ?? 0, to: records.length ? records[0]! + 1 : 0 }
  const say = (text: CheckedText) => values.print(text)(own)
  const measureCaption = new Map(prepared.measures.map(measure => [measure, say(measure.caption)]))
  const groupCaption = ({ id }: AxisGroup) => say(prepared.captions.get(id)!)
  const totalCaption = ({ node, totalOf }: AxisPlace, groups: readonly AxisGroup[]) => {
    const said = prepared.totalCaptions.get(groups[totalOf!]!.id)
    return said ? say(said) : node.depth < 0 ? words.total : `${words.total} ${node.label}`
  }

  const columns = axisPlaces(crossed.columns, columnGroups).flatMap((place): FigureColumn[] => {
    const id = `${place.totalOf === undefined ? 'at' : 'total'} ${pathOf(place.node)}`
    return stacked ? [{ id, place }] : prepared.measures.map(measure => ({ id: `${id} ${measure.measure.id}`, place, measure }))
  })
  const rows = axisPlaces(crossed.rows, rowGroups).flatMap((place): FigureRow[] => {
    const total = place.totalOf !== undefined
    const kind: RowKind = !total ? 'line' : place.node.depth < 0 ? 'end' : 'groupEnd'
    const id = `${total ? 'total' : 'at'} ${pathOf(place.node)}`
    return stacked ? prepared.measures.map(measure => ({ id: `${id} ${measure.measure.id}`, kind, place, measure })) : [{ id, kind, place }]
  })

  const [only] = prepared.measures
  // titles of rows: a column for each group, and one for the measures where they stand under one another
  const titleColumns: ColumnDefinition[] = [
    ...(rowGroups.length ? rowGroups : [{ id: 'row' }]).map(({ id }, at) => ({
      id: `title ${id}`,
      width: 0,
      once: at < rowGroups.length - 1 || stacked,
    })),
    ...(stacked ? [{ id: 'title measure', width: 0 }] : []),
  ]
  const rowTitles = (row: FigureRow, at: number): { column: number; text: string; span: number; onceFor?: string }[] => {
    const { place } = row
    const found: { column: number; text: string; span: number; onceFor?: string }[] = []
    const last = titleColumns.length - (stacked ? 1 : 0)
    if (place.totalOf === undefined)
      for (let depth = 0; depth < rowGroups.length; depth++) {
        const node = groupAt(place, depth)
        if (node) found.push({ column: depth, text: node.label, span: 1, onceFor: pathOf(node) })
      }
    // a total says what it is of, in the place of that
    else if (!stacked || row.measure === only) {
      const column = Math.max(0, place.node.depth)
      found.push({ column, text: totalCaption(place, rowGroups), span: last - column, onceFor: `${row.id} ${at}` })
    }
    if (!rowGroups.length) found.push({ column: 0, text: stacked ? '' : words.total, span: 1 })
    if (stacked) found.push({ column: last, text: measureCaption.get(row.measure!)!, span: 1 })
    return found
  }

  /** the groups of the rows are named above their titles, next to the first row */
  const cornerRow = (last: boolean): TitleCell[] =>
    last ? rowGroups.map((group, column) => ({ column, span: 1, text: groupCaption(group) })) : []
  const several = prepared.measures.length > 1 && !stacked
  /** the rows of titles from the top: what is across, then its groups from the outside in, then measures */
  const across = columnGroups.map(groupCaption).join(' · ')
  const heading = [...(prepared.measures.length === 1 ? [measureCaption.get(only!)!] : []), ...(across ? [across] : [])].join(' · ')
  const titled: ((column: FigureColumn) => { text: string; key: string })[] = [
    ...(columnGroups.length ? [() => ({ text: heading, key: 'heading' })] : []),
    ...columnGroups.map((_, depth) => ({ place }: FigureColumn) => {
      const node = groupAt(place, depth)
      if (node) return { text: node.label, key: pathOf(node) }
      if (place.totalOf === depth) return { text: totalCaption(place, columnGroups), key: `total ${pathOf(place.node)}` }
      return { text: '', key: `under ${pathOf(place.node)}` }
    }),
    ...(several || !columnGroups.length
      ? [({ measure, id }: FigureColumn) => ({ text: stacked ? '' : (measureCaption.get(measure ?? only!) ?? ''), key: id })]
      : []),
  ]

  /** shades of the measures that have them: among the figures of single groups, since totals are larger by themselves */
  const shades = new Map(
    prepared.measures.flatMap(measure => {
      if (!measure.measure.shade) return []
      const found = shadesOf(
        rows
          .filter(row => row.kind === 'line' && (!row.measure || row.measure === measure))
          .flatMap(row =>
            columns
              .filter(column => column.place.totalOf === undefined && (!column.measure || column.measure === measure))
              .map(column => figures.figure(measure, row.place.node, column.place.node).value),
          ),
      )
      return found ? [[measure, found] as const] : []
    }),
  )

  const unfitted: Unfitted = {
    prepared,
    titleColumns,
    rows,
    columns,
    rowTitles,
    corner: titled.map((_, at) => cornerRow(at === titled.length - 1)),
    titled,
    text: (row, column) => figures.figure((row.measure ?? column.measure)!, row.place.node, column.place.node).text,
  }

  const made = ({ columns: shown, widths, factor, turned }: FittedPart): LiteralTable => {
    const definitions: ColumnDefinition[] = [
      ...titleColumns.map((column, at) => ({ ...column, width: widths.titles[at]! })),
      ...shown.map(({ id }, at) => ({ id, width: widths.figures[at]!, style: { align: 'right' } as TextStyle })),
    ]
    const width = Math.min(
      prepared.width,
      definitions.reduce((sum, each) => sum + each.width, 0),
    )
    const sized = (cell: PreparedCell): PreparedCell =>
      factor < 1 ? { ...cell, style: { ...cell.style, size: cell.style.size * factor } } : cell
    const titleRow = (at: number): PreparedRow => {
      const definition = { id: `titles ${at}`, kind: 'titles' as const, cells: {} }
      const cell = (column: number, text: string, span: number, style: TextStyle) =>
        sized({ ...literalCell({ column, id: definitions[column]!.id, definition, theme }, literal(text), block.titles, style), span })
      const cells = cornerRow(at === titled.length - 1).map(({ column, text, span }) => cell(column, text, span, { vertical: 'bottom' }))
      for (let from = 0; from < shown.length;) {
        const { text, key } = titled[at]!(shown[from]!)
        let to = from + 1
        while (to < shown.length && titled[at]!(shown[to]!).key === key) to++
        // what spans several columns stands in their middle, what stands over one at its figures
        const single = to - from === 1
        const rotated = single && turned.has(at) ? { rotated: true } : {}
        if (text) {
          const made = cell(titleColumns.length + from, text, to - from, {
            align: single ? 'right' : 'centre',
            vertical: 'bottom',
            ...rotated,
          })
          cells.push(single || at === titled.length - 1 ? made : { ...made, spans: true })
        }
        from = to
      }
      const made = literalRow(definition, theme, block.titles, cells)
      // one line under all titles, not under each row of them
      return at < titled.length - 1 ? { ...made, below: 'none' } : at ? { ...made, above: 'none' } : made
    }
    const dataRow = (row: FigureRow, at: number): LiteralTable['rows'][number] => {
      const definition = { id: row.id, kind: row.kind, cells: {} }
      const titles = rowTitles(row, at).map(({ column, text, span, onceFor }): PreparedCell => ({
        ...sized(literalCell({ column, id: titleColumns[column]!.id, definition, theme }, literal(text))),
        span,
        heads: true,
        ...(onceFor === undefined ? {} : { onceFor }),
      }))
      const cells = shown.flatMap((column, index): PreparedCell[] => {
        const measure = (row.measure ?? column.measure)!
        const { value, text } = figures.figure(measure, row.place.node, column.place.node)
        // nothing stands behind an empty cell
        if (!text) {
          const place = { column: titleColumns.length + index, id: column.id, definition, theme }
          return [{ ...literalCell(place, literal('')), at: { level: prepared.level, from: 0, to: 0 } }]
        }
        const total = column.place.totalOf !== undefined && row.kind === 'line'
        const pattern = isPerCent(measure.measure) ? percentPattern : measure.pattern
        const single = row.kind === 'line' && column.place.totalOf === undefined
        const fill = single ? shades.get(measure)?.of(value) : undefined
        const cell = literalCell(
          { column: titleColumns.length + index, id: column.id, definition, theme },
          value === null ? literal(text) : figureText(value, text, pattern),
          { align: 'right', ...(total ? { bold: true } : {}) },
          measure.measure.style,
          fill ? { fill } : undefined,
        )
        const of = cellStanding(prepared, crossed, row.place.node, column.place.node)
        return [
          sized({ ...cell, ...(of ? { at: of } : {}), ...(value !== null && typeof value === 'object' && pattern ? { pattern } : {}) }),
        ]
      })
      const all = cellStanding(prepared, crossed, row.place.node, crossed.columns)
      const covered = all?.covered && { ...all.covered, node: row.place.node.group }
      return {
        row: literalRow(definition, theme, undefined, [...titles, ...cells]),
        newPage: false,
        at: { level: prepared.level, from: all?.from ?? 0, to: all?.to ?? 0, ...(covered ? { covered } : {}) },
      }
    }
    const table: PreparedTable = {
      kind: 'table',
      level: prepared.level,
      x: prepared.x,
      width,
      columns: placeColumns(definitions, prepared.x, width),
      groups: [],
      sort: [],
      looks: [],
      theme,
      rows: titled.map((_, at) => titleRow(at)),
      block: {
        id: block.id,
        kind: 'table',
        level: block.level,
        left: block.left,
        width,
        columns: definitions,
        groups: [],
        rows: [],
        repeatTitles: block.repeatTitles,
        after: block.after,
      },
    }
    const own: LiteralTable['rows'][number][] = rows.map(dataRow)
    for (const [measure, { least, most }] of shades) {
      const definition = { id: `shades ${measure.measure.id}`, kind: 'end' as const, cells: {} }
      const plain: TextStyle = { ...theme.named.small, bold: false }
      const only = measure.text.lines[0]![0] as CheckedValue
      const text = literal(`${measureCaption.get(measure)}: ${words.shaded.toLowerCase()}, ${only.print(least)} – ${only.print(most)}`)
      const cell = literalCell({ column: 0, id: definitions[0]!.id, definition, theme }, text, plain)
      const row = literalRow(definition, theme, { ...plain, above: 'none', below: 'none' }, [{ ...cell, span: definitions.length }])
      own.push({ row, newPage: false })
    }
    table.rows.push(...own.map(each => each.row))
    return { table, rows: own }
  }
  const fitted = fitCrosstab(unfitted, block.wide === 'smaller' ? 'smaller' : 'pages')
  const parts = fitted.map(made)
  let whole = parts.length === 1 ? parts[0] : undefined
  return { parts, whole: () => (whole ??= made(fitCrosstab(unfitted, 'whole')[0]!)), factor: fitted[0]!.factor, crossed }
}

/** A figure that is printed already, and still a number on a sheet. */
const figureText = (value: NonNullable<ReturnType<Figures['figure']>['value']>, text: string, pattern: string | undefined) => ({
  lines: [
    [
      {
        typed: { is: 'constant' as const, type: typeof value === 'object' ? ('number' as const) : ('text' as const), value },
        ...(pattern ? { pattern } : {}),
        print: () => text,
      },
    ],
  ],
  formulas: [],
  late: false,
})
