// the part of the package that makes the modules; its main file brings drawing for one platform
import bwip from 'bwip-js/generic'
import { create } from 'qrcode/lib/core/qrcode.js'
import type { CodeItemDefinition } from '../definition/blocks/panel'
import { type PathStep, type Picture, PictureError } from './svgShapes'

const drawn = new Map<string, Picture>()

/**
 * The bars or modules of a code as filled rectangles, in modules; square codes keep their form, bars take the height they are given.
 * @throws PictureError where the text cannot be written in this code
 */
export function codePicture(kind: CodeItemDefinition['code'], text: string): Picture {
  const key = `${kind} ${text}`
  let found = drawn.get(key)
  if (found) return found
  if (drawn.size > 2000) drawn.clear()
  let raw: Raw
  try {
    raw = kind === 'qrcode' ? qrModules(text) : (bwip as unknown as { raw: (options: object) => Raw[] }).raw({ bcid: kind, text })[0]!
  } catch (error) {
    throw new PictureError(
      `“${text.slice(0, 40)}” cannot be written as this code: ${String((error as Error).message).replace(/^bwipp\.[^:]*:\s*/, '')}.`,
    )
  }
  const path: PathStep[] = []
  const bar = (x: number, y: number, width: number, height: number) =>
    path.push(['M', x, y], ['L', x + width, y], ['L', x + width, y + height], ['L', x, y + height], ['Z'])
  if ('pixs' in raw) {
    const { pixs, pixx, pixy } = raw
    for (let y = 0; y < pixy; y++) {
      for (let x = 0; x < pixx; x++) {
        if (!pixs[y * pixx + x]) continue
        let end = x
        while (end < pixx && pixs[y * pixx + end]) end++
        bar(x, y, end - x, 1)
        x = end
      }
    }
    found = { width: pixx, height: pixy, shapes: [{ path, fill: '#000000' }] }
  } else {
    let x = 0
    // widths of bars and spaces by turns
    raw.sbs.forEach((width, index) => {
      if (index % 2 === 0) bar(x, 0, width, 1)
      x += width
    })
    found = { width: x, height: 1, shapes: [{ path, fill: '#000000' }] }
  }
  drawn.set(key, found)
  return found
}

/** A QR code's modules (ISO/IEC 18004), error correction M: many times faster than by the general library. */
function qrModules(text: string): Raw {
  const { size, data } = create(text, { errorCorrectionLevel: 'M' }).modules
  return { pixs: Array.from(data), pixx: size, pixy: size }
}

type Raw = { pixs: number[]; pixx: number; pixy: number } | { sbs: number[] }
