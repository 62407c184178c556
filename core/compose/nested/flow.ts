import type { Standing } from '../../formula/standing'
import type { Page } from '../page'
import type { Paper } from '../paper'
import type { Flow } from '../place'
import type { PreparedBlock, PreparedLayout } from '../prepared'
import { Remarks } from '../remarks'
import type { Values } from '../values'

/** The blocks of a nested report, on the paper of the report around it: they have no page tops and no documents of their own. */
export class InnerFlow implements Flow {
  within: Standing = { level: 0, from: 0, to: 0 }
  label: string | undefined
  documentName: string | undefined
  trailing = 0
  readonly remarks: Remarks

  constructor(
    readonly layout: PreparedLayout,
    readonly values: Values,
    readonly paper: Paper,
    private readonly compose: (flow: Flow, list: readonly PreparedBlock[], at: Standing) => Generator<Page>,
  ) {
    this.remarks = new Remarks(values, paper)
  }

  blocks(list: readonly PreparedBlock[], at: Standing): Generator<Page> {
    return this.compose(this, list, at)
  }

  inside(layout: PreparedLayout, values: Values): Flow {
    return new InnerFlow(layout, values, this.paper, this.compose)
  }

  noticedIn(block: string, name: string, remarks: Remarks): void {
    this.remarks.take(block, name, remarks)
  }

  /** Rows of a nested report are told apart by nothing: another run has them under other records. */
  rowKey(): undefined {
    return undefined
  }
}
