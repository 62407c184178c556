import type { Block, RepeatBlock } from '../definition/blocks/block'
import type { LayoutDefinition } from '../definition/report'
import type { CellDefinition, ColumnDefinition, GroupDefinition, RowDefinition, TableBlock } from '../definition/blocks/table'
import type { PanelBlock } from '../definition/blocks/panel'
import type { PageSetup } from '../definition/page'
import type { ParameterType } from '../definition/parameters'
import type { DataSetDefinition } from '../definition/levels'
import type { TextStyle, ThemeDefinition } from '../definition/style'
import type { FieldInfo, LevelInfo, Scope, Typed } from '../formula/typed'
import { checkFormula } from '../formula/check'
import { fieldsUsed, partsOf, somePart } from '../formula/parts'
import { FormulaError, pathText } from '../formula/syntax'
import type { LedgerMap } from '../books/ledger'
import type { codePicture } from './codes'
import { type LayoutNotice, overlaps, plainContrast } from './notices'
import { type Bitmap, readPicture } from './pictures'
import type { PreparedChart } from './chart'
import type { PreparedTies } from './ties'
import { type PreparedStatement, prepareStatement, statementFields } from './statement'
import { type ResolvedStyle, resolveStyle, rowRole, themeNamed } from './style'
import { type Picture, PictureError } from './svgShapes'
import { type CheckedText, checkText, patternOf } from './text'

/** Something of a layout that cannot be printed: where it stands and one sentence; `from` and `to` are offsets in its text. */
export interface LayoutProblem {
  block: string
  cell?: string
  row?: string
  place: 'text' | 'outline' | 'showWhen' | 'level' | 'image' | 'group' | 'look' | 'sort' | 'accounts'
  sentence: string
  from: number
  to: number
}

export type PreparedItem = { id: string; x: number; y: number; width: number; showWhen?: Typed } & (
  | { kind: 'text'; text: CheckedText; style: ResolvedStyle }
  | { kind: 'image'; height: number; picture?: Picture | Bitmap; from?: Typed }
  | { kind: 'rule'; thickness: number; colour: string; height: number }
  | { kind: 'box'; height: number; fill?: string; border?: string; thickness: number }
  | { kind: 'code'; height: number; code: Parameters<typeof codePicture>[0]; text: CheckedText }
)
/** Items stand in order from the top. */
export interface PreparedPanel {
  kind: 'panel'
  block: PanelBlock
  level: number
  showWhen?: Typed
  items: PreparedItem[]
}
export interface PreparedRepeat {
  kind: 'repeat'
  block: RepeatBlock
  level: number
  showWhen?: Typed
  outline?: CheckedText
  language?: Typed
  inner: PreparedBlock[]
}
export interface PreparedColumn {
  column: ColumnDefinition
  x: number
  width: number
}
export interface PreparedCell {
  /** place among the columns that are shown */
  column: number
  span: number
  id: string
  text: CheckedText
  style: ResolvedStyle
  when?: Typed
  /** a number, printed with this pattern */
  pattern?: string
  picture?: Typed
  /** a sum of amounts that have no currency of their own: how many currencies the records have that it adds up */
  mixes?: { count: Typed; field: FieldInfo; currency: string }
}
export interface PreparedRow {
  row: RowDefinition
  /** the place of its group; −1 for rows of the table, the number of groups for lines */
  depth: number
  when?: Typed
  cells: PreparedCell[]
  fill?: string
  above?: string
  below?: string
  nested?: PreparedTable
  /**
   * rows of a literal table whose figures it adds up (1) and takes off (−1), by their ids, and how much deeper it lies in the outline of
   * a sheet
   */
  adds?: readonly { row: string; by: 1 | -1 }[]
  deeper?: number
}
export interface PreparedGroup {
  group: GroupDefinition
  by: Typed
  /** fields that tell its groups apart, where that is not the value itself; or the record of the level above */
  key?: string[] | 'ancestor'
  code?: string
  total?: Typed
  topTotal?: Typed
  having?: Typed
}
export interface PreparedLook {
  when: Typed
  columns: ReadonlySet<string>
  kinds: ReadonlySet<string>
  style: TextStyle
  mark: string
}
export interface PreparedTable {
  kind: 'table'
  block: TableBlock
  level: number
  showWhen?: Typed
  x: number
  width: number
  columns: PreparedColumn[]
  groups: PreparedGroup[]
  sort: { by: Typed; descending: boolean }[]
  rows: PreparedRow[]
  /** looks by the place of the row they are checked for: they may differ, since totals do */
  looks: PreparedLook[]
  theme: ThemeDefinition
}
export interface PreparedBreak {
  kind: 'break'
  showWhen?: Typed
}
export type PreparedBlock =
  PreparedPanel | PreparedRepeat | PreparedTable | PreparedStatement | PreparedChart | PreparedTies | PreparedBreak

