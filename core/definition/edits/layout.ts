import { changedList } from '../blocks/shape'
import { freeId } from '../names'
import { isRepeat, type Block, type RepeatBlock } from '../blocks/block'
import type { LayoutDefinition, ReportDefinition } from '../report'
import type { RowKind } from '../blocks/table'
import type { PanelBlock } from '../blocks/panel'
import type { PageSetup } from '../page'
import type { TextStyle, ThemeDefinition } from '../style'
import { blocksOf, edges, findBlock, layoutNamed, layoutOf, changeInside } from '../walk'

/** Edits of layouts and their blocks. Block ids are unique within a report, so that a block is found in whichever layout it stands. */

/**
 * Where an editable text stands: an item of a panel, or a cell of a table's row (the first row of its kind where `row` does not name
 * another).
 */
export interface TextPlace {
  block: string
  cell: string
  part: 'item' | RowKind
  row?: string
}

function changeLayout(report: ReportDefinition, name: string, change: (layout: LayoutDefinition) => LayoutDefinition): ReportDefinition {
  let changed = false
  const layouts = report.layouts.map(layout => {
    if (layout.name !== name) return layout
    const next = change(layout)
    changed ||= next !== layout
    return next
  })
  return changed ? { ...report, layouts } : report
}

/** Changes the list of blocks in which a block stands. */
function changeSiblings(report: ReportDefinition, id: string, change: (list: Block[], index: number) => Block[]): ReportDefinition {
  const list = (blocks: Block[]): Block[] => {
    const index = blocks.findIndex(block => block.id === id)
    if (index >= 0) return change(blocks, index)
    return changedList(blocks, block => {
      if (!('blocks' in block)) return block
      const inner = list(block.blocks)
      return inner === block.blocks ? block : { ...block, blocks: inner }
    })
  }
  const layouts = report.layouts.map(layout => {
    const blocks = list(layout.blocks)
    return blocks === layout.blocks ? layout : { ...layout, blocks }
  })
  return layouts.every((layout, at) => layout === report.layouts[at]) ? report : { ...report, layouts }
}

/** Changes the block with an id; `undefined` from `change` takes it out. */
export function changeBlock(report: ReportDefinition, id: string, change: (block: Block) => Block | undefined): ReportDefinition {
  const apply = (block: Block): Block | undefined => (block.id === id ? change(block) : changeInside(block, apply))
  const layouts = report.layouts.map(layout => {
    const next = { ...layout, blocks: changedList(layout.blocks, apply) }
    for (const edge of edges) {
      if (!layout[edge]) continue
      const panel = apply(layout[edge]!) as PanelBlock | undefined
      if (panel) next[edge] = panel
      else Reflect.deleteProperty(next, edge)
    }
    return next.blocks === layout.blocks && edges.every(edge => next[edge] === layout[edge]) ? layout : next
  })
  return layouts.every((layout, at) => layout === report.layouts[at]) ? report : { ...report, layouts }
}

/** Leaves out the members that are undefined or an empty text, except a text itself. */
export function without<T extends object>(value: T): T {
  return Object.fromEntries(
    Object.entries(value).filter(([key, each]) => each !== undefined && (each !== '' || key === 'text' || key === 'svg' || key === 'alt')),
  ) as T
}

export function setShowWhen(report: ReportDefinition, block: string, rule: string): ReportDefinition {
  return changeBlock(report, block, found => {
    const { showWhen: _, ...rest } = found
    return (rule.trim() ? { ...rest, showWhen: rule } : rest) as Block
  })
}

export function setAfter(report: ReportDefinition, block: string, after: number): ReportDefinition {
  return changeBlock(report, block, found => ({ ...found, after }))
}

export function setAtBottom(report: ReportDefinition, block: string, atBottom: boolean): ReportDefinition {
  return changeBlock(report, block, found => {
    const { atBottom: _, ...rest } = found
    return (atBottom ? { ...rest, atBottom } : rest) as Block
  })
}

/** How a repeat goes over its records. */
export function setRepeat(
  report: ReportDefinition,
  block: string,
  change: Partial<Pick<RepeatBlock, 'newPage' | 'restartNumbers' | 'outline' | 'language' | 'level'>>,
): ReportDefinition {
  return changeBlock(report, block, found => (isRepeat(found) ? without({ ...found, ...change }) : found))
}

