import type { PanelBlock } from '../../definition/blocks/panel'
import type { Standing } from '../../formula/standing'
import { overlaps, plainContrast } from '../notices'
import { drawPanel, measurePanel, type PanelPiece } from '../panel'
import { readPicture } from '../pictures'
import type { Typed } from '../../formula/typed'
import type { Alternative, PreparedItem, PreparedPanel } from '../prepared'
import { resolveStyle } from '../style'
import { PictureError } from '../svgShapes'
import { somePart } from '../../formula/parts'
import { type CheckedText, onlyValue } from '../text'
import type { GridCell, GridFlow } from '../gridRows'
import { type BlockKind, said } from './contract'

/** Freely placed texts, pictures, lines and codes. */
export const panelKind: BlockKind<PanelBlock, PreparedPanel> = {
  kind: 'panel',
  prepare(block, level, scope) {
    const { theme } = scope
    scope.notice(...overlaps(block, item => (item.kind === 'text' ? resolveStyle(theme, item.style).size : 0)))
    return {
      kind: 'panel',
      block,
      level,
      showWhen: scope.rule(block, level),
      items: block.items
        .flatMap((item): PreparedItem[] => {
          const at = { block: block.id, cell: item.id }
          const showWhen = scope.formula(item.showWhen, scope.at(level), { ...at, place: 'showWhen' })
          const told = 'alt' in item ? item.alt : undefined
          const alt: { alt?: Alternative } =
            told === undefined
              ? {}
              : { alt: told === '' ? 'decoration' : scope.text(told, scope.at(level), { ...at, place: 'alternative' }) }
          const place = { id: item.id, x: item.x, y: item.y, width: item.width, ...(showWhen ? { showWhen } : {}) }
          switch (item.kind) {
            case 'text': {
              const style = resolveStyle(theme, item.style)
              scope.notice(...plainContrast(style, style.fill, { ...at, part: 'item' }))
              return [{ ...place, kind: 'text', text: scope.text(item.text, scope.at(level), { ...at, place: 'text' }), style }]
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
                  text: scope.text(item.text, scope.at(level), { ...at, place: 'text' }),
                  ...alt,
                },
              ]
            case 'payment': {
              const terms = new Map<string, Typed>()
              for (const [id, formula] of Object.entries(item.terms)) {
                const typed = scope.formula(formula, scope.at(level), { ...at, place: 'term' }, false)
                if (typed) terms.set(id, typed)
              }
              return [{ ...place, kind: 'payment', height: item.height, terms, ...alt }]
            }
            case 'image': {
              const from = scope.formula(item.from, scope.at(level), { ...at, place: 'image' }, false)
              if (from) return [{ ...place, kind: 'image', height: item.height, from, ...alt }]
              try {
                return [{ ...place, kind: 'image', height: item.height, picture: readPicture(item.svg), ...alt }]
              } catch (error) {
                if (!(error instanceof PictureError)) throw error
                scope.problem({ ...at, place: 'image', sentence: error.message, from: 0, to: 0 })
                return []
              }
            }
          }
        })
        .sort((a, b) => a.y - b.y),
    }
  },
  *compose(panel, at, composer) {
    const { paper } = composer
    paper.open()
    const key = composer.rowKey(at)
    const { pieces, height } = measurePanel(composer, panel, at)
    if (!paper.fresh && paper.y + height > paper.bodyBottom) yield* paper.newPage()
    if (panel.block.atBottom && !paper.nested) paper.y = Math.max(paper.y, paper.bodyBottom - height)
    if (paper.y + height <= paper.bodyBottom) {
      drawPanel(composer, panel, pieces, paper.y, height, at, key)
      paper.y += height
      return
    }
    // taller than a page: it breaks between lines of text, from its top to its bottom
    let shift = paper.y
    let part: PanelPiece[] = []
    let first = 0
    let bottom = 0
    const drawPart = () => {
      const inOrder = part.map(piece => ({ ...piece, y: piece.y - first })).sort((a, b) => (a.id < b.id ? -1 : a.id > b.id ? 1 : a.y - b.y))
      drawPanel(composer, panel, inOrder, shift + first, bottom - first, at, key)
    }
    for (const piece of [...pieces].sort((a, b) => a.y - b.y)) {
      if (part.length && shift + piece.y + piece.height > paper.bodyBottom) {
        drawPart()
        yield* paper.newPage()
        first = piece.y
        shift = paper.y - first
        part = []
      }
      part.push(piece)
      bottom = piece.y + piece.height
    }
    drawPart()
    paper.y = Math.min(shift + bottom, paper.bodyBottom)
  },
  *grid(panel, at, grid) {
    yield* panelRows(panel, at, grid)
    if (panel.block.after > 4) yield grid.blank()
  },
  textAt: ({ block, items }, at) => {
    const item = block.id === at.block ? items.find(each => each.id === at.cell) : undefined
    return item && 'text' in item ? item.text : undefined
  },
  wordings: block => ({
    texts: block.items.flatMap(item => (item.kind === 'text' || item.kind === 'code' ? [item.text] : [])),
    formulas: said(block.showWhen, ...block.items.flatMap(item => [item.showWhen, item.kind === 'image' ? item.from : undefined])),
  }),
}

