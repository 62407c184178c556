export interface TextStyle {
  /** a named style of the theme that this one starts from */
  named?: string
  font?: 'sans' | 'serif'
  size?: number
  bold?: boolean
  italic?: boolean
  colour?: string
  align?: Align
  vertical?: 'top' | 'middle' | 'bottom'
  /** what is done with text that is too wide; it wraps where nothing is said */
  overflow?: 'wrap' | 'cut' | 'shrink'
  /** points from the left, or from the right where it is aligned there */
  indent?: number
  /** written from the bottom to the top */
  rotated?: boolean
  /** colour behind the text */
  fill?: string
  /** text with marks in it: **bold**, *italic*, [words](https://…), [words]{size=12 colour=#a13c31} */
  marks?: boolean
}

export type Align = 'left' | 'centre' | 'right'
export type Border = 'hair' | 'thin' | 'thick' | 'double'
export interface RowStyle extends TextStyle {
  above?: Border | 'none'
  below?: Border | 'none'
}

/** One look for a report: a body style, a style for each kind of row, and named styles for texts. */
export interface ThemeDefinition {
  name: string
  body: TextStyle
  /** the colour of lines between and around rows */
  line: string
  /** fill of every other line */
  band?: string
  padding: { x: number; y: number }
  rows: Record<'titles' | 'groupStart' | 'line' | 'extra' | 'groupEnd' | 'end' | 'carried', RowStyle>
  named: Record<string, TextStyle>
}