export function removeBlock(report: ReportDefinition, block: string): ReportDefinition {
  return changeBlock(report, block, () => undefined)
}

const taken = (report: ReportDefinition) => report.layouts.flatMap(layout => blocksOf(layout).map(block => block.id))

/** The same block with ids that are not taken, its inner blocks too. */
function renewed<T extends Block>(block: T, ids: string[]): T {
  const id = freeId(block.id.replace(/\d+$/, '') || block.kind, ids, true)
  ids.push(id)
  return changeInside({ ...block, id }, inner => renewed(inner, ids)) as T
}

/** Puts a block before or after another one, or at the end of a layout; its ids are made free. */
export function insertBlock(
  report: ReportDefinition,
  block: Block,
  at: { beside: string; side: 'before' | 'after' } | { layout: string } | { within: string },
): ReportDefinition {
  const fresh = renewed(block, taken(report))
  if ('layout' in at) return changeLayout(report, at.layout, layout => ({ ...layout, blocks: [...layout.blocks, fresh] }))
  if ('within' in at)
    return changeBlock(report, at.within, found => (isRepeat(found) ? { ...found, blocks: [...found.blocks, fresh] } : found))
  return changeSiblings(report, at.beside, (list, index) => {
    const next = [...list]
    next.splice(at.side === 'before' ? index : index + 1, 0, fresh)
    return next
  })
}

/** A second one like it, right after it. */
export function duplicateBlock(report: ReportDefinition, id: string): ReportDefinition {
  const block = findBlock(report, id)
  return block ? insertBlock(report, block, { beside: id, side: 'after' }) : report
}

/** Moves a block before or after another one, wherever that stands; not into itself. */
export function moveBlock(report: ReportDefinition, id: string, beside: string, side: 'before' | 'after'): ReportDefinition {
  const block = findBlock(report, id)
  if (!block || id === beside || !layoutOf(report, beside)) return report
  const inside = (each: Block): boolean => each.id === beside || (isRepeat(each) && each.blocks.some(inside))
  if (inside(block)) return report
  const out = removeBlock(report, id)
  const moved = changeSiblings(out, beside, (list, index) => {
    const next = [...list]
    next.splice(side === 'before' ? index : index + 1, 0, block)
    return next
  })
  return moved === out ? report : moved
}

/** Moves a block one place up or down among its neighbours. */
export function shiftBlock(report: ReportDefinition, id: string, by: -1 | 1): ReportDefinition {
  return changeSiblings(report, id, (list, index) => {
    const to = index + by
    if (to < 0 || to >= list.length) return list
    const next = [...list]
    next.splice(to, 0, ...next.splice(index, 1))
    return next
  })
}

/** Puts a block into a new repeat over the records of a level. */
export function wrapInRepeat(report: ReportDefinition, id: string, level: string): ReportDefinition {
  const repeat = freeId(`each_${level}`, taken(report), true)
  return changeSiblings(report, id, (list, index) =>
    list.map((block, at): Block =>
      at === index ? { kind: 'repeat', id: repeat, level, newPage: false, restartNumbers: false, after: 0, blocks: [block] } : block,
    ),
  )
}

/** Takes a repeat away and leaves its blocks where it stood. */
export function unwrapRepeat(report: ReportDefinition, id: string): ReportDefinition {
  return changeSiblings(report, id, (list, index) => {
    const repeat = list[index]!
    return isRepeat(repeat) ? [...list.slice(0, index), ...repeat.blocks, ...list.slice(index + 1)] : list
  })
}

/** Page set-up of the layout on which a block stands. */
export function setPageOf(report: ReportDefinition, block: string, change: Partial<PageSetup>): ReportDefinition {
  return setPage(report, change, layoutOf(report, block)?.name)
}

/** Paper, margins and columns of a layout; the default one where none is named. */
export function setPage(report: ReportDefinition, change: Partial<PageSetup>, layout = layoutNamed(report).name): ReportDefinition {
  return changeLayout(report, layout, found => ({ ...found, page: without({ ...found.page, ...change }) }))
}

/** Other settings of a layout. */
export function setLayout(
  report: ReportDefinition,
  layout: string,
  change: Partial<Pick<LayoutDefinition, 'theme' | 'letterhead' | 'documentName' | 'archive' | 'top' | 'foot' | 'firstTop' | 'firstFoot'>>,
): ReportDefinition {
  return changeLayout(report, layout, found => without({ ...found, ...change }))
}

