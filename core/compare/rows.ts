import type { Box, BoxPart, Page, PageItem } from '../compose/page'

/** A row or panel as it stands on the pages of a run, with what is printed in each of its cells. */
export interface PrintedRow {
  block: string
  part: BoxPart
  /** id of the table's row; empty for panels */
  row: string
  /** tells it from all others of its kind, in any run */
  key: string
  /** place of the page, from 0, and where the row stands on it, in points */
  page: number
  place: Place
  /** by column or item, in the order of the page */
  cells: Map<string, PrintedCell>
}
export interface PrintedCell {
  text: string
  page: number
  place: Place
}
export interface Place {
  x: number
  y: number
  width: number
  height: number
}

type TextItem = Extract<PageItem, { kind: 'text' }>
const placeOf = ({ x, y, width, height }: Box): Place => ({ x, y, width, height })
const nameOf = ({ block, row, key }: Pick<PrintedRow, 'block' | 'row' | 'key'>) => `${block}\u0000${row}\u0000${key}`

/**
 * Collects the rows of pages that come one after the other; a row that goes on over a page is one row. Only rows that carry a key are
 * taken: titles, carried sums and group starts that stand again are not.
 */
export class RowReader {
  readonly rows: PrintedRow[] = []
  /** what stands over each column, by block */
  readonly titles: Record<string, Record<string, string>> = {}
  private page = 0
  /** what stood last on the page before, which may go on */
  private last: PrintedRow | undefined

  add(page: Page): void {
    const texts = page.items.filter((item): item is TextItem => item.kind === 'text' && item.text !== '')
    // a text belongs to the cell in which it begins
    const inside = (box: Box) =>
      texts
        .filter(item => item.y > box.y && item.y <= box.y + box.height + 0.01 && item.x >= box.x - 0.01 && item.x < box.x + box.width)
        .map(item => item.text)
        .join(' ')
    let open: PrintedRow | undefined
    let first = true
    for (const box of page.boxes) {
      if (box.cell === undefined) {
        open = undefined
        if (box.key === undefined) continue
        const found: PrintedRow = {
          block: box.block,
          part: box.part,
          row: box.rowId ?? '',
          key: box.key,
          page: this.page,
          place: placeOf(box),
          cells: new Map(),
        }
        open = first && this.last && nameOf(this.last) === nameOf(found) ? this.last : found
        first = false
        if (open === found) this.rows.push(open)
        this.last = open
      } else if (box.part === 'titles') {
        ;(this.titles[box.block] ??= {})[box.cell] ??= inside(box)
      } else if (open && box.block === open.block) {
        const text = inside(box)
        const known = open.cells.get(box.cell)
        if (known) known.text = [known.text, text].filter(Boolean).join(' ')
        else open.cells.set(box.cell, { text, page: this.page, place: placeOf(box) })
      }
    }
    this.page++
  }
}
