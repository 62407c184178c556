export const pageSizes = ['A4', 'A5', 'A3', 'Letter', 'Legal', 'own'] as const

export interface PageSetup {
  size: (typeof pageSizes)[number]
  /** of a size of its own, in points, standing upright */
  width?: number
  height?: number
  orientation: 'portrait' | 'landscape'
  margins: { top: number; right: number; bottom: number; left: number }
  /** the body is filled column by column, as on sheets of labels */
  columns?: { count: number; gap: number }
}
