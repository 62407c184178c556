import { name, points, rule } from '../checks'
import { boolean } from 'yup'
export interface BlockBase {
  /** unique within the report */
  id: string
  /** a formula; the block is left out where it does not hold */
  showWhen?: string
  /** empty space under it, in points */
  after: number
  /** it stands at the bottom of the body of the page it comes to */
  atBottom?: boolean
}

export const blockFields = { id: name, showWhen: rule, after: points, atBottom: boolean().strict() }