/** An empty page top or foot, to be written on. */
export function addEdge(report: ReportDefinition, layout: string, edge: (typeof edges)[number]): ReportDefinition {
  const id = freeId({ top: 'pageTop', foot: 'pageFoot', firstTop: 'firstPageTop', firstFoot: 'firstPageFoot' }[edge], taken(report), true)
  return changeLayout(report, layout, found =>
    found[edge]
      ? found
      : {
          ...found,
          [edge]: {
            kind: 'panel',
            id,
            height: 20,
            after: 10,
            items: [
              {
                kind: 'text',
                id: 'text1',
                x: 0,
                y: 0,
                width: 200,
                text: edge.toLowerCase().includes('foot') ? 'Page {{ page.number }} of {{ page.count }}' : '',
              },
            ],
          },
        },
  )
}

/** A second layout like one that is there. */
export function copyLayout(report: ReportDefinition, layout: string, name: string): ReportDefinition {
  const found = report.layouts.find(each => each.name === layout)
  if (!found) return report
  const ids = taken(report)
  const copy: LayoutDefinition = {
    ...found,
    name: freeName(
      name,
      report.layouts.map(each => each.name),
    ),
    blocks: found.blocks.map(block => renewed(block, ids)),
  }
  for (const edge of edges) if (found[edge]) copy[edge] = renewed(found[edge]!, ids)
  return { ...report, layouts: [...report.layouts, copy] }
}

const freeName = (name: string, names: readonly string[]) => (names.includes(name) ? freeId(`${name} `, names, false).trim() : name)

export function renameLayout(report: ReportDefinition, layout: string, name: string): ReportDefinition {
  if (!name.trim() || report.layouts.some(each => each.name === name)) return report
  const next = changeLayout(report, layout, found => ({ ...found, name }))
  return next !== report && report.layout === layout ? { ...next, layout: name } : next
}

/** Takes a layout away; the last one stays. */
export function removeLayout(report: ReportDefinition, layout: string): ReportDefinition {
  if (report.layouts.length < 2 || !report.layouts.some(each => each.name === layout)) return report
  const { layout: chosen, ...rest } = report
  return {
    ...rest,
    ...(chosen && chosen !== layout ? { layout: chosen } : {}),
    layouts: report.layouts.filter(each => each.name !== layout),
  }
}

export function setDefaultLayout(report: ReportDefinition, layout: string): ReportDefinition {
  return report.layouts.some(each => each.name === layout) && report.layout !== layout ? { ...report, layout } : report
}

/** Keeps a theme with the report, in the place of one of the same name. */
export function putTheme(report: ReportDefinition, theme: ThemeDefinition): ReportDefinition {
  return { ...report, themes: [...(report.themes ?? []).filter(each => each.name !== theme.name), theme] }
}

/** How a text reads in another language; an empty one takes the translation back. */
export function setTranslation(report: ReportDefinition, language: string, text: string, translation: string): ReportDefinition {
  const own = { ...report.translations?.[language] }
  if (translation) own[text] = translation
  else Reflect.deleteProperty(own, text)
  return { ...report, translations: { ...report.translations, [language]: own } }
}

/** The same report with the letterhead that all reports share, on the layouts that want it. */
export function withLetterhead(report: ReportDefinition, letterhead: PanelBlock | undefined): ReportDefinition {
  if (!letterhead || !report.layouts.some(layout => layout.letterhead)) return report
  return {
    ...report,
    layouts: report.layouts.map(layout => (layout.letterhead ? { ...layout, top: { ...letterhead, id: 'letterhead' } } : layout)),
  }
}

/** A style with some of its parts set; `undefined` takes a part back. */
export function merged<T extends TextStyle>(style: T | undefined, change: Partial<T>): T {
  return Object.fromEntries(Object.entries({ ...style, ...change }).filter(([, value]) => value !== undefined)) as unknown as T
}

/** Puts a whole layout in, in the place of the one of a name or as a new one. */
export function putLayout(report: ReportDefinition, layout: LayoutDefinition, before?: string): ReportDefinition {
  const others = report.layouts.filter(each => each.name !== before)
  const named = {
    ...layout,
    name:
      before ??
      freeName(
        layout.name,
        others.map(each => each.name),
      ),
  }
  return { ...report, layouts: before ? report.layouts.map(each => (each.name === before ? named : each)) : [...report.layouts, named] }
}
