import type { NestedBlock } from '../../definition/blocks/nested'
import { foundNested } from '../nested/found'
import { type PreparedNested, prepareNested } from '../nested/prepare'
import type { Flow } from '../place'
import { resolveStyle } from '../style'
import { type BlockKind, said } from './contract'

/** How high the name of a report stands where its records have not been read yet, in points. */
const waiting = 18

/** Another report, in the width of the block: it takes the height that it needs, and goes on over pages. */
export const nestedKind: BlockKind<NestedBlock, PreparedNested> = {
  kind: 'nested',
  prepare: prepareNested,
  *compose(nested, at, flow) {
    const { paper, values } = flow
    const { block, x, width } = nested
    const box = (from: number) =>
      paper.box(block.id, 'block', undefined, x, from, width, paper.y - from, at, undefined, undefined, block.name)
    if (!values.options.nested?.has(block.id) || !values.data.nested?.has(block.id)) {
      paper.open()
      if (paper.y + waiting > paper.bodyBottom) yield* paper.newPage()
      const style = resolveStyle(flow.layout.theme, { italic: true })
      paper.writeLine(block.name, x, width, paper.y, style)
      paper.y += waiting
      box(paper.y - waiting)
      return
    }
    remarkUnread(nested, flow)
    const found = foundNested(nested, flow, at)
    if (!found) return
    paper.open()
    let from = paper.y
    const part = () => paper.y > from && box(from)
    paper.nest({ x, report: true, leaves: part, enters: () => (from = paper.y) })
    const inner = flow.inside(found.layout, found.values)
    yield* inner.blocks(found.layout.blocks, found.at)
    if (paper.page && !paper.fresh) paper.y -= inner.trailing
    paper.unnest()
    if (paper.page) part()
    flow.noticedIn(block.id, found.report.name, inner.remarks)
  },
  *grid(nested, at, grid) {
    const found = foundNested(nested, grid, at)
    if (found) yield* grid.inside(nested.block.id, nested.x, found.layout, found.values).blocks(found.layout.blocks, found.at)
  },
  others(nested, { values }) {
    const report = values.options.nested?.get(nested.block.id)
    return report && { blocks: report.laidOut(nested.width).layout.blocks, x: nested.x }
  },
  wordings: block => ({ texts: [], formulas: said(block.showWhen, ...block.feeds.map(each => each.formula)) }),
}

/** A preview that has not read all of it says so. */
function remarkUnread({ block }: PreparedNested, { values, remarks }: Flow): void {
  const { left, said } = values.data.nested!.get(block.id)!
  const tell = (what: string, sentence: string) =>
    remarks.count(`nested ${what} ${block.id}`, { kind: 'nested', block: block.id, part: 'block', sentence, remedies: [] })
  if (said) tell('said', `“${block.name}” is left out where it cannot be read: ${said}`)
  if (left)
    tell(
      'left',
      `“${block.name}” is left out for ${left.toLocaleString('en')} of its different answers; let it be read more often, or let its ` +
        `filter compare a field with the parameter.`,
    )
}
