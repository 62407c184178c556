import type { BlockBase } from './base'

export interface BreakBlock extends BlockBase {
  kind: 'break'
}