/** A layout with all formulas checked and all widths found; it holds no data. */
export interface PreparedLayout {
  page: PageSetup & { width: number; height: number }
  theme: ThemeDefinition
  language: string
  top?: PreparedPanel
  foot?: PreparedPanel
  firstTop?: PreparedPanel
  firstFoot?: PreparedPanel
  documentName?: CheckedText
  blocks: PreparedBlock[]
  problems: LayoutProblem[]
  notices: LayoutNotice[]
  /** fields that are read, by level */
  used: Set<string>[]
  /** a total over the whole report, or a block outside the root's repeat, needs all records at once */
  needsAll: boolean
  /** page words that are known only when the whole run is composed */
  needsPageCount: boolean
  /** each root record's pages stand by themselves: they are the same whatever comes before */
  independent: boolean
}

const sizes: Record<Exclude<PageSetup['size'], 'own'>, [number, number]> = {
  A3: [841.89, 1190.55],
  A4: [595.28, 841.89],
  A5: [419.53, 595.28],
  Letter: [612, 792],
  Legal: [612, 1008],
}

/** Width and height of a page in points (ISO 216 and ANSI/ASME Y14.1; a size of its own is given upright). */
export function pageSize(page: PageSetup): { width: number; height: number } {
  const [short, long] = page.size === 'own' ? [page.width ?? 595.28, page.height ?? 841.89] : sizes[page.size]
  return page.orientation === 'portrait' ? { width: short, height: long } : { width: long, height: short }
}

/** Width in points that blocks can fill: that of one column where the page has several. */
export function bodyWidth(page: PageSetup): number {
  const all = pageSize(page).width - page.margins.left - page.margins.right
  const { count, gap } = page.columns ?? { count: 1, gap: 0 }
  return (all - gap * (count - 1)) / count
}

export interface LayoutSettings {
  parameters: Readonly<Record<string, ParameterType>>
  language: string
  themes?: readonly ThemeDefinition[]
  translations?: Readonly<Record<string, Readonly<Record<string, string>>>>
  /** where the source keeps its books */
  ledger?: LedgerMap
  /** tie-outs, for where they are printed */
  tieOuts?: { id: string; name: string }[]
}

