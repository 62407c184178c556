import { array, boolean, object } from 'yup'
import { name, plain, rule } from '../checks'
import { type InvoiceMapping, invoiceMapping } from '../einvoice'
import { blockFields } from './base'
import { type BlockShape, changedList } from './shape'
import type { PanelBlock } from './panel'
import type { TableBlock } from './table'
import type { StatementBlock } from './statement'
import type { ChartBlock } from './chart'
import type { CrosstabBlock } from './crosstab'
import type { NestedBlock } from './nested'
import type { TiesBlock } from './ties'
import type { BreakBlock } from './break'
import type { BlockBase } from './base'

export type Block =
  RepeatBlock | PanelBlock | TableBlock | CrosstabBlock | StatementBlock | ChartBlock | NestedBlock | TiesBlock | BreakBlock

/** Its inner blocks once per record of a level. */
export interface RepeatBlock extends BlockBase {
  kind: 'repeat'
  level: string
  newPage: boolean
  /** page numbers count from 1 for each record */
  restartNumbers: boolean
  /** how a record is named in the outline of a run: a text with values in it */
  outline?: string
  /** a formula that gives the language of the record's pages, as a tag like "pt" */
  language?: string
  /** each record is an invoice that machines read, too */
  einvoice?: InvoiceMapping
  blocks: Block[]
}

/** Repeats hold blocks of any kind, so that their shape stands with the kinds. */
export const repeatShape: BlockShape<RepeatBlock, Block> = {
  kind: 'repeat',
  schema: block =>
    object({
      ...blockFields,
      kind: name,
      level: name,
      newPage: boolean().strict().required(),
      restartNumbers: boolean().strict().required(),
      outline: plain,
      language: rule,
      einvoice: invoiceMapping,
      blocks: array(block).required(),
    }).noUnknown(),
  inside: block => block.blocks,
  change: (block, change) => {
    const blocks = changedList(block.blocks, change)
    return blocks === block.blocks ? block : { ...block, blocks }
  },
}

export const isRepeat = (block: { kind: string } | undefined): block is RepeatBlock => block?.kind === 'repeat'
