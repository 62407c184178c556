import { colour, hex, hexFault, name, plain, points, record } from './checks'
import { boolean, mixed, number, object, string } from 'yup'
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

const styleFields = {
  named: plain,
  font: mixed().oneOf(['sans', 'serif']),
  size: number().strict().min(3).max(200),
  bold: boolean().strict(),
  italic: boolean().strict(),
  colour: string().strict().matches(hex, { message: hexFault }),
  align: mixed().oneOf(['left', 'centre', 'right']),
  vertical: mixed().oneOf(['top', 'middle', 'bottom']),
  overflow: mixed().oneOf(['wrap', 'cut', 'shrink']),
  indent: number().strict().min(0).max(400),
  rotated: boolean().strict(),
  marks: boolean().strict(),
  fill: string().strict().matches(hex, { message: hexFault }),
}
const borderSchema = mixed().oneOf(['hair', 'thin', 'thick', 'double', 'none'])
export const fullStyleSchema = object(styleFields).noUnknown()
export const styleSchema = fullStyleSchema.default(undefined)
const fullRowStyleSchema = object({ ...styleFields, above: borderSchema, below: borderSchema }).noUnknown()
export const rowStyleSchema = fullRowStyleSchema.default(undefined)
export const themeSchema = object({
  name,
  body: fullStyleSchema.required(),
  line: colour,
  band: string().strict().matches(hex, { message: hexFault }),
  padding: object({ x: points, y: points }).noUnknown(),
  rows: object(
    Object.fromEntries(
      ['titles', 'groupStart', 'line', 'extra', 'groupEnd', 'end', 'carried'].map(kind => [kind, fullRowStyleSchema.required()]),
    ),
  ).noUnknown(),
  named: record(fullStyleSchema),
}).noUnknown()
