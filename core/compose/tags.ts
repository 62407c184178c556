/** What a stretch of a page is to those who have it read to them. What is in none (lines, fills, titles that stand again) is not read. */
export const tagRoles = ['paragraph', 'heading', 'columnHead', 'rowHead', 'cell'] as const
export type TagRole = (typeof tagRoles)[number]

/**
 * A stretch of a page's items, from one up to (not including) another, and its role as a place in tagRoles. Of a cell also: its table,
 * counted over the run, its row in that, counted from 0, its column, how many columns it spans, and how many the table has.
 */
export type Tag = [from: number, to: number, role: number] | [...CellTag]
type CellTag = [from: number, to: number, role: number, table: number, row: number, column: number, span: number, columns: number]

export const isCellTag = (tag: Tag): tag is CellTag => tag.length === 8
