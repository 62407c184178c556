import type { BlockShape } from './shape'
import { type BlockBase, blockFields } from './base'
import { styleSchema, type TextStyle } from '../style'
import { colour, hex, hexFault, name, points, rule, text } from '../checks'
import { array, lazy, mixed, number, object, string } from 'yup'

/** Freely placed items; it grows with its text. */
export interface PanelBlock extends BlockBase {
  kind: 'panel'
  /** least height in points */
  height: number
  items: PanelItem[]
}

export type PanelItem =
  TextItemDefinition | ImageItemDefinition | RuleItemDefinition | BoxItemDefinition | CodeItemDefinition | PaymentItemDefinition

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
  /** what is read aloud instead of it: a text with values in it; empty where it is only decoration */
  alt?: string
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
  /** what is read aloud instead of it; what it holds where it is left out */
  alt?: string
}

/** What a payment QR asks for: the side of the payee, by formulas. */
export const payeeTerms = ['payee', 'payeeAccount', 'payeeBank', 'amount', 'currency', 'reference', 'about'] as const

export type PayeeTerm = (typeof payeeTerms)[number]

/** A QR code by which whoever gets the document pays it (EPC069-12). */
export interface PaymentItemDefinition extends ItemBox {
  kind: 'payment'
  height: number
  /** formulas */
  terms: Readonly<Partial<Record<PayeeTerm, string>>>
  /** what is read aloud instead of it; whom it pays and how much where it is left out */
  alt?: string
}

const alt = string().strict().max(2000)
const itemFields = { id: name, x: points, y: points, width: points.min(0), showWhen: rule }
const itemSchema = lazy((value: { kind?: string }) => {
  switch (value?.kind) {
    case 'text':
      return object({ ...itemFields, kind: name, text, style: styleSchema }).noUnknown()
    case 'image':
      return object({
        ...itemFields,
        kind: name,
        height: points,
        svg: string().strict().max(4_000_000).defined(),
        from: rule,
        alt,
      }).noUnknown()
    case 'rule':
      return object({ ...itemFields, kind: name, thickness: points, colour, height: number().strict().min(0) }).noUnknown()
    case 'box':
      return object({
        ...itemFields,
        kind: name,
        height: points,
        fill: string().strict().matches(hex, { message: hexFault }),
        border: string().strict().matches(hex, { message: hexFault }),
        thickness: number().strict().min(0).max(40),
      }).noUnknown()
    case 'code':
      return object({
        ...itemFields,
        kind: name,
        code: mixed()
          .oneOf([...codeKinds])
          .required(),
        height: points,
        text,
        alt,
      }).noUnknown()
    case 'payment':
      return object({
        ...itemFields,
        kind: name,
        height: points,
        terms: object(Object.fromEntries(payeeTerms.map(id => [id, rule])))
          .noUnknown()
          .required(),
        alt,
      }).noUnknown()
    default:
      return object({ kind: mixed().oneOf(['text', 'image', 'rule', 'box', 'code', 'payment']).required() })
  }
})
export const panelSchema = object({
  ...blockFields,
  kind: mixed().oneOf(['panel']).required(),
  height: points,
  items: array(itemSchema).required(),
}).noUnknown()

export const panelShape: BlockShape<PanelBlock> = { kind: 'panel', schema: () => panelSchema }

export const isPanel = (block: { kind: string } | undefined): block is PanelBlock => block?.kind === 'panel'
