import type { Align, TextStyle } from '../definition/types'
import type { FontName } from './fonts'

/** A text style with nothing left open. */
export interface ResolvedStyle { font: FontName, size: number, colour: string, align: Align }

/** The look of the paper: every row kind starts from one of these. */
export const look = {
  ink: '#26221d',
  soft: '#6d655b',
  rule: '#26221d',
  hairline: '#d9d2c7',
  body: 9,
  small: 8.5,
  /** inside a table cell, in points */
  cellPadding: { x: 4, y: 2.8 },
  rules: { titles: 0.75, end: 0.75 },
} as const

export function resolveStyle(...styles: (TextStyle | undefined)[]): ResolvedStyle {
  const style: TextStyle = Object.assign({}, ...styles)
  const serif = style.font === 'serif'
  const font: FontName = serif
    ? (style.bold ? 'serifBold' : 'serif')
    : style.bold && style.italic ? 'sansBoldItalic' : style.bold ? 'sansBold' : style.italic ? 'sansItalic' : 'sans'
  return { font, size: style.size ?? look.body, colour: style.colour ?? look.ink, align: style.align ?? 'left' }
}