export function prepareLayout(
  layout: LayoutDefinition,
  dataSet: DataSetDefinition,
  levels: readonly LevelInfo[],
  settings: LayoutSettings,
): PreparedLayout {
  const { parameters, language } = settings
  const size = pageSize(layout.page)
  const textWidth = bodyWidth(layout.page)
  const theme = themeNamed(layout.theme, settings.themes)
  const problems: LayoutProblem[] = []
  const notices: LayoutNotice[] = []
  const used = levels.map(() => new Set<string>())
  const all: Typed[] = []
  let needsPageCount = false

  const note = (typed: Typed) => {
    all.push(typed)
    for (const { level, path, field } of fieldsUsed(typed)) {
      used[level]!.add(path)
      if (field.currency) used[level]!.add(field.currency)
      if (field.dated) used[level]!.add(field.dated)
    }
  }
  const scopeAt = (level: number): Scope => ({ levels, level, parameters, page: true, language })
  const text = (source: string, scope: Scope, at: Omit<LayoutProblem, 'sentence' | 'from' | 'to'>): CheckedText => {
    try {
      const checked = checkText(source, scope, language, settings.translations)
      checked.formulas.forEach(note)
      return checked
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      problems.push({ ...at, sentence: error.message, from: error.from, to: error.to })
      // the author's own text stands on the page until it is mended
      return { lines: source.split('\n').map(literal => (literal ? [{ literal }] : [])), formulas: [], late: false }
    }
  }
  /** A formula that is not printed; `test` wants yes or no. */
  const formula = (
    source: string | undefined,
    scope: Scope,
    at: Omit<LayoutProblem, 'sentence' | 'from' | 'to'>,
    test = true,
  ): Typed | undefined => {
    if (!source) return undefined
    try {
      const typed = checkFormula(source, { ...scope, page: false })
      if (test && typed.type !== 'boolean') throw new FormulaError('A rule must be a test, such as discount > 0.', 0, source.length)
      note(typed)
      return typed
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      problems.push({ ...at, sentence: error.message, from: error.from, to: error.to })
      return undefined
    }
  }
  const rule = (block: Block, level: number) => formula(block.showWhen, scopeAt(level), { block: block.id, place: 'showWhen' })
  const panel = (block: PanelBlock, level: number): PreparedPanel => {
    notices.push(...overlaps(block, item => (item.kind === 'text' ? resolveStyle(theme, item.style).size : 0)))
    return {
      kind: 'panel',
      block,
      level,
      showWhen: rule(block, level),
      items: block.items
        .flatMap((item): PreparedItem[] => {
          const at = { block: block.id, cell: item.id }
          const showWhen = formula(item.showWhen, scopeAt(level), { ...at, place: 'showWhen' })
          const place = { id: item.id, x: item.x, y: item.y, width: item.width, ...(showWhen ? { showWhen } : {}) }
          switch (item.kind) {
            case 'text': {
              const style = resolveStyle(theme, item.style)
              notices.push(...plainContrast(style, style.fill, { ...at, part: 'item' }))
              return [{ ...place, kind: 'text', text: text(item.text, scopeAt(level), { ...at, place: 'text' }), style }]
            }
            case 'rule':
              return [{ ...place, kind: 'rule', thickness: item.thickness, colour: item.colour, height: item.height ?? 0 }]
            case 'box':
              return [
                {
                  ...place,
                  kind: 'box',
                  height: item.height,
                  ...(item.fill ? { fill: item.fill } : {}),
                  ...(item.border ? { border: item.border } : {}),
                  thickness: item.thickness ?? 0.75,
                },
              ]
            case 'code':
              return [
                {
                  ...place,
                  kind: 'code',
                  height: item.height,
                  code: item.code,
                  text: text(item.text, scopeAt(level), { ...at, place: 'text' }),
                },
              ]
            case 'image': {
              const from = formula(item.from, scopeAt(level), { ...at, place: 'image' }, false)
              if (from) return [{ ...place, kind: 'image', height: item.height, from }]
              try {
                return [{ ...place, kind: 'image', height: item.height, picture: readPicture(item.svg) }]
              } catch (error) {
                if (!(error instanceof PictureError)) throw error
                problems.push({ ...at, place: 'image', sentence: error.message, from: 0, to: 0 })
                return []
              }
            }
          }
        })
        .sort((a, b) => a.y - b.y),
    }
  }
  const levelNamed = (name: string, block: Block, under: number): number => {
    const found = levels.findIndex(level => level.name === name)
    if (found < 0)
      problems.push({
        block: block.id,
        place: 'level',
        sentence: `The level “${name}” of this block is not in the data set; choose another level or delete the block.`,
        from: 0,
        to: 0,
      })
    return found < 0 ? Math.max(under, 0) : found
  }
  const table = (block: TableBlock, under: number, room = textWidth): PreparedTable => {
    const level = levelNamed(block.level, block, under)
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
    const scopeOf = (depth: number): Scope => ({ ...scopeAt(level), groups: names, row: depth === names.length ? 'line' : depth })
    const groups = block.groups.flatMap((group, depth): PreparedGroup[] => {
      const at = { block: block.id, cell: group.id, place: 'group' as const }
      const by = formula(group.by, scopeAt(level), at, false)
      if (!by) return []
      const total =
        group.order.by === 'total'
          ? formula(group.order.total, { ...scopeAt(level), groups: names.slice(0, depth), row: depth }, at, false)
          : undefined
      const topTotal = group.top && formula(group.top.total, { ...scopeAt(level), groups: names.slice(0, depth), row: depth }, at, false)
      const having = formula(group.having, { ...scopeAt(level), groups: names.slice(0, depth), row: depth }, at)
      const keyed = keyOfGroup(levels, level, by)
      for (const path of [...(Array.isArray(keyed.key) ? keyed.key : []), ...(keyed.code ? [keyed.code] : [])]) used[keyed.level]!.add(path)
      return [
        {
          group,
          by,
          ...(keyed.key ? { key: keyed.key } : {}),
          ...(keyed.code ? { code: keyed.code } : {}),
          ...(total ? { total } : {}),
          ...(topTotal ? { topTotal } : {}),
          ...(having ? { having } : {}),
        },
      ]
    })
    const looks = (block.looks ?? []).flatMap((each): PreparedLook[] => {
      const when = formula(each.when, scopeOf(each.kinds?.some(kind => kind !== 'line' && kind !== 'extra') ? 0 : names.length), {
        block: block.id,
        cell: each.id,
        place: 'look',
      })
      return when
        ? [{ when, columns: new Set(each.columns), kinds: new Set(each.kinds ?? ['line']), style: each.style, mark: each.mark ?? '' }]
        : []
    })
    const sort = (block.sort ?? []).flatMap(each => {
      const by = formula(each.field, scopeAt(level), { block: block.id, place: 'sort' }, false)
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
      const scope = scopeOf(line || row.kind === 'forward' || row.kind === 'brought' ? names.length : depth)
      const own = row.kind === 'forward' || row.kind === 'brought' ? { ...scope, row: -1 } : scope
      const when = formula(row.when, scope, { ...at, place: 'showWhen' })
      const cells = shown.flatMap((column, index): PreparedCell[] => {
        const cell = row.cells[column.id]
        if (!cell) return []
        // a total under its column follows the column's look; the kind of row says the rest
        const resolved = resolveStyle(theme, column.style, role, row.style, cell.style)
        const checked = text(cell.text, own, { ...at, cell: column.id, place: 'text' })
        const only =
          checked.lines.length === 1 && checked.lines[0]!.length === 1 && 'typed' in checked.lines[0]![0]!
            ? checked.lines[0]![0]
            : undefined
        const pattern = only && only.typed.type === 'number' ? patternOf(only.typed, only.pattern) : undefined
        notices.push(...plainContrast(resolved, resolved.fill ?? style.fill, { ...at, cell: column.id, part: row.kind }))
        if (!line) notices.push(...strayFields(checked, cell, column.id, row, block, level, groups, levels))
        const cellWhen = formula(cell.when, scope, { ...at, cell: column.id, place: 'showWhen' })
        const mixes = line ? undefined : mixedCurrencies(checked, levels)
        if (mixes) note(mixes.count)
        const picture = formula(cell.picture, scope, { ...at, cell: column.id, place: 'image' }, false)
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
      const nested = row.nested && table(row.nested, level, width)
      if (nested) nested.x += block.left
      if (nested) nested.columns.forEach(column => (column.x += block.left))
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
        },
      ]
    })
    return { kind: 'table', block, level, showWhen: rule(block, under), x: block.left, width, columns, groups, sort, rows, looks, theme }
  }
  const languageOf = (block: RepeatBlock, own: number): { language?: Typed } => {
    const typed = formula(block.language, scopeAt(own), { block: block.id, place: 'outline' }, false)
    return typed ? { language: typed } : {}
  }
  const blocks = (list: readonly Block[], level: number): PreparedBlock[] =>
    list.map((block): PreparedBlock => {
      switch (block.kind) {
        case 'panel':
          return panel(block, level)
        case 'table':
          return table(block, level)
        case 'break':
          return { kind: 'break', showWhen: rule(block, level) }
        case 'statement': {
          const own = levelNamed(block.level, block, level)
          for (const path of statementFields) if (levels[own]?.fields.has(path)) used[own]!.add(path)
          return prepareStatement(block, own, textWidth, rule(block, level), {
            scope: scopeAt(own),
            theme,
            ledger: settings.ledger,
            text: (source, at) => text(source, scopeAt(own), at),
            formula: (source, at) => formula(source, scopeAt(own), at, false),
            problem: problem => problems.push(problem),
          })
        }
        case 'ties':
          return {
            kind: 'ties',
            block,
            level,
            showWhen: rule(block, level),
            x: block.left,
            width: block.width || Math.max(60, textWidth - block.left),
            theme,
            names: settings.tieOuts ?? [],
          }
        case 'chart': {
          const title = block.title ? text(block.title, scopeAt(level), { block: block.id, place: 'outline' }) : undefined
          return {
            kind: 'chart',
            block,
            showWhen: rule(block, level),
            x: block.left,
            width: block.width || Math.max(60, textWidth - block.left),
            theme,
            ...(title ? { title } : {}),
          }
        }
        case 'repeat': {
          const own = levelNamed(block.level, block, level)
          return {
            kind: 'repeat',
            block,
            level: own,
            showWhen: rule(block, level),
            ...(block.outline ? { outline: text(block.outline, scopeAt(own), { block: block.id, place: 'outline' }) } : {}),
            ...languageOf(block, own),
            inner: blocks(block.blocks, own),
          }
        }
      }
    })

  const prepared = blocks(layout.blocks, 0)
  const inside = (list: readonly PreparedBlock[]): PreparedBlock[] =>
    list.flatMap(block => (block.kind === 'repeat' ? [block, ...inside(block.inner)] : [block]))
  for (const chart of inside(prepared)) {
    if (chart.kind !== 'chart') continue
    const { block } = chart
    const drawn = inside(prepared).find((each): each is PreparedStatement => each.kind === 'statement' && each.block.id === block.statement)
    if (drawn) chart.statement = drawn
    const gone = drawn ? block.series.find(each => !drawn.block.lines.some(line => line.id === each.line)) : undefined
    if (!drawn)
      problems.push({
        block: block.id,
        place: 'level',
        sentence: `The chart draws the statement “${block.statement}”, which is not on this layout; choose another.`,
        from: 0,
        to: 0,
      })
    else if (gone)
      problems.push({
        block: block.id,
        place: 'level',
        sentence: `The chart draws the line “${gone.line}”, which is not in the statement any more; take it out of the chart.`,
        from: 0,
        to: 0,
      })
  }
  const margin = layout.blocks[0]?.kind === 'repeat' && prepared[0]?.kind === 'repeat' ? prepared[0].level : 0
  const [top, foot, firstTop, firstFoot] = [layout.top, layout.foot, layout.firstTop, layout.firstFoot].map(
    each => each && panel(each, margin),
  )
  const documentName = layout.documentName
    ? text(layout.documentName, scopeAt(margin), { block: layout.blocks[0]?.id ?? '', place: 'outline' })
    : undefined
  const restarts = prepared.every(block => block.kind === 'repeat' && block.block.restartNumbers)
  needsPageCount = all.some(typed =>
    somePart(typed, part => part.is === 'page' && (part.word === 'overallCount' || (part.word === 'count' && !restarts))),
  )
  const streams = prepared.every(block => block.kind === 'repeat' && block.level === 0) && prepared.length === 1
  const needsAll = !streams || all.some(typed => somePart(typed, part => part.is === 'total' && part.over === 'report'))
  return {
    page: { ...layout.page, ...size },
    theme,
    language,
    top,
    foot,
    firstTop,
    firstFoot,
    ...(documentName ? { documentName } : {}),
    blocks: prepared,
    problems,
    notices,
    used,
    needsAll,
    needsPageCount,
    independent:
      !needsAll &&
      restarts &&
      !needsPageCount &&
      !all.some(typed => somePart(typed, part => part.is === 'page' && part.word === 'overall')),
  }
}

