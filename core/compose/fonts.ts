import data from './fontData.json'

/** The paper fonts; each ships with the application as a whole TTF. */
export type FontName = 'sans' | 'sansBold' | 'sansItalic' | 'sansBoldItalic' | 'serif' | 'serifBold'
export const fontNames = Object.keys(data) as FontName[]

interface Metrics {
  /** above and below the baseline, in thousandths of the size */
  ascent: number
  descent: number
  /** advance of each UTF-16 unit, in thousandths of the size */
  advances: Uint16Array
  /** 1 for each UTF-16 unit that has a glyph */
  known: Uint8Array
}

const metrics = new Map<FontName, Metrics>()

function metricsOf(font: FontName): Metrics {
  let found = metrics.get(font)
  if (!found) {
    const { ascent, descent, missing, runs } = data[font]
    const advances = new Uint16Array(0x10000).fill(missing)
    // the second half of a pair has no width of its own
    advances.fill(0, 0xdc00, 0xe000)
    const known = new Uint8Array(0x10000)
    for (const [start, widths] of runs as [number, number[]][]) {
      advances.set(widths, start)
      known.fill(1, start, start + widths.length)
    }
    metrics.set(font, (found = { ascent, descent, advances, known }))
  }
  return found
}

/** File of a font within its package. */
export function fontFile(font: FontName): string {
  return data[font].file
}

/** The minus sign, which the slanted faces hold as a hyphen: it is taken from the upright face of the same weight. */
export const minusSign = '\u2212'
export const uprightOf: Partial<Record<FontName, FontName>> = { sansItalic: 'sans', sansBoldItalic: 'sansBold' }

/** Width of a text on one line, in points for a size in points; no kerning, no ligatures. */
export function textWidth(text: string, font: FontName, size: number): number {
  const { advances } = metricsOf(font)
  let sum = 0
  for (let i = 0; i < text.length; i++) sum += advances[text.charCodeAt(i)]!
  return (sum * size) / 1000
}

/** The first sign of a text that a font has no glyph for; controls are none. */
export function lacking(text: string, font: FontName): string | undefined {
  const { known } = metricsOf(font)
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (known[code] || code < 0x20) continue
    const sign = String.fromCodePoint(text.codePointAt(at)!)
    // the minus of the slanted faces is taken from the upright ones
    if (sign !== minusSign) return sign
  }
  return undefined
}

/** Distance between baselines, as a multiple of the size. */
export const lineSpacing = 1.35

/** From the top of a line to its baseline, in points. */
export function baseline(font: FontName, size: number): number {
  const { ascent, descent } = metricsOf(font)
  return (size * lineSpacing - ((ascent + descent) * size) / 1000) / 2 + (ascent * size) / 1000
}
