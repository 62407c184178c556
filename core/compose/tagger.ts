import type { Page } from './page'
import type { PreparedTable } from './prepared'
import { type Tag, type TagRole, tagRoles } from './tags'

const role = (name: TagRole): number => tagRoles.indexOf(name)

/** Says what is drawn is to be read as, in the order in which it is drawn. */
export class Tagger {
  private tables = 0
  private row = -1
  /** the table whose rows were tagged last, and whether that was its titles */
  private table: PreparedTable | undefined
  private titled = false
  /** nothing is read: page tops and feet that stand again */
  silent = false

  constructor(private readonly page: () => Page) {}

  /** How much is drawn on the page at hand: where a stretch begins or ends. */
  get at(): number {
    return this.page().items.length
  }

  private put(tag: Tag): void {
    if (!this.silent && tag[1] > tag[0]) (this.page().tags ??= []).push(tag)
  }

  /** A text of a panel; it ends the table before it. */
  text(from: number, heading: boolean): void {
    if (!this.silent) this.table = undefined
    this.put([from, this.at, role(heading ? 'heading' : 'paragraph')])
  }

  /** A row of a table begins. Comes back with what tags its cells; nothing for rows that stand again, or only carry a sum over. */
  rowOf(
    table: PreparedTable,
    kind: string,
    again: boolean,
  ): ((from: number, column: number, span: number, head: boolean) => void) | undefined {
    if (again || kind === 'forward' || kind === 'brought') return undefined
    const titles = kind === 'titles'
    if (this.table !== table || (titles && !this.titled)) {
      this.table = table
      this.tables++
      this.row = -1
    }
    this.titled = titles
    const [own, row, columns] = [this.tables, ++this.row, table.columns.length]
    return (from, column, span, head) =>
      this.put([from, this.at, role(titles ? 'columnHead' : head ? 'rowHead' : 'cell'), own, row, column, span, columns])
  }
}
