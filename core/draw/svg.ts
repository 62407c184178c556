import type { FontName } from '../compose/fonts'
import type { Page, PageItem } from '../compose/page'
import { cssFont } from './canvas'

/** Text that is safe between tags and in attributes. Characters that XML 1.0 does not allow are left out. */
function escaped(text: string): string {
  // eslint-disable-next-line no-control-regex
  return text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '').replace(/[&<>"]/g, char => `&#${char.charCodeAt(0)};`)
}

const n = (value: number) => String(Math.round(value * 1000) / 1000)

/** A page as an SVG file of its own; fonts are named with a general family behind them. */
export function pageSvg(page: Page): string {
  const out = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${n(page.width)}pt" height="${n(page.height)}pt" viewBox="0 0 ${n(page.width)} ` +
      `${n(page.height)}">`,
    `<rect width="${n(page.width)}" height="${n(page.height)}" fill="#ffffff"/>`,
  ]
  out.push(...drawn(page.items))
  return `${out.join('\n')}\n</svg>\n`
}

/** Some of a page as SVG within a page of HTML, with a text for those who do not see it. */
export function pictureSvg(items: readonly PageItem[], width: number, height: number, alternative: string): string {
  return (
    `<svg role="img" aria-label="${escaped(alternative)}" width="${n(width)}pt" height="${n(height)}pt" ` +
    `viewBox="0 0 ${n(width)} ${n(height)}">${drawn(items).join('')}</svg>`
  )
}

function drawn(items: readonly PageItem[]): string[] {
  const out: string[] = []
  for (const item of items) {
    switch (item.kind) {
      case 'text':
        if (item.text) {
          const [x, y] = [n(item.x), n(item.y)]
          out.push(
            `<text ${item.rotated ? `transform="translate(${x} ${y}) rotate(-90)"` : `x="${x}" y="${y}"`} ` +
              `fill="${item.colour}" style="${fontStyle(item.font, item.size)}" xml:space="preserve">${escaped(item.text)}</text>`,
          )
        }
        break
      case 'fill':
        out.push(`<rect x="${n(item.x)}" y="${n(item.y)}" width="${n(item.width)}" height="${n(item.height)}" fill="${item.colour}"/>`)
        break
      case 'shapes':
        for (const shape of item.shapes)
          out.push(
            `<path transform="translate(${n(item.x)} ${n(item.y)}) ` +
              `scale(${n(item.scale)}${item.scaleY === undefined ? '' : ` ${n(item.scaleY)}`})" fill="${shape.fill}" ` +
              `d="${shape.path.map(step => step.map(part => (typeof part === 'number' ? n(part) : part)).join(' ')).join('')}"/>`,
          )
        break
      case 'link':
        out.push(
          `<a href="${escaped(item.href)}"><rect x="${n(item.x)}" y="${n(item.y)}" width="${n(item.width)}" ` +
            `height="${n(item.height)}" fill="none" pointer-events="all"/></a>`,
        )
        break
      case 'figure':
        out.push(`<g role="img" aria-label="${escaped(item.alternative)}">`)
        break
      case 'figureEnd':
        out.push('</g>')
        break
      case 'bitmap':
        out.push(
          `<image x="${n(item.x)}" y="${n(item.y)}" width="${n(item.width)}" height="${n(item.height)}" href="${escaped(item.data)}"/>`,
        )
    }
  }
  return out
}

function fontStyle(font: FontName, size: number): string {
  const general = font.startsWith('serif') ? 'serif' : 'sans-serif'
  return `font:${cssFont(font, size).replaceAll('"', "'")},${general};font-kerning:none;font-variant-ligatures:none`
}
