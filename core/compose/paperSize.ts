import type { PageSetup } from '../definition/page'

const sizes: Record<Exclude<PageSetup['size'], 'own'>, [number, number]> = {
  A3: [841.89, 1190.55],
  A4: [595.28, 841.89],
  A5: [419.53, 595.28],
  Letter: [612, 792],
  Legal: [612, 1008],
}

/** Width and height of a page in points (ISO 216 and ANSI/ASME Y14.1; a size of its own is given upright). */
export function pageSize(page: PageSetup): { width: number; height: number } {
  const [short, long] = page.size === 'own' ? [page.width ?? 595.28, page.height ?? 841.89] : sizes[page.size]
  return page.orientation === 'portrait' ? { width: short, height: long } : { width: long, height: short }
}

/** Width in points that blocks can fill: that of one column where the page has several. */
export function bodyWidth(page: PageSetup): number {
  const all = pageSize(page).width - page.margins.left - page.margins.right
  const { count, gap } = page.columns ?? { count: 1, gap: 0 }
  return (all - gap * (count - 1)) / count
}
