import type { RepeatBlock } from '../../definition/blocks/block'
import type { Standing } from '../../formula/standing'
import type { Typed } from '../../formula/typed'
import { formulasOf, type PreparedInvoice, prepareInvoice } from '../einvoice'
import type { PreparedBlock } from '../prepared'
import type { CheckedText } from '../text'
import type { Values } from '../values'
import { type BlockKind, said } from './contract'

export interface PreparedRepeat extends PreparedBlock {
  block: RepeatBlock
  outline?: CheckedText
  language?: Typed
  einvoice?: PreparedInvoice
  inner: PreparedBlock[]
}

/** The records over which it goes, under the record in which it stands. */
function* recordsOf({ level }: PreparedRepeat, at: Standing, values: Values): Generator<Standing> {
  for (const [from, to] of values.lineage.covered(at.from, at.to, at.level, level))
    for (let row = from; row < to; row++) yield { level, from: row, to: row + 1 }
}

/** Goes over to the language of a record. */
function speak({ language }: PreparedRepeat, own: Standing, values: Values, otherwise: string): void {
  if (language) values.speak(String(values.evaluate(language)(own) ?? otherwise))
}

/** Its inner blocks once for each record of a level. */
export const repeatKind: BlockKind<RepeatBlock, PreparedRepeat> = {
  kind: 'repeat',
  prepare(block, under, scope) {
    const level = scope.levelNamed(block.level, block, under)
    const at = { block: block.id, place: 'outline' as const }
    const outline = block.outline ? scope.text(block.outline, scope.at(level), at) : undefined
    const language = scope.formula(block.language, scope.at(level), at, false)
    const einvoice = prepareInvoice(block, level, scope)
    const inner = block.blocks.map(each => scope.block(each, level))
    return {
      kind: 'repeat',
      block,
      level,
      showWhen: scope.rule(block, under),
      streams: level === 0,
      restarts: block.restartNumbers,
      printsTies: inner.some(each => each.printsTies),
      columnsByRecords: inner.some(each => each.columnsByRecords),
      ...(outline ? { outline } : {}),
      ...(language ? { language } : {}),
      ...(einvoice ? { einvoice } : {}),
      inner,
    }
  },
  *compose(repeat, at, composer) {
    const { block } = repeat
    const { paper, values, layout } = composer
    let first = true
    for (const own of recordsOf(repeat, at, values)) {
      const outer = composer.within
      composer.within = own
      // the first record of a nested report goes on where that stands
      if (paper.nested && first) first = false
      else if (block.restartNumbers) paper.restart()
      else if (block.newPage && paper.page && !paper.fresh) paper.close()
      const { language } = values
      speak(repeat, own, values, layout.language)
      if (repeat.outline) composer.label = values.print(repeat.outline)(own)
      if (layout.documentName && block.restartNumbers) composer.documentName = values.print(layout.documentName)(own)
      if (repeat.einvoice) composer.invoice?.(repeat.einvoice, own, block.id)
      yield* composer.blocks(repeat.inner, own)
      if (block.restartNumbers) paper.finish()
      composer.within = outer
      if (repeat.language) values.speak(language)
      yield* paper.drain()
    }
  },
  *grid(repeat, at, grid) {
    const { block } = repeat
    const { values, layout } = grid
    for (const own of recordsOf(repeat, at, values)) {
      const { language } = values
      speak(repeat, own, values, layout.language)
      if (block.restartNumbers || block.newPage) {
        const name = layout.documentName ?? repeat.outline
        yield* grid.document(name ? values.print(name)(own) : '', own)
      }
      yield* grid.blocks(repeat.inner, own)
      if (repeat.language) values.speak(language)
    }
  },
  wordings: block => ({ texts: said(block.outline), formulas: said(block.showWhen, block.language, ...formulasOf(block)) }),
}