/** Texts of a panel that begin at about the same height stand in one row of a sheet; what has no column there goes on in the next one. */
export function* panelRows(panel: PreparedPanel, at: Standing, grid: GridFlow): ReturnType<NonNullable<typeof panelKind.grid>> {
  const { values } = grid
  // a sheet has no pages: only the moment at which it is made is known of them
  const { printed } = grid.composer.paper.options
  const own: Standing = { ...at, page: printed === undefined ? {} : { printed } }
  const texts = panel.items
    .flatMap(item => {
      if (item.kind !== 'text' || (item.showWhen && !values.holds(item.showWhen, at))) return []
      const text = withoutPages(item.text)
      const lines = text ? values.print(text)(own).split('\n') : []
      return lines.map((line, index) => ({ item, line, single: lines.length === 1, y: item.y + index * item.style.size * 1.3 }))
    })
    .filter(each => each.line !== '')
    .sort((a, b) => a.y - b.y || a.item.x - b.item.x)
  for (let from = 0; from < texts.length;) {
    let to = from
    while (to < texts.length && texts[to]!.y < texts[from]!.y + 5) to++
    let row = texts.slice(from, to).sort((a, b) => a.item.x - b.item.x)
    while (row.length) {
      const columns = grid.placed(row.map(({ item }) => ({ x: item.x, width: item.width, right: item.style.align === 'right' })))
      const cells = row.flatMap(({ item, line, single }, index): GridCell[] => {
        const column = columns[index]
        if (column === undefined) return []
        const only = single ? onlyValue(item.text.lines) : undefined
        return [{ column, id: item.id, text: line, style: item.style, ...(only ? grid.valued(only.typed, only.pattern, at) : {}) }]
      })
      yield { row: { kind: 'panel', cells, depth: 0, nodes: [] } }
      row = row.filter((_, index) => columns[index] === undefined)
    }
    from = to
  }
}

const pageless = new WeakMap<CheckedText, CheckedText | undefined>()
/** A text without its lines that speak of the numbers of pages; nothing where none is left. */
function withoutPages(text: CheckedText): CheckedText | undefined {
  if (!text.late) return text
  if (!pageless.has(text)) {
    const numbered = (part: CheckedText['lines'][number][number]) =>
      'typed' in part && somePart(part.typed, each => each.is === 'page' && each.word !== 'printed')
    const kept = (own: CheckedText) => ({ ...own, lines: own.lines.filter(line => !line.some(numbered)) })
    const found = kept(text)
    const { inLanguage } = text
    if (inLanguage) found.inLanguage = language => kept(inLanguage(language))
    pageless.set(text, found.lines.length ? found : undefined)
  }
  return pageless.get(text)
}
