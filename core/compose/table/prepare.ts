import type { CellDefinition, ColumnDefinition, RowDefinition, TableBlock } from '../../definition/blocks/table'
import type { LevelInfo, Scope, Typed } from '../../formula/typed'
import { outsideTotals, partsOf } from '../../formula/parts'
import { pathText } from '../../formula/syntax'
import { columnWidths } from '../columnWidths'
import { type LayoutNotice, plainContrast } from '../notices'
import { preparePayments } from '../payments'
import type { PrepareScope } from '../prepareScope'
import type { PreparedBlock, PreparedCell, PreparedColumn, PreparedGroup, PreparedLook, PreparedRow, PreparedTable } from '../prepared'
import { resolveStyle, rowRole } from '../style'
import { type CheckedText, patternOf } from '../text'
import { prepareGroup } from './prepareGroup'

/** A table with its formulas checked at their places; `room` is the width in points that it can fill. */
export function prepareTable(block: TableBlock, under: number, scope: PrepareScope, room = scope.width): PreparedTable {
  const { theme } = scope
  const level = scope.levelNamed(block.level, block, under)
  const width = block.width || Math.max(24, room - block.left)
  const shown = block.columns.filter(column => !column.hidden)
  const widths = columnWidths(shown, width)
  let x = block.left
  const columns = shown.map((column, index): PreparedColumn => {
    const place = { column, x, width: widths[index]! }
    x += place.width
    return place
  })
  const names = block.groups.map(group => group.id)
  const scopeOf = (depth: number): Scope => ({ ...scope.at(level), groups: names, row: depth === names.length ? 'line' : depth })
  const groups = block.groups.flatMap((group, depth) => prepareGroup(group, names.slice(0, depth), { block: block.id, level }, scope) ?? [])
  const looks = (block.looks ?? []).flatMap((each): PreparedLook[] => {
    const when = scope.formula(each.when, scopeOf(each.kinds?.some(kind => kind !== 'line' && kind !== 'extra') ? 0 : names.length), {
      block: block.id,
      cell: each.id,
      place: 'look',
    })
    return when
      ? [{ when, columns: new Set(each.columns), kinds: new Set(each.kinds ?? ['line']), style: each.style, mark: each.mark ?? '' }]
      : []
  })
  const sort = (block.sort ?? []).flatMap(each => {
    const by = scope.formula(each.field, scope.at(level), { block: block.id, place: 'sort' }, false)
    return by ? [{ by, descending: each.descending }] : []
  })
  const rows = block.rows.flatMap((row): PreparedRow[] => {
    const groupPlace = row.group === undefined ? -1 : names.indexOf(row.group)
    if (row.group !== undefined && groupPlace < 0) return []
    const depth = row.kind === 'line' || row.kind === 'extra' ? names.length : row.group === undefined ? -1 : groupPlace
    const role = theme.rows[rowRole(row.kind)]
    const style = { ...role, ...row.style }
    const at = { block: block.id, row: row.id }
    const line = row.kind === 'line' || row.kind === 'extra'
    const standing = scopeOf(line || row.kind === 'forward' || row.kind === 'brought' ? names.length : depth)
    const own = row.kind === 'forward' || row.kind === 'brought' ? { ...standing, row: -1 } : standing
    const when = scope.formula(row.when, standing, { ...at, place: 'showWhen' })
    const cells = shown.flatMap((column, index): PreparedCell[] => {
      const cell = row.cells[column.id]
      if (!cell) return []
      // a total under its column follows the column's look; the kind of row says the rest
      const resolved = resolveStyle(theme, column.style, role, row.style, cell.style)
      const checked = scope.text(cell.text, own, { ...at, cell: column.id, place: 'text' })
      const only =
        checked.lines.length === 1 && checked.lines[0]!.length === 1 && 'typed' in checked.lines[0]![0]! ? checked.lines[0]![0] : undefined
      const pattern = only && only.typed.type === 'number' ? patternOf(only.typed, only.pattern) : undefined
      scope.notice(...plainContrast(resolved, resolved.fill ?? style.fill, { ...at, cell: column.id, part: row.kind }))
      if (!line) scope.notice(...strayFields(checked, cell, column.id, row, block, level, groups, scope.levels))
      const cellWhen = scope.formula(cell.when, standing, { ...at, cell: column.id, place: 'showWhen' })
      const mixes = line ? undefined : mixedCurrencies(checked, scope.levels)
      if (mixes) scope.note(mixes.count)
      const picture = scope.formula(cell.picture, standing, { ...at, cell: column.id, place: 'image' }, false)
      return [
        {
          ...(mixes ? { mixes } : {}),
          ...(picture ? { picture } : {}),
          column: index,
          span: spanned(cell, column, block.columns, shown),
          id: column.id,
          text: checked,
          style: resolved,
          ...(cellWhen ? { when: cellWhen } : {}),
          ...(pattern ? { pattern } : {}),
        },
      ]
    })
    const nested = row.nested && prepareTable(row.nested, level, scope, width)
    if (nested) nested.x += block.left
    if (nested) nested.columns.forEach(column => (column.x += block.left))
    const report = row.report && shifted(scope.block(row.report, level), block.left)
    return [
      {
        row,
        depth,
        cells,
        ...(when ? { when } : {}),
        ...(style.fill ? { fill: style.fill } : {}),
        ...(style.above ? { above: style.above } : {}),
        ...(style.below ? { below: style.below } : {}),
        ...(nested ? { nested } : {}),
        ...(report ? { report } : {}),
      },
    ]
  })
  const reports = rows.flatMap(row => row.report ?? [])
  const payments = preparePayments(block, scopeOf, scope)
  return {
    kind: 'table',
    block,
    level,
    ...(reports.length ? { inner: reports, columnsByRecords: true } : {}),
    showWhen: scope.rule(block, under),
    x: block.left,
    width,
    columns,
    groups,
    sort,
    rows,
    looks,
    theme,
    ...(payments ? { payments } : {}),
  }
}

