import type { Block } from '../../definition/blocks/block'
import type { Standing } from '../../formula/standing'
import type { GridEvent, GridFlow } from '../gridRows'
import type { Page } from '../page'
import type { Flow, Place } from '../place'
import type { PreparedBlock, PreparedTable } from '../prepared'
import type { PrepareScope } from '../prepareScope'
import type { CheckedText } from '../text'

/** What a block of a definition says of itself without any data: its texts, and its formulas that are not printed. */
export interface Wordings {
  /** texts with values in them: they can be found and translated */
  texts: string[]
  /** formulas that are not printed: rules, groups, orders */
  formulas: string[]
  /** groups that its formulas may speak of */
  groups?: string[]
}

/** Those of some texts that say something. */
export function said(...texts: readonly (string | undefined)[]): string[] {
  return texts.filter((text): text is string => text !== undefined && text !== '')
}

/**
 * A kind of block: all that the program does with it, from its definition to pages and sheets. A new kind is a module with one of these,
 * its type and schema in core/definition/blocks/, and a line in each of the two registries.
 */
export interface BlockKind<B extends Block = Block, P extends PreparedBlock = PreparedBlock> {
  kind: B['kind']
  /** its formulas checked at their places; `under` is the level around it. What is wrong, noticed or read goes to the scope */
  prepare: (block: B, under: number, scope: PrepareScope) => P
  /** what it needs of the other blocks of its layout, once all are prepared */
  link?: (prepared: P, all: readonly PreparedBlock[], problem: PrepareScope['problem']) => void
  /** its pages, from the cursor on */
  compose: (prepared: P, at: Standing, flow: Flow) => Generator<Page>
  /** its rows on a sheet; left out, it has none there */
  grid?: (prepared: P, at: Standing, grid: GridFlow) => Generator<GridEvent>
  /** the table whose columns a sheet can take on; those of some are known only when there are records */
  columns?: (prepared: P, place: Place | undefined) => PreparedTable | undefined
  /** blocks of another report that it prints, and how far to the right they stand, in points */
  others?: (prepared: P, place: Place) => { blocks: readonly PreparedBlock[]; x: number } | undefined
  /** its figures are told cell by cell too: see GridCells */
  cellByCell?: true
  /** how deep its rows lie in the outline of a sheet */
  depth?: (prepared: P) => number
  /** what it says and asks for in the formula language; wordings of blocks inside it are their own */
  wordings: (block: B) => Wordings
  /** the text behind a box of a page, to be traced */
  textAt?: (prepared: P, at: { block: string; rowId?: string; cell: string }) => CheckedText | undefined
  /** what its rows are compared by, between two runs: which cells hold numbers, and whether these add up */
  compared?: (prepared: P) => { block: string; addsUp: boolean; isNumber: (row: string, cell: string) => boolean }[]
  /** columns of the level's table that it reads without a formula */
  reads?: (block: B) => readonly string[]
}
