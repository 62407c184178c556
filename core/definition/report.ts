import type { TieOut } from './tieOuts'
import type { HandedTotal } from './handsOut'
import type { ThemeDefinition } from './style'
import type { DataSetDefinition } from './levels'
import type { TableDefinition } from './tables'
import type { ParameterDefinition } from './parameters'
import type { PageSetup } from './page'
import type { PanelBlock } from './blocks/panel'
import type { Block } from './blocks/block'

/** The newest format of a report definition that this program reads and writes. */
export const formatVersion = 2

/** A report: an immutable value; every edit makes a new one (core/definition/edits.ts). */
export interface ReportDefinition {
  format: typeof formatVersion
  /** language tag of the printed document, e.g. "en-GB" */
  language: string
  parameters: ParameterDefinition[]
  /** the first one is what the layouts print */
  dataSets: DataSetDefinition[]
  /** tables of the report's own, made from texts, summaries and stacked sets; see TableDefinition */
  tables?: TableDefinition[]
  layouts: LayoutDefinition[]
  /** name of the layout that is used where none is asked for; the first where it is left out */
  layout?: string
  /** how its files are called: a text with its answers in it; its name and answers where it is left out */
  fileName?: string
  /** kinds of files that readers are offered; all where it is left out */
  formats?: string[]
  /** themes of the report's own, beside ours */
  themes?: ThemeDefinition[]
  /** equalities that must hold at every run */
  tieOuts?: TieOut[]
  /** totals that a report hands out where it is nested in another */
  handsOut?: HandedTotal[]
  /** texts in other languages: language, then the text as written, then its translation */
  translations?: Record<string, Record<string, string>>
}

/** Lengths on the page are points of 1/72 inch. */
export interface LayoutDefinition {
  name: string
  page: PageSetup
  /** name of one of our themes, or of one of the report's own */
  theme?: string
  /** the letterhead that all reports share stands as page top instead of `top` */
  letterhead?: boolean
  top?: PanelBlock
  foot?: PanelBlock
  /** page top and foot of a document's first page, where they differ */
  firstTop?: PanelBlock
  firstFoot?: PanelBlock
  blocks: Block[]
  /** name of the PDF of each document, where each is written by itself: a text with values in it */
  documentName?: string
  /** its PDF is made to be kept and read aloud (PDF/A, tagged); left out, where the layout is of documents */
  archive?: boolean
}
