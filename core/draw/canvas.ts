import type { FontName } from '../compose/fonts'
import type { Page } from '../compose/page'
import type { PathStep } from '../compose/svgShapes'
import { type Area, boundsOf, overlap } from './changes'

/** The part of a canvas context that a page is drawn with; kept narrow so that core needs no DOM. */
export interface Pen {
  fillStyle: unknown
  font: string
  textBaseline: string
  fillText(text: string, x: number, y: number): void
  fillRect(x: number, y: number, width: number, height: number): void
  beginPath(): void
  moveTo(x: number, y: number): void
  lineTo(x: number, y: number): void
  bezierCurveTo(a: number, b: number, c: number, d: number, x: number, y: number): void
  closePath(): void
  fill(): void
  save(): void
  restore(): void
  translate(x: number, y: number): void
  rotate(angle: number): void
  rect(x: number, y: number, width: number, height: number): void
  clip(): void
  drawImage(image: unknown, x: number, y: number, width: number, height: number): void
}

/** Gives the decoded picture of a data address, or nothing as long as it is being decoded. */
export type Pictures = (data: string) => unknown

/** The name under which the page's style sheet declares a paper font, with its weight and slant. */
export function cssFont(font: FontName, size: number): string {
  const family = font.startsWith('serif') ? 'Estante Serif' : 'Estante Sans'
  return `${/Italic/.test(font) ? 'italic ' : ''}${/Bold/.test(font) ? '700 ' : '400 '}${size}px "${family}"`
}

/**
 * Draws the items of a page; the context is scaled so that one unit is one point. With an area only what lies in it is
 * drawn anew: its edges
 * should lie between pixels.
 */
export function drawPage(pen: Pen, page: Page, pictures: Pictures = () => undefined, area?: Area): void {
  if (area) {
    pen.save()
    pen.beginPath()
    pen.rect(area.x, area.y, area.width, area.height)
    pen.clip()
  }
  drawItems(pen, page, pictures, area)
  if (area) pen.restore()
}

function drawItems(pen: Pen, page: Page, pictures: Pictures, area: Area | undefined): void {
  pen.fillStyle = '#ffffff'
  if (area) pen.fillRect(area.x, area.y, area.width, area.height)
  else pen.fillRect(0, 0, page.width, page.height)
  pen.textBaseline = 'alphabetic'
  let font = ''
  let fill = '#ffffff'
  const paint = (colour: string) => {
    if (colour !== fill) pen.fillStyle = fill = colour
  }
  for (const item of page.items) {
    if (area && !overlap(boundsOf(item), area)) continue
    switch (item.kind) {
      case 'text': {
        const wanted = cssFont(item.font, item.size)
        if (wanted !== font) pen.font = font = wanted
        paint(item.colour)
        if (item.rotated) {
          pen.save()
          pen.translate(item.x, item.y)
          pen.rotate(-Math.PI / 2)
          pen.fillText(item.text, 0, 0)
          pen.restore()
        } else pen.fillText(item.text, item.x, item.y)
        break
      }
      case 'fill':
        paint(item.colour)
        pen.fillRect(item.x, item.y, item.width, item.height)
        break
      case 'shapes':
        for (const shape of item.shapes) {
          paint(shape.fill)
          pen.beginPath()
          for (const step of shape.path) trace(pen, step, item.x, item.y, item.scale, item.scaleY ?? item.scale)
          pen.fill()
        }
        break
      case 'bitmap': {
        const image = pictures(item.data)
        if (image) pen.drawImage(image, item.x, item.y, item.width, item.height)
      }
    }
  }
}

function trace(pen: Pen, step: PathStep, x: number, y: number, across: number, down: number): void {
  switch (step[0]) {
    case 'M':
      pen.moveTo(x + step[1] * across, y + step[2] * down)
      break
    case 'L':
      pen.lineTo(x + step[1] * across, y + step[2] * down)
      break
    case 'C':
      pen.bezierCurveTo(
        x + step[1] * across,
        y + step[2] * down,
        x + step[3] * across,
        y + step[4] * down,
        x + step[5] * across,
        y + step[6] * down,
      )
      break
    case 'Z':
      pen.closePath()
  }
}
