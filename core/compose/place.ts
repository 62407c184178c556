import type { Standing } from '../formula/standing'
import type { PreparedInvoice } from './einvoice'
import type { Page } from './page'
import type { Paper } from './paper'
import type { PreparedBlock, PreparedLayout, PreparedPayments, PreparedTable } from './prepared'
import type { Remarks } from './remarks'
import type { Values } from './values'

/** Where something is laid out: the values that it prints, the paper that it is drawn on, and what is noticed on the way. */
export interface Place {
  layout: PreparedLayout
  values: Values
  paper: Paper
  remarks: Remarks
  /** tells a row of a block from all others in any run */
  rowKey: (at: Standing) => string | undefined
}

/** The flow of blocks over pages, as a block sees it. */
export interface Flow extends Place {
  /** the record in which the blocks at hand stand */
  within: Standing
  /** the next page carries them: the name of the record that begins there, and that of its document */
  label: string | undefined
  documentName: string | undefined
  /** the empty space that the last of the blocks has left under itself */
  trailing: number
  /** a record that is told as an e-invoice begins; left out where nobody asks for it */
  invoice?: (prepared: PreparedInvoice, at: Standing, block: string) => void
  /** the rows of a table are told as payments; left out where nobody asks for them */
  payments?: (table: PreparedTable, prepared: PreparedPayments, at: Standing) => void
  /** blocks inside a block, in their order */
  blocks: (list: readonly PreparedBlock[], at: Standing) => Generator<Page>
  /** the flow of a report nested in this one: its blocks go on the same paper, with values of their own */
  inside: (layout: PreparedLayout, values: Values) => Flow
  /** what is noticed in a nested report is told at its block, as that of the report of this name */
  noticedIn: (block: string, name: string, remarks: Remarks) => void
}
