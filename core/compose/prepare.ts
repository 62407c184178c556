import type { Block, ColumnDefinition, DataSetDefinition, LayoutDefinition, PageSetup, PanelBlock, ParameterType, RepeatBlock, TableBlock } from '../definition/types'
import type { LevelInfo } from '../dataset/levels'
import { checkFormula, fieldsUsed, type Scope, somePart, type Typed } from '../formula/check'
import { FormulaError } from '../formula/syntax'
import { type ResolvedStyle, look, resolveStyle } from './style'
import { type Picture, PictureError, readSvg } from './svgShapes'
import { type CheckedText, checkText, singleValue } from './text'

/** Something of a layout that cannot be printed: where it stands and one sentence; `from` and `to` are offsets in its text. */
export interface LayoutProblem { block: string, cell?: string, place: 'text' | 'outline' | 'title' | 'end' | 'showWhen' | 'level' | 'image', sentence: string, from: number, to: number }

export type PreparedItem = { id: string, x: number, y: number, width: number } & (
  | { kind: 'text', text: CheckedText, style: ResolvedStyle }
  | { kind: 'image', height: number, picture: Picture }
  | { kind: 'rule', thickness: number, colour: string }
)
/** Items stand in order from the top. */
export interface PreparedPanel { kind: 'panel', block: PanelBlock, level: number, showWhen?: Typed, items: PreparedItem[] }
export interface PreparedRepeat { kind: 'repeat', block: RepeatBlock, level: number, showWhen?: Typed, outline?: CheckedText, inner: PreparedBlock[] }
export interface PreparedColumn {
  column: ColumnDefinition
  x: number
  width: number
  title: CheckedText
  text: CheckedText
  end: CheckedText
  carried?: CheckedText
  styles: { titles: ResolvedStyle, line: ResolvedStyle, end: ResolvedStyle, carried: ResolvedStyle }
}
export interface PreparedTable { kind: 'table', block: TableBlock, level: number, showWhen?: Typed, x: number, width: number, columns: PreparedColumn[] }
export interface PreparedBreak { kind: 'break', showWhen?: Typed }
export type PreparedBlock = PreparedPanel | PreparedRepeat | PreparedTable | PreparedBreak

/** A layout with all formulas checked and all widths found; it holds no data. */
export interface PreparedLayout {
  page: PageSetup & { width: number, height: number }
  top?: PreparedPanel
  foot?: PreparedPanel
  blocks: PreparedBlock[]
  problems: LayoutProblem[]
  /** fields that are read, by level */
  used: Set<string>[]
  /** a total over the whole report, or a block outside the root's repeat, needs all records at once */
  needsAll: boolean
  /** page words that are known only when the whole run is composed */
  needsPageCount: boolean
  /** each root record's pages stand by themselves: they are the same whatever comes before */
  independent: boolean
}

const sizes: Record<PageSetup['size'], [number, number]> = { A4: [595.28, 841.89], Letter: [612, 792] }

/** Width and height of a page in points. */
export function pageSize(page: PageSetup): { width: number, height: number } {
  const [short, long] = sizes[page.size]
  return page.orientation === 'portrait' ? { width: short, height: long } : { width: long, height: short }
}