/** How many of the columns that are shown a cell spans. */
function spanned(
  cell: CellDefinition,
  column: ColumnDefinition,
  columns: readonly ColumnDefinition[],
  shown: readonly ColumnDefinition[],
): number {
  const from = columns.indexOf(column)
  const over = columns.slice(from, from + (cell.span ?? 1))
  return Math.max(1, over.filter(each => shown.includes(each)).length)
}

/** Fields of one line of many in a row that stands for many. */
function strayFields(
  checked: CheckedText,
  cell: CellDefinition,
  column: string,
  row: RowDefinition,
  block: TableBlock,
  level: number,
  groups: readonly PreparedGroup[],
  levels: readonly LevelInfo[],
): LayoutNotice[] {
  const depth = row.group === undefined ? -1 : block.groups.findIndex(group => group.id === row.group)
  const grouped = groups.slice(0, depth + 1).map(each => each.by)
  const constant = (typed: Typed & { is: 'field' }) =>
    !isBelow(levels, level, typed.level) ||
    grouped.some(
      by =>
        by.is === 'field' &&
        by.level === typed.level &&
        (by.path === typed.path ||
          (by.field.record !== '' && (typed.field.record === by.field.record || typed.field.record.startsWith(`${by.field.record}.`)))),
    ) ||
    grouped.some(by => by.is === 'field' && by.field.record === '' && by.level !== level && by.level === typed.level)
  const stray = checked.formulas.flatMap(typed => outsideTotals(typed)).find(field => !constant(field))
  if (!stray || row.kind === 'titles' || row.kind === 'forward' || row.kind === 'brought') return []
  const caption = stray.field.caption.toLowerCase()
  const name = pathText(stray.path)
  const place = { block: block.id, cell: column, part: row.kind, row: row.id }
  return [
    {
      kind: 'lineField',
      block: block.id,
      row: row.id,
      cell: column,
      part: row.kind,
      sentence: `The ${row.group ? 'group’s' : 'table’s'} row shows the ${caption} of its first line only.`,
      remedies: [
        ...(stray.type === 'number' && stray.field.role === 'measure'
          ? [{ label: 'Show the sum', edit: 'setText' as const, args: [place, cell.text.replace(name, `sum(${name})`)] }]
          : []),
        { label: 'Show how many there are', edit: 'setText' as const, args: [place, `{{ distinct(${name}) }}`] },
        { label: 'Take it out', edit: 'setText' as const, args: [place, ''] },
      ],
    },
  ]
}

/** Totals that add nothing up. */
const unsummed = new Set(['count', 'distinct', 'first', 'last', 'mode', 'listed'])

/** A sum of a column on a level that has a currency, where the column is not said to be in that currency (rule 13 of the semantics). */
export function mixedCurrencies(checked: CheckedText, levels: readonly LevelInfo[]): PreparedCell['mixes'] {
  const totals = checked.formulas.flatMap(totalsIn).filter(each => !unsummed.has(each.name))
  for (const total of totals) {
    if (total.value?.is !== 'field' || total.value.type !== 'number') continue
    const { field } = total.value
    // what is worked out, or is in the company's currency already, is the author's own conversion
    if (
      field.currency ||
      field.formula ||
      field.record ||
      /^base_|_base\b/.test(field.path) ||
      /company’s currency/.test(field.column.comment ?? '')
    )
      continue
    for (let at = field.level; at >= 0; at = levels[at]!.parent) {
      const currency = levels[at]!.fields.get('currency_code') ?? levels[at]!.fields.get('currency')
      if (currency?.type !== 'text') continue
      return {
        field,
        currency: currency.path,
        count: {
          is: 'total',
          type: 'number',
          name: 'distinct',
          level: at,
          value: { is: 'field', type: 'text', level: at, path: currency.path, field: currency },
        },
      }
    }
  }
  return undefined
}

/** The totals inside a formula. */
const totalsIn = (typed: Typed): (Typed & { is: 'total' })[] => (typed.is === 'total' ? [typed] : partsOf(typed).flatMap(totalsIn))

/** Is the field's level the table's, or one above it that has many records in a row of the table? */
const isBelow = (levels: readonly LevelInfo[], level: number, field: number) =>
  field === level || (field !== 0 && levels[level]!.parent >= 0 && field > 0)

/** A block that stands in the row of a table that does not begin at the left. */
const shifted = (block: PreparedBlock, by: number): PreparedBlock =>
  'x' in block ? Object.assign({ ...block }, { x: Number(block.x) + by }) : block
