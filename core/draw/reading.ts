import type { Page } from '../compose/page'
import { isCellTag, tagRoles } from '../compose/tags'

/** A cell as it is read: its text, and whether it is the title of its column or of its row. */
export interface ReadCell {
  text: string
  head?: 'column' | 'row'
  span: number
}

/** What is read of a page to those who do not see it, one after the other. */
export type Reading = { is: 'heading' | 'paragraph' | 'figure'; text: string } | { is: 'table'; rows: ReadCell[][] }

/**
 * What is read of a page that was made with tags, in their order, as in its tagged PDF; what stands again on each page is left out. Nothing
 * of a page without.
 */
export function readingOf(page: Page): Reading[] | undefined {
  // pages that are made with tags say their language
  const { tags = [], items, language } = page
  if (language === undefined) return undefined
  const found: Reading[] = []
  let table: number | undefined
  let row: number | undefined
  const end = () => (table = row = undefined)
  const figures = (from: number, to: number) => {
    for (let at = from; at < to; at++) {
      const item = items[at]!
      if (item.kind !== 'figure') continue
      found.push({ is: 'figure', text: item.alternative })
      end()
    }
  }
  let read = 0
  for (const tag of tags) {
    const [from, to, role] = tag
    figures(read, from)
    read = to
    const texts = items.slice(from, to).flatMap(item => (item.kind === 'text' && item.text ? [item.text] : []))
    const text = texts.join(' ')
    if (!isCellTag(tag)) {
      end()
      if (text) found.push({ is: tagRoles[role] === 'heading' ? 'heading' : 'paragraph', text })
      continue
    }
    const [, , , ownTable, ownRow, , span] = tag
    if (table !== ownTable) {
      found.push({ is: 'table', rows: [] })
      row = undefined
    }
    const last = found.at(-1) as Reading & { is: 'table' }
    if (row !== ownRow) last.rows.push([])
    table = ownTable
    row = ownRow
    const kind = tagRoles[role]
    last.rows.at(-1)!.push({ text, span, ...(kind === 'columnHead' ? { head: 'column' } : kind === 'rowHead' ? { head: 'row' } : {}) })
  }
  figures(read, items.length)
  return found
}
