import { boolean, object } from 'yup'
import { name, points } from '../checks'
import { blockFields } from './base'
import type { BlockShape } from './shape'
import type { BlockBase } from './base'

/** What the tie-outs of the run came to, printed where it stands: each with both figures and their difference. */
export interface TiesBlock extends BlockBase {
  kind: 'ties'
  left: number
  /** 0 takes all the text width that is left */
  width: number
  /** only those that do not hold */
  failedOnly: boolean
}

export const tiesShape: BlockShape<TiesBlock> = {
  kind: 'ties',
  schema: () =>
    object({
      ...blockFields,
      kind: name,
      left: points.min(0),
      width: points.min(0),
      failedOnly: boolean().strict().required(),
    }).noUnknown(),
}

export const isTies = (block: { kind: string } | undefined): block is TiesBlock => block?.kind === 'ties'
