import { object } from 'yup'
import { name } from '../checks'
import { blockFields } from './base'
import type { BlockShape } from './shape'
import type { BlockBase } from './base'

export interface BreakBlock extends BlockBase {
  kind: 'break'
}

export const breakShape: BlockShape<BreakBlock> = { kind: 'break', schema: () => object({ ...blockFields, kind: name }).noUnknown() }

export const isBreak = (block: { kind: string } | undefined): block is BreakBlock => block?.kind === 'break'
