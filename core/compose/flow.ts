import type { Standing } from '../formula/standing'
import { valueAt } from '../value/columns'
import { dayText } from '../value/date'
import { plainText } from '../value/plain'
import type { EInvoice } from '../einvoice/invoice'
import { breaches } from '../einvoice/rules'
import { TermError } from '../einvoice/told'
import type { DataRecords } from '../value/records'
import { kindOf } from './blocks/registry'
import { faultsOf } from '../payment/rules'
import type { Transfer } from '../payment/transfer'
import { invoiceAt, type PreparedInvoice } from './einvoice'
import { transfersOf } from './payments'
import type { LayoutNotice } from './notices'
import { InnerFlow } from './nested/flow'
import type { Page } from './page'
import { drawPanel, measurePanel } from './panel'
import { Paper, type PaperOptions } from './paper'
import type { Flow } from './place'
import type { PreparedBlock, PreparedLayout, PreparedPanel, PreparedPayments, PreparedTable } from './prepared'
import { Remarks } from './remarks'
import { type ValueOptions, Values } from './values'

/** Blocks in their order, each with the empty space under it; one whose rule does not hold leaves no gap (rule 19). */
function* composeBlocks(flow: Flow, list: readonly PreparedBlock[], at: Standing): Generator<Page> {
  const { paper } = flow
  for (const prepared of list) {
    if (prepared.showWhen && !flow.values.holds(prepared.showWhen, at)) continue
    flow.trailing = 0
    yield* kindOf(prepared).compose(prepared, at, flow)
    const within = prepared.inner ? flow.trailing : 0
    const under = paper.page && !paper.fresh ? prepared.block.after : 0
    paper.y += under
    flow.trailing = within + under
  }
}

export interface ComposeOptions extends ValueOptions, PaperOptions {
  /** hears of each record that is told as an e-invoice, before its pages: what it is told, or why it cannot be */
  invoices?: (told: EInvoice | TermError) => void
  /** hears of each payment that a table tells: what it is, or why it cannot be */
  payments?: (told: Transfer | TermError) => void
  /** e-invoices and payments are made only to tell what is wrong with them */
  checksTold?: boolean
}

/**
 * Makes pages out of a layout and records, chunk after chunk of root records: values are worked out, blocks lay them out in their order,
 * and the paper takes what is drawn.
 */
export class Composer implements Flow {
  readonly values: Values
  readonly paper: Paper
  readonly remarks: Remarks
  /** the record in which the blocks at hand stand */
  within: Standing = { level: 0, from: 0, to: 0 }
  /** the next page carries them: the name of the record that begins there, and that of its document */
  label: string | undefined
  documentName: string | undefined
  trailing = 0

  /** `values` may be those of a composer before this one, over the same records, answers and levels: what they have worked out is kept. */
  constructor(
    readonly layout: PreparedLayout,
    readonly options: ComposeOptions,
    values?: Values,
  ) {
    this.values = values ?? new Values(layout.language, options)
    this.paper = new Paper(layout, options)
    this.paper.opening = page => this.opened(page)
    this.remarks = new Remarks(this.values, this.paper)
  }

  /** Pages completed by the next records, or by those of them whose root is `first` or comes after it. */
  *add(data: DataRecords, first = 0): Generator<Page> {
    if (this.values.data !== data) this.values.use(data)
    // values that were used before may have stopped within a record of another language
    this.values.speak(this.layout.language)
    const all: Standing = { level: 0, from: first, to: data.levels[0]!.count }
    yield* this.checked(this.blocks(this.layout.blocks, all))
    this.paper.recordsBefore += all.to
  }

  /** The pages that are still held when all records have come. */
  *end(): Generator<Page> {
    this.paper.end()
    yield* this.checked(this.paper.drain())
  }

  /** Pages on their way out; while they are designed, what cannot be printed on them is noticed. */
  private checked(pages: Generator<Page>): Generator<Page> {
    const { remarks } = this
    return this.options.checksTold ? told(pages) : pages
    function* told(all: Generator<Page>): Generator<Page> {
      for (const page of all) {
        remarks.signs(page)
        yield page
      }
    }
  }

  blocks(list: readonly PreparedBlock[], at: Standing): Generator<Page> {
    return composeBlocks(this, list, at)
  }

