import { type FontName, textWidth } from '../compose/fonts'
import type { Page, PageItem } from '../compose/page'

/** What the cover of a pack says. All in the language of the pack; sizes in points. */
export interface Cover {
  title: string
  /** the pack's answers in words, a line each */
  lines: string[]
  /** when its rows were read, in words */
  moment: string
  /** heading of the contents */
  contents: string
  /** said under the contents: what ties out, and what does not */
  ties: { text: string; holds: boolean }[]
}

/** A part of a pack: a run of one of its reports, with the page of the whole on which it begins, counted from 1. */
export interface Part {
  title: string
  page: number
  pages: number
}

const [width, height, margin] = [595.28, 841.89, 56.7]
const ink = { plain: '#1f1b16', muted: '#6b6257', accent: '#0f4c5c', wrong: '#a63a1e', rule: '#cfc7ba' }
const [lineHeight, foot] = [20, 70]

/** Lines of contents that stand on a page: fewer on the first, under the title. */
const roomOf = (first: boolean, used: number) => Math.floor((height - margin - foot - (first ? used : margin + 30)) / lineHeight)

/** How many pages cover and contents take: what they say of pages depends on it. */
export function coverPages(cover: Cover, parts: number): number {
  const lines = parts + (cover.ties.length ? cover.ties.length + 1 : 0)
  const first = roomOf(true, headOf(cover))
  return lines <= first ? 1 : 1 + Math.ceil((lines - first) / roomOf(false, 0))
}
const headOf = ({ lines }: Cover) => margin + 150 + lines.length * 18

/** Cover and contents, with the page of each part; `parts` begin after them. */
export function composeCover(cover: Cover, parts: readonly Part[]): Page[] {
  const pages: Page[] = []
  let items: PageItem[] = []
  let y = 0
  let left = 0
  const text = (x: number, at: number, said: string, font: FontName, size: number, colour: string) =>
    void items.push({ kind: 'text', x, y: at, text: said, font, size, colour })
  const rightOf = (x: number, at: number, said: string, size: number, colour: string) =>
    text(x - textWidth(said, 'sans', size), at, said, 'sans', size, colour)
  const begin = () => {
    items = []
    const number = pages.length + 1
    pages.push({ width, height, overall: number, number, record: -1, items, boxes: [], ...(number === 1 ? { label: cover.title } : {}) })
  }
  const heading = (said: string) => {
    text(margin, y, said, 'sansBold', 11, ink.accent)
    items.push({ kind: 'fill', x: margin, y: y + 6, width: width - 2 * margin, height: 0.6, colour: ink.rule })
    y += 24
  }
  begin()
  text(margin, margin + 40, fitting(cover.title, 'serifBold', 26, width - 2 * margin), 'serifBold', 26, ink.accent)
  cover.lines.forEach((line, at) =>
    text(margin, margin + 68 + at * 18, fitting(line, 'sans', 11, width - 2 * margin), 'sans', 11, ink.plain),
  )
  text(margin, margin + 76 + cover.lines.length * 18, cover.moment, 'sans', 9, ink.muted)
  y = headOf(cover) - 20
  heading(cover.contents)
  left = roomOf(true, headOf(cover))
  const line = (write: () => void) => {
    if (!left) {
      begin()
      y = margin + 30
      left = roomOf(false, 0)
    }
    write()
    y += lineHeight
    left--
  }
  for (const { title, page } of parts)
    line(() => {
      const number = String(page)
      text(margin, y, fitting(title, 'sans', 10.5, width - 2 * margin - 50), 'sans', 10.5, ink.plain)
      rightOf(width - margin, y, number, 10.5, ink.plain)
    })
  if (cover.ties.length) {
    line(() => {})
    for (const { text: said, holds } of cover.ties)
      line(() => text(margin, y, fitting(said, 'sans', 9, width - 2 * margin), 'sans', 9, holds ? ink.muted : ink.wrong))
  }
  return pages
}

/** The number of a page in the whole, at the foot of it. */
export function numberItem(page: Page, number: number, of: number): PageItem {
  const said = `${number} / ${of}`
  return {
    kind: 'text',
    x: page.width - 28 - textWidth(said, 'sans', 7.5),
    y: page.height - 14,
    text: said,
    font: 'sans',
    size: 7.5,
    colour: ink.muted,
  }
}

/** A text cut where it does not fit, with a mark. */
function fitting(text: string, font: FontName, size: number, room: number): string {
  if (textWidth(text, font, size) <= room) return text
  const letters = [...text]
  while (letters.length && textWidth(`${letters.join('')}…`, font, size) > room) letters.pop()
  return `${letters.join('').trimEnd()}…`
}
