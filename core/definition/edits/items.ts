import { type PanelItem, type PayeeTerm, isPanel } from '../blocks/panel'
import { freeId } from '../names'
import type { ReportDefinition } from '../report'
import { changeBlock, without } from './layout'

/** Edits of what stands in panels. */

export function changeItem(
  report: ReportDefinition,
  block: string,
  item: string,
  change: (item: PanelItem) => PanelItem,
): ReportDefinition {
  return changeBlock(report, block, panel => {
    if (!isPanel(panel) || !panel.items.some(each => each.id === item)) return panel
    return { ...panel, items: panel.items.map(each => (each.id === item ? change(each) : each)) }
  })
}

/** The settings of an item, such as a box's fill or a code's kind; `undefined` takes one back. */
export function setItem(
  report: ReportDefinition,
  block: string,
  item: string,
  change: Partial<
    Record<'fill' | 'border' | 'thickness' | 'colour' | 'height' | 'code' | 'svg' | 'from' | 'alt' | 'terms' | 'showWhen' | 'text', unknown>
  >,
): ReportDefinition {
  return changeItem(report, block, item, found => without({ ...found, ...change } as PanelItem))
}

/** Sets the formula of a part of a payment QR; an empty one takes it out. */
export function setPayeeTerm(report: ReportDefinition, block: string, item: string, id: PayeeTerm, formula: string): ReportDefinition {
  return changeItem(report, block, item, found => {
    if (found.kind !== 'payment') return found
    const { [id]: _, ...rest } = found.terms
    return { ...found, terms: formula.trim() ? { ...found.terms, [id]: formula } : rest }
  })
}

export const twoDigits = (value: number) => Math.round(value * 100) / 100

export function moveItem(report: ReportDefinition, block: string, item: string, x: number, y: number): ReportDefinition {
  return changeItem(report, block, item, found => ({ ...found, x: twoDigits(x), y: twoDigits(y) }))
}

/** Moves several items of a panel by the same way, in points. */
export function moveItems(report: ReportDefinition, block: string, items: readonly string[], dx: number, dy: number): ReportDefinition {
  return changeBlock(report, block, panel =>
    isPanel(panel)
      ? {
          ...panel,
          items: panel.items.map(each =>
            items.includes(each.id) ? { ...each, x: twoDigits(each.x + dx), y: twoDigits(each.y + dy) } : each,
          ),
        }
      : panel,
  )
}

export type Alignment = 'left' | 'centre' | 'right' | 'top' | 'bottom' | 'spreadAcross' | 'spreadDown'
/** Lines several items of a panel up by an edge, or gives them equal distances. `heights` are those on the page, in points. */
export function alignItems(
  report: ReportDefinition,
  block: string,
  items: readonly string[],
  how: Alignment,
  heights: Readonly<Record<string, number>> = {},
): ReportDefinition {
  return changeBlock(report, block, panel => {
    if (!isPanel(panel)) return panel
    const chosen = panel.items.filter(each => items.includes(each.id))
    if (chosen.length < 2) return panel
    const height = (each: PanelItem) => heights[each.id] ?? ('height' in each ? (each.height ?? 0) : 0)
    const [left, right] = [Math.min(...chosen.map(each => each.x)), Math.max(...chosen.map(each => each.x + each.width))]
    const [top, bottom] = [Math.min(...chosen.map(each => each.y)), Math.max(...chosen.map(each => each.y + height(each)))]
    const across = how === 'spreadAcross'
    const order = [...chosen].sort((a, b) => (across ? a.x - b.x : a.y - b.y))
    const taken = order.reduce((sum, each) => sum + (across ? each.width : height(each)), 0)
    const gap = ((across ? right - left : bottom - top) - taken) / (order.length - 1)
    let next = across ? left : top
    const spread = new Map(
      order.map(each => {
        const at = next
        next += (across ? each.width : height(each)) + gap
        return [each.id, at]
      }),
    )
    const place = (each: PanelItem): Partial<PanelItem> => {
      switch (how) {
        case 'left':
          return { x: left }
        case 'centre':
          return { x: twoDigits((left + right - each.width) / 2) }
        case 'right':
          return { x: twoDigits(right - each.width) }
        case 'top':
          return { y: top }
        case 'bottom':
          return { y: twoDigits(bottom - height(each)) }
        case 'spreadAcross':
          return { x: twoDigits(spread.get(each.id)!) }
        case 'spreadDown':
          return { y: twoDigits(spread.get(each.id)!) }
      }
    }
    return { ...panel, items: panel.items.map(each => (items.includes(each.id) ? ({ ...each, ...place(each) } as PanelItem) : each)) }
  })
}

export function setItemWidth(report: ReportDefinition, block: string, item: string, width: number): ReportDefinition {
  return changeItem(report, block, item, found => ({ ...found, width: Math.max(4, twoDigits(width)) }))
}

export type NewItem = { [K in PanelItem['kind']]: Omit<Extract<PanelItem, { kind: K }>, 'id'> }[PanelItem['kind']]

/** Puts a new item into a panel and gives it a name of its own. */
export function addItem(report: ReportDefinition, block: string, item: NewItem): ReportDefinition {
  return changeBlock(report, block, panel =>
    isPanel(panel)
      ? {
          ...panel,
          items: [
            ...panel.items,
            {
              ...item,
              id: freeId(
                item.kind,
                panel.items.map(each => each.id),
              ),
            } as PanelItem,
          ],
        }
      : panel,
  )
}

export function addTextItem(report: ReportDefinition, block: string, x: number, y: number, text: string): ReportDefinition {
  return addItem(report, block, { kind: 'text', x, y, width: 120, text })
}

export function removeItem(report: ReportDefinition, block: string, item: string): ReportDefinition {
  return changeBlock(report, block, panel =>
    isPanel(panel) && panel.items.some(each => each.id === item)
      ? { ...panel, items: panel.items.filter(each => each.id !== item) }
      : panel,
  )
}