  inside(layout: PreparedLayout, values: Values): Flow {
    return new InnerFlow(layout, values, this.paper, composeBlocks)
  }

  noticedIn(block: string, name: string, remarks: Remarks): void {
    this.remarks.take(block, name, remarks)
  }

  /** What has been noticed so far on layout and data. */
  notices(): LayoutNotice[] {
    return this.remarks.list()
  }

  /** The page top and foot of a page that begins. */
  private opened(page: Page): void {
    const { paper, within, layout } = this
    const first = page.number === 1
    const top = first && layout.firstTop ? layout.firstTop : layout.top
    const foot = first && layout.firstFoot ? layout.firstFoot : layout.foot
    if (within.to > within.from) page.record = this.values.lineage.up(within.from, within.level, 0) + paper.recordsBefore
    if (this.label !== undefined) page.label = this.label
    this.label = undefined
    if (this.documentName !== undefined) page.document = this.documentName
    this.documentName = undefined
    const shown = (panel: PreparedPanel | undefined) =>
      panel && !(panel.showWhen && !this.values.holds(panel.showWhen, within)) ? panel : undefined
    const [above, below] = [shown(top), shown(foot)]
    const { tagger } = paper
    if (tagger) page.language = this.values.language
    // the page top is read once for each document, page feet never
    if (tagger) tagger.silent = !first
    if (above) {
      const measured = measurePanel(this, above, within)
      drawPanel(this, above, measured.pieces, paper.bodyTop, measured.height, within)
      paper.bodyTop += measured.height + above.block.after
    }
    if (tagger) tagger.silent = true
    if (below) {
      const measured = measurePanel(this, below, within)
      paper.bodyBottom -= measured.height
      drawPanel(this, below, measured.pieces, paper.bodyBottom, measured.height, within)
      paper.bodyBottom -= below.block.after
    }
    if (tagger) tagger.silent = false
  }

  /**
   * What tells a row of a block from all others in any run: the key of its record, or the labels of its groups, under the record in which
   * the block stands. Nothing where it only stands again.
   */
  rowKey(at: Standing): string | undefined {
    if (!this.options.keys || at.continued) return undefined
    const within = at.outer ?? this.within
    if (at.covered?.line || (!at.covered && at.to - at.from === 1)) return this.recordKey(at.level, at.from)
    const labels: string[] = []
    for (let node = at.covered?.node; node && node.depth >= 0; node = node.parent) labels.unshift(node.others ? 'all others' : node.label)
    return JSON.stringify([within.to - within.from === 1 ? this.recordKey(within.level, within.from) : '', ...labels])
  }

  /** An e-invoice begins: whoever asked for it hears of it, or what is wrong with it is noticed. */
  invoice(prepared: PreparedInvoice, at: Standing, block: string): void {
    const { invoices, checksTold } = this.options
    if (!invoices && !checksTold) return
    const told = orTermError(() => invoiceAt(prepared, at, this.values))
    if (invoices) return invoices(told)
    if (told instanceof TermError) this.remarks.invoice(block, 'term', told.message)
    else for (const { rule, sentence } of breaches(told)) this.remarks.invoice(block, rule, `${told.number}: ${sentence} (${rule})`)
  }

  /** The rows of a table as payments: whoever asked for them hears of each, or what is wrong with it is noticed. */
  payments(table: PreparedTable, prepared: PreparedPayments, at: Standing): void {
    const { payments, checksTold } = this.options
    if (!payments && !checksTold) return
    for (const each of transfersOf(this, table, prepared, at)) {
      const told = orTermError(each)
      if (payments) payments(told)
      else if (told instanceof TermError) this.remarks.payment(table.block.id, 'term', told.message)
      else for (const { rule, sentence } of faultsOf(told)) this.remarks.payment(table.block.id, rule, sentence)
    }
  }

  private recordKey(level: number, row: number): string {
    const { columns } = this.values.data.levels[level]!
    const { key } = this.options.levels[level]!
    return JSON.stringify(key.map(path => (columns[path] ? plainText(valueAt(columns[path], row), dayText) : row)))
  }
}

/** What work gives, or the error of the term that it cannot be made of. */
function orTermError<T>(work: () => T): T | TermError {
  try {
    return work()
  } catch (error) {
    if (error instanceof TermError) return error
    throw error
  }
}