/** Widths in points that always fill the table: fixed ones as given, the rest shared; too many fixed ones shrink together. */
export function columnWidths(columns: readonly Pick<ColumnDefinition, 'width'>[], width: number): number[] {
  const least = 24
  const stretching = columns.filter(column => column.width === 0).length
  const fixed = columns.reduce((sum, column) => sum + column.width, 0)
  const room = width - stretching * least
  const factor = fixed > room || (stretching === 0 && fixed > 0) ? room / fixed : 1
  const share = stretching ? (width - fixed * factor) / stretching : 0
  return columns.map(column => (column.width === 0 ? share : column.width * factor))
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

const naming = /^(name|title|label|caption|description|code|number)$|_name$/

/** What tells the groups of a field apart: the key of the record that it names, else its value (rule 2 of the semantics). */
function keyOfGroup(levels: readonly LevelInfo[], level: number, by: Typed): { level: number; key?: string[] | 'ancestor'; code?: string } {
  if (by.is !== 'field' || !naming.test(by.field.column.name)) return { level }
  const { record } = by.field
  const owner = levels[by.level]!
  if (!record) return by.level === level ? { level } : { level, key: 'ancestor' }
  let list = owner.definition.related
  let on: readonly { to: string }[] = []
  for (const name of record.split('.')) {
    const found = list.find(each => each.name === name)
    if (!found) return { level: by.level }
    on = found.on
    list = found.related
  }
  const key = on.map(pair => `${record}.${pair.to}`)
  if (!key.every(path => owner.fields.has(path))) return { level: by.level }
  const code = ['code', 'number'].map(name => `${record}.${name}`).find(path => owner.fields.has(path) && path !== by.path) ?? key[0]!
  return { level: by.level, key, code }
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

/** A sum of a column on a level that has a currency, where the column is not said to be in that currency (rule 13 of the semantics). */
function mixedCurrencies(checked: CheckedText, levels: readonly LevelInfo[]): PreparedCell['mixes'] {
  for (const total of checked.formulas) {
    if (total.is !== 'total' || total.name !== 'sum' || total.value?.is !== 'field') continue
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

/** Is the field's level the table's, or one above it that has many records in a row of the table? */
const isBelow = (levels: readonly LevelInfo[], level: number, field: number) =>
  field === level || (field !== 0 && levels[level]!.parent >= 0 && field > 0)

function outsideTotals(typed: Typed): (Typed & { is: 'field' })[] {
  if (typed.is === 'field') return [typed]
  if (typed.is === 'total' || typed.is === 'running' || typed.is === 'rank' || typed.is === 'has' || typed.is === 'carried') return []
  return partsOf(typed).flatMap(outsideTotals)
}