export function prepareLayout(layout: LayoutDefinition, dataSet: DataSetDefinition, levels: readonly LevelInfo[], parameters: Readonly<Record<string, ParameterType>>, language: string): PreparedLayout {
  const size = pageSize(layout.page)
  const textWidth = size.width - layout.page.margins.left - layout.page.margins.right
  const problems: LayoutProblem[] = []
  const used = levels.map(() => new Set<string>())
  const all: Typed[] = []
  let needsPageCount = false

  const note = (typed: Typed) => {
    all.push(typed)
    for (const { level, path } of fieldsUsed(typed)) used[level]!.add(path)
  }
  const scopeAt = (level: number): Scope => ({ levels, level, parameters, page: true })
  const text = (source: string, level: number, at: Omit<LayoutProblem, 'sentence' | 'from' | 'to'>): CheckedText => {
    try {
      const checked = checkText(source, scopeAt(level), language)
      checked.formulas.forEach(note)
      return checked
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      problems.push({ ...at, sentence: error.message, from: error.from, to: error.to })
      // the author's own text stands on the page until it is mended
      return { lines: source.split('\n').map(literal => literal ? [{ literal }] : []), formulas: [], late: false }
    }
  }
  const rule = (block: Block, level: number): Typed | undefined => {
    if (!block.showWhen) return undefined
    try {
      const typed = checkFormula(block.showWhen, { ...scopeAt(level), page: false })
      if (typed.type !== 'boolean') throw new FormulaError('A rule must be a test, such as discount > 0.', 0, block.showWhen.length)
      note(typed)
      return typed
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      problems.push({ block: block.id, place: 'showWhen', sentence: error.message, from: error.from, to: error.to })
      return undefined
    }
  }
  const panel = (block: PanelBlock, level: number): PreparedPanel => ({
    kind: 'panel', block, level, showWhen: rule(block, level),
    items: block.items.flatMap((item): PreparedItem[] => {
      const place = { id: item.id, x: item.x, y: item.y, width: item.width }
      if (item.kind === 'text') return [{ ...place, kind: 'text', text: text(item.text, level, { block: block.id, cell: item.id, place: 'text' }), style: resolveStyle(item.style) }]
      if (item.kind === 'rule') return [{ ...place, kind: 'rule', thickness: item.thickness, colour: item.colour }]
      try {
        return [{ ...place, kind: 'image', height: item.height, picture: readSvg(item.svg) }]
      } catch (error) {
        if (!(error instanceof PictureError)) throw error
        problems.push({ block: block.id, cell: item.id, place: 'image', sentence: error.message, from: 0, to: 0 })
        return []
      }
    }).sort((a, b) => a.y - b.y),
  })
  const levelNamed = (name: string, block: Block, under: number): number => {
    const found = levels.findIndex(level => level.name === name)
    if (found < 0) problems.push({ block: block.id, place: 'level', sentence: `The level “${name}” of this block is not in the data set; choose another level or delete the block.`, from: 0, to: 0 })
    return found < 0 ? Math.max(under, 0) : found
  }
  const table = (block: TableBlock, under: number): PreparedTable => {
    const level = levelNamed(block.level, block, under)
    const width = block.width || textWidth - block.left
    const widths = columnWidths(block.columns, width)
    let x = block.left
    const columns = block.columns.map((column, index): PreparedColumn => {
      const at = { block: block.id, cell: column.id }
      const style = column.style ?? {}
      const prepared: PreparedColumn = {
        column, x, width: widths[index]!,
        title: text(column.title, level, { ...at, place: 'title' }),
        text: text(column.text, level, { ...at, place: 'text' }),
        end: text(column.end, level, { ...at, place: 'end' }),
        styles: {
          titles: resolveStyle({ ...style, size: look.small, bold: true, italic: false, colour: look.ink }),
          line: resolveStyle(style),
          end: resolveStyle({ ...style, bold: true }),
          carried: resolveStyle({ ...style, italic: true, bold: false, colour: look.soft }),
        },
      }
      if (column.carry && block.carried) {
        const single = singleValue(column.text)
        const carried = single ? `{{ carried(${single.formula})${single.pattern ? ` | ${single.pattern}` : ''} }}` : ''
        prepared.carried = text(carried, level, { ...at, place: 'text' })
      }
      x += widths[index]!
      return prepared
    })
    return { kind: 'table', block, level, showWhen: rule(block, under), x: block.left, width, columns }
  }
  const blocks = (list: readonly Block[], level: number): PreparedBlock[] => list.map((block): PreparedBlock => {
    switch (block.kind) {
      case 'panel': return panel(block, level)
      case 'table': return table(block, level)
      case 'break': return { kind: 'break', showWhen: rule(block, level) }
      case 'repeat': {
        const own = levelNamed(block.level, block, level)
        return { kind: 'repeat', block, level: own, showWhen: rule(block, level), ...(block.outline ? { outline: text(block.outline, own, { block: block.id, place: 'outline' }) } : {}), inner: blocks(block.blocks, own) }
      }
    }
  })

  const prepared = blocks(layout.blocks, 0)
  const margin = layout.blocks[0]?.kind === 'repeat' && prepared[0]?.kind === 'repeat' ? prepared[0].level : 0
  const top = layout.top && panel(layout.top, margin)
  const foot = layout.foot && panel(layout.foot, margin)
  const restarts = prepared.every(block => block.kind === 'repeat' && block.block.restartNumbers)
  needsPageCount = all.some(typed => somePart(typed, part => part.is === 'page' && (part.word === 'overallCount' || (part.word === 'count' && !restarts))))
  const streams = prepared.every(block => block.kind === 'repeat' && block.level === 0) && prepared.length === 1
  const needsAll = !streams || all.some(typed => somePart(typed, part => part.is === 'total' && part.over === 'report'))
  return { page: { ...layout.page, ...size }, top, foot, blocks: prepared, problems, used, needsAll, needsPageCount, independent: !needsAll && restarts && !needsPageCount && !all.some(typed => somePart(typed, part => part.is === 'page' && part.word === 'overall')) }
}

/** Widths in points that always fill the table: fixed ones as given, the rest shared; too many fixed ones shrink together. */
export function columnWidths(columns: readonly ColumnDefinition[], width: number): number[] {
  const least = 24
  const stretching = columns.filter(column => column.width === 0).length
  const fixed = columns.reduce((sum, column) => sum + column.width, 0)
  const room = width - stretching * least
  const factor = fixed > room || (stretching === 0 && fixed > 0) ? room / fixed : 1
  const share = stretching ? (width - fixed * factor) / stretching : 0
  return columns.map(column => column.width === 0 ? share : column.width * factor)
}
