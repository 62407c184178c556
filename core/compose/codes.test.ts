import { describe, expect, it } from 'vitest'
import bwip from 'bwip-js/generic'
import { codePicture } from './codes'

/** Is a point of a picture covered by one of its rectangles? */
const dark = (picture: ReturnType<typeof codePicture>, x: number, y: number) => {
  const { path } = picture.shapes[0]!
  for (let at = 0; at < path.length; at += 5) {
    const [from, , to] = path.slice(at, at + 3) as [['M', number, number], unknown, ['L', number, number]]
    if (x >= from[1] && x < to[1] && y >= from[2] && y < to[2]) return true
  }
  return false
}

describe('codes', () => {
  it('a QR code has its three finders and quiet separators, and another text gives other modules', () => {
    const picture = codePicture('qrcode', 'Cais Velho INV-10231')
    const { width } = picture
    // ISO/IEC 18004: a finder is 7 modules wide: dark ring, light ring, dark 3 × 3
    for (const [left, top] of [
      [0, 0],
      [width - 7, 0],
      [0, width - 7],
    ] as const) {
      for (let y = 0; y < 7; y++) {
        for (let x = 0; x < 7; x++) {
          const ring = Math.max(Math.abs(x - 3), Math.abs(y - 3))
          expect(dark(picture, left + x + 0.5, top + y + 0.5)).toBe(ring !== 2)
        }
      }
    }
    expect(width).toBe(picture.height)
    expect((width - 17) % 4).toBe(0)
    expect(codePicture('qrcode', 'another').shapes[0]!.path).not.toEqual(picture.shapes[0]!.path)
  })
  it('bars have the widths that the code’s own table gives', () => {
    const picture = codePicture('code128', 'CV-2026')
    const [raw] = (bwip as unknown as { raw: (options: object) => { sbs: number[] }[] }).raw({ bcid: 'code128', text: 'CV-2026' })
    expect(picture.width).toBe(raw!.sbs.reduce((sum, each) => sum + each, 0))
    // Code 128: 11 modules for each of start, characters and check, 13 for the stop
    expect((picture.width - 13) % 11).toBe(0)
    expect(dark(picture, 0.5, 0.5)).toBe(true)
  })
  it('a text that the code cannot hold is told in a sentence', () => {
    expect(() => codePicture('ean13', 'rope')).toThrow(/^“rope” cannot be written as this code: .*\.$/)
  })
})
