import { readStatementRow } from '../../definition/blocks/statement'
import type { Box, Page } from '../page'

/** A line of a statement that shows its accounts, or an account of a tree with those under it, as it stands on a page. */
export interface Fold {
  /** the same on all pages */
  id: string
  /** the row where it is opened and closed: the heading of its accounts, or its sum once they are folded */
  box: Box
  closed: boolean
}

const rowBox = (box: Box, statements: ReadonlySet<string>) => box.cell === undefined && box.rowId !== undefined && statements.has(box.block)

/** The fold to which a row belongs inside, outermost first. */
function within(box: Box): string[] {
  const { line, path, part } = readStatementRow(box.rowId!)
  if (part === 'line') return []
  const own = part === 'account' ? path.slice(0, -1) : part === 'opens' ? [] : path
  return ['', ...own]
    .map((_, depth) => `${box.block} ${[line, ...own.slice(0, depth)].join('/')}`)
    .slice(0, part === 'ends' ? -1 : undefined)
}
const opens = (box: Box) => {
  const { line, path, part } = readStatementRow(box.rowId!)
  return part === 'opens' || part === 'heading' ? `${box.block} ${[line, ...path].join('/')}` : undefined
}
const ends = (box: Box) => {
  const { line, path, part } = readStatementRow(box.rowId!)
  return part === 'line' || part === 'ends' ? `${box.block} ${[line, ...path].join('/')}` : undefined
}

/** Headings of what is folded whose sums stand on a later page: they stay, so that it can be opened again. */
function kept(rows: readonly Box[], closed: ReadonlySet<string>): Set<Box> {
  const ended = new Set(rows.flatMap(box => ends(box) ?? []))
  return new Set(
    rows.filter(box => {
      const own = opens(box)
      return own !== undefined && closed.has(own) && !ended.has(own) && !within(box).some(id => id !== own && closed.has(id))
    }),
  )
}

/** Accounts that can be folded on a page, each at the row where it is done. `statements` are the blocks that are statements. */
export function foldsOf(page: Page, statements: ReadonlySet<string>, closed: ReadonlySet<string>): Fold[] {
  const rows = page.boxes.filter(box => rowBox(box, statements))
  const left = kept(rows, closed)
  return rows.flatMap((box): Fold[] => {
    if (left.has(box)) return [{ id: opens(box)!, box, closed: true }]
    if (within(box).some(id => closed.has(id))) return []
    const [opened, ended] = [opens(box), ends(box)]
    if (opened !== undefined) return closed.has(opened) ? [] : [{ id: opened, box, closed: false }]
    return ended !== undefined && closed.has(ended) ? [{ id: ended, box, closed: true }] : []
  })
}

/**
 * A page without the rows of what is folded; what stands below in its body moves up. It is the page on screen only: pages are not broken
 * anew.
 */
export function foldPage(page: Page, statements: ReadonlySet<string>, closed: ReadonlySet<string>): Page {
  if (!closed.size) return page
  const rows = page.boxes.filter(box => rowBox(box, statements))
  const left = kept(rows, closed)
  const gone = rows.filter(box => !left.has(box) && within(box).some(id => closed.has(id)))
  if (!gone.length) return page
  const bands = gone.map(box => ({ top: box.y, bottom: box.y + box.height }))
  const bottom = page.bodyBottom ?? page.height
  const near = 0.01
  /** how far up what begins at a height moves; nothing for what goes */
  const up = (y: number): number | undefined => {
    if (y >= bottom) return 0
    if (bands.some(band => y >= band.top - near && y < band.bottom - near)) return undefined
    return bands.reduce((sum, band) => (band.bottom <= y + near ? sum + band.bottom - band.top : sum), 0)
  }
  /** a text belongs to the row in which its baseline stands */
  const moved = <T extends { y: number }>(each: T, at: number): T[] => {
    const by = up(at)
    return by === undefined ? [] : by ? [{ ...each, y: each.y - by }] : [each]
  }
  return {
    ...page,
    items: page.items.flatMap(item => moved(item, item.kind === 'text' ? item.y - near * 2 : item.y)),
    boxes: page.boxes.flatMap(box =>
      statements.has(box.block) && box.part === 'block' && box.rowId === undefined
        ? [
            {
              ...box,
              height: Math.max(
                0,
                box.height -
                  bands
                    .filter(band => band.top >= box.y - near && band.bottom <= box.y + box.height + near)
                    .reduce((sum, band) => sum + band.bottom - band.top, 0),
              ),
            },
          ]
        : moved(box, box.y),
    ),
  }
}
