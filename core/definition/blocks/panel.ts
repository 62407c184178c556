import type { BlockBase } from './base'
import type { TextStyle } from '../style'

/** Freely placed items; it grows with its text. */
export interface PanelBlock extends BlockBase {
  kind: 'panel'
  /** least height in points */
  height: number
  items: PanelItem[]
}

export type PanelItem = TextItemDefinition | ImageItemDefinition | RuleItemDefinition | BoxItemDefinition | CodeItemDefinition

export interface ItemBox {
  id: string
  x: number
  y: number
  width: number
  /** a formula; the item is left out where it does not hold */
  showWhen?: string
}

export interface TextItemDefinition extends ItemBox {
  kind: 'text'
  /** text with values in it: "Page {{ page.number }}" */
  text: string
  style?: TextStyle
}

/** A picture: SVG text, a data address of a PNG or JPEG, or a formula that gives one of these. */
export interface ImageItemDefinition extends ItemBox {
  kind: 'image'
  height: number
  /** SVG text of shapes with fills (see core/compose/svgShapes.ts), or "data:image/png;base64,…" or the same of a JPEG */
  svg: string
  /** a formula that gives the picture of each record */
  from?: string
}

export interface RuleItemDefinition extends ItemBox {
  kind: 'rule'
  thickness: number
  colour: string
  /** a standing line of this height */
  height?: number
}

export interface BoxItemDefinition extends ItemBox {
  kind: 'box'
  height: number
  fill?: string
  border?: string
  thickness?: number
}

export const codeKinds = ['qrcode', 'code128', 'ean13', 'gs1datamatrix', 'datamatrix'] as const

export interface CodeItemDefinition extends ItemBox {
  kind: 'code'
  code: (typeof codeKinds)[number]
  height: number
  /** text with values in it */
  text: string
}
