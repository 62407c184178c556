import type { Block } from '../../definition/blocks/block'
import type { PreparedBlock } from '../prepared'
import { breakKind } from './break'
import { chartKind } from './chart'
import type { BlockKind } from './contract'
import { crosstabKind } from './crosstab'
import { nestedKind } from './nested'
import { panelKind } from './panel'
import { repeatKind } from './repeat'
import { statementKind } from './statement'
import { tableKind } from './table'
import { tiesKind } from './ties'

/** All kinds of blocks: nothing else knows which there are. */
const kinds = [
  panelKind,
  tableKind,
  crosstabKind,
  statementKind,
  chartKind,
  nestedKind,
  repeatKind,
  tiesKind,
  breakKind,
] as unknown as readonly BlockKind[]
const byName = new Map(kinds.map(each => [each.kind, each]))

/** The kind of a block, of a definition or prepared. */
export function kindOf(block: Block | PreparedBlock): BlockKind {
  return byName.get(block.kind)!
}
