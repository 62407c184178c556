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
