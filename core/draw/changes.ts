import { textWidth } from '../compose/fonts'
import type { Page, PageItem } from '../compose/page'

/** A rectangle of a page, in points. */
export interface Area {
  x: number
  y: number
  width: number
  height: number
}

const boundsKept = new WeakMap<PageItem, Area>()

/** What an item covers, with a little more around it: letters reach beyond their advances. */
export function boundsOf(item: PageItem): Area {
  let found = boundsKept.get(item)
  if (!found) boundsKept.set(item, (found = bounds(item)))
  return found
}

function bounds(item: PageItem): Area {
  switch (item.kind) {
    case 'text': {
      const length = textWidth(item.text, item.font, item.size)
      const slack = item.size * 0.35
      return item.rotated
        ? { x: item.x - item.size - slack, y: item.y - length - slack, width: item.size * 1.5 + 2 * slack, height: length + 2 * slack }
        : { x: item.x - slack, y: item.y - item.size - slack, width: length + 2 * slack, height: item.size * 1.5 + 2 * slack }
    }
    case 'shapes': {
      let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
      for (const shape of item.shapes) {
        for (const [, ...values] of shape.path) {
          ;(values as number[]).forEach((value, at) => {
            if (at % 2) [top, bottom] = [Math.min(top, value), Math.max(bottom, value)]
            else [left, right] = [Math.min(left, value), Math.max(right, value)]
          })
        }
      }
      const [across, down] = [item.scale, item.scaleY ?? item.scale]
      return {
        x: item.x + left * across - 1,
        y: item.y + top * down - 1,
        width: (right - left) * across + 2,
        height: (bottom - top) * down + 2,
      }
    }
    default:
      return { x: item.x - 1, y: item.y - 1, width: item.width + 2, height: item.height + 2 }
  }
}

/** Tells items apart that are drawn differently; pictures and shapes by identity, since they are the same objects from page to page. */
function signature(item: PageItem, others: Map<object, number>): string {
  switch (item.kind) {
    case 'text':
      return `${item.x} ${item.y} ${item.font} ${item.size} ${item.colour}${item.rotated ? ' r' : ''} ${item.text}`
    case 'fill':
      return `f ${item.x} ${item.y} ${item.width} ${item.height} ${item.colour}`
    case 'link':
    case 'figure':
    case 'figureEnd':
      return ''
    default: {
      const number = others.get(item) ?? others.set(item, others.size).get(item)!
      return `o ${number}`
    }
  }
}

/**
 * The part of a page that is drawn otherwise than that of a page before it; nothing where all is the same. Items that stay keep their
 * order, so that what overlaps is drawn over one another as before.
 */
export function changedArea(before: Page, after: Page): Area | undefined {
  const others = new Map<object, number>()
  const counts = new Map<string, { count: number; item: PageItem }>()
  for (const item of before.items) {
    const key = signature(item, others)
    const found = counts.get(key)
    if (found) found.count++
    else counts.set(key, { count: 1, item })
  }
  let area: Area | undefined
  const include = (item: PageItem) => {
    const own = boundsOf(item)
    if (!area) {
      area = { ...own }
      return
    }
    const [right, bottom] = [Math.max(area.x + area.width, own.x + own.width), Math.max(area.y + area.height, own.y + own.height)]
    area.x = Math.min(area.x, own.x)
    area.y = Math.min(area.y, own.y)
    area.width = right - area.x
    area.height = bottom - area.y
  }
  for (const item of after.items) {
    const found = counts.get(signature(item, others))
    if (found?.count) found.count--
    else include(item)
  }
  for (const { count, item } of counts.values()) if (count) include(item)
  return area
}

export function overlap(a: Area, b: Area): boolean {
  return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height
}
