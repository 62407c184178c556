import { totalledLevels } from './totals'
import { valueAt } from '../value/columns'
import type { GroupNode, Standing } from '../formula/standing'
import { add, type Decimal, isZero, zero } from '../value/decimal'
import { numberFormat } from '../value/numberFormat'
import { lacking } from './fonts'
import type { Page } from './page'
import type { Paper } from './paper'
import type { Values } from './values'
import type { Shaped } from '../shape/groups'
import { datedSentence, type LayoutNotice } from './notices'
import type { PreparedCell, PreparedRow, PreparedTable } from './prepared'

/** What is noticed while pages are made, each kind of thing once, with how often it occurred. */
export class Remarks {
  private remarks = new Map<string, LayoutNotice & { count: number; longest: number }>()
  private readonly hidden = new Map<string, Map<string, Decimal>>()
  private readonly dated = new Map<string, number[]>()
  constructor(
    private readonly values: Values,
    private readonly paper: Pick<Paper, 'page'>,
  ) {}

  /** All that is noticed up to now, to go back to after something was only measured. */
  keep(): ReadonlyMap<string, LayoutNotice & { count: number; longest: number }> {
    return new Map(this.remarks)
  }

  restore(kept: ReturnType<Remarks['keep']>): void {
    this.remarks = new Map(kept)
  }

  /** Records that are aged by another date than they should be (rule 25) are counted. */
  dates(table: PreparedTable, rows: Int32Array): void {
    const level = this.values.options.levels[table.level]!
    const done = new Set<string>()
    for (const { name, dates } of level.definition.ageings ?? []) {
      const column = this.values.data.levels[table.level]!.columns[`${name}_from`]
      if (!column) continue
      const key = `dates ${table.block.id} ${dates.join(' ')}`
      if (done.has(key)) continue
      done.add(key)
      const counts = this.dated.get(key) ?? dates.map(() => 0)
      this.dated.set(key, counts)
      for (const row of rows) {
        const place = valueAt(column, row)
        if (place !== null && typeof place === 'object') counts[Number(place.units)]!++
      }
      const named = dates.map(date => `“${level.fields.get(date)?.caption ?? date}”`)
      const sentence = datedSentence(level.caption, named, counts)
      if (!sentence) continue
      this.count(key, { kind: 'dates', block: table.block.id, part: 'line', sentence, remedies: [] })
      this.remarks.get(key)!.sentence = sentence
    }
  }

  /** Rule 8 of the semantics: records above that stand in more than one group are told where a total of theirs is printed. */
  split(table: PreparedTable, { rows, root }: Shaped): void {
    const depth = table.groups.length - 1
    if (depth < 0 || table.level === 0) return
    const above = new Set(
      table.rows
        .filter(row => row.depth >= 0 && row.depth <= depth)
        .flatMap(row => row.cells.flatMap(cell => cell.text.formulas))
        .flatMap(totalledLevels)
        .filter(level => level < table.level && level >= 0),
    )
    const leaves: GroupNode[] = []
    const visit = (node: GroupNode): void => void (node.children.length ? node.children.forEach(visit) : leaves.push(node))
    visit(root)
    this.severalGroups({ id: table.block.id, level: table.level, part: 'groupEnd', above }, () =>
      leaves.map(({ from, to }) => rows.subarray(from, to)),
    )
  }

  /** Tells of records above that stand in more than one of some groups of records. */
  severalGroups(
    block: { id: string; level: number; part: LayoutNotice['part']; above: ReadonlySet<number> },
    groups: () => Iterable<Int32Array>,
  ): void {
    for (const level of block.above) {
      const seen = new Map<number, number>()
      const several = new Set<number>()
      let group = 0
      for (const rows of groups()) {
        group++
        for (const own of rows) {
          const row = this.values.lineage.up(own, block.level, level)
          const before = seen.get(row)
          if (before !== undefined && before !== group) several.add(row)
          seen.set(row, group)
        }
      }
      if (!several.size) continue
      const caption = this.values.options.levels[level]!.caption.toLowerCase()
      this.count(`split ${block.id} ${level}`, {
        kind: 'split',
        block: block.id,
        part: block.part,
        sentence:
          `${several.size} ${several.size === 1 ? `${caption} stands` : `${caption} records stand`} in more than one ` +
          `group, so that the groups’ totals of ${caption} add up to more than the total of all.`,
        remedies: [],
      })
    }
  }

  count(key: string, notice: LayoutNotice): void {
    const found = this.remarks.get(key)
    if (found) found.count++
    else this.remarks.set(key, { ...notice, count: 1, longest: 0, ...(this.paper.page ? { page: this.paper.page.overall - 1 } : {}) })
  }

  /** Remarks on text that does not fit. */
  tooNarrow(what: {
    kind: 'cut' | 'narrow'
    table: PreparedTable
    row: string
    cell: string
    part: LayoutNotice['part']
    longest: number
    columnWidth: number
  }): void {
    const { kind, table, row, cell, part, columnWidth } = what
    const block = table.block.id
    if (table.wideRemedies)
      return this.count(`wide ${block}`, {
        kind,
        block,
        part: 'block',
        sentence: 'Some of the statement’s columns are too narrow for what stands in them.',
        remedies: table.wideRemedies,
      })
    const key = `${kind} ${block} ${row} ${cell}`
    this.count(key, { kind, block, row, cell, part, sentence: '', remedies: [] })
    const found = this.remarks.get(key)!
    found.longest = Math.max(found.longest, columnWidth)
    const many = found.count === 1 ? '1 value' : `${found.count} values`
    const title = columnTitle(table, cell)
    found.sentence = kind === 'cut' ? `The column “${title}” cuts ${many} off.` : `The column “${title}” is too narrow for ${many}.`
    found.remedies = found.longest
      ? [
          { label: 'Widen it', edit: 'setColumnWidth', args: [block, cell, found.longest] },
          { label: 'Fit it to its values', edit: 'setColumn', args: [block, cell, { fit: true }] },
          ...(kind === 'cut'
            ? [{ label: 'Wrap the text', edit: 'setStyle' as const, args: [block, cell, { overflow: 'wrap' }] }]
            : [{ label: 'Shrink the text', edit: 'setStyle' as const, args: [block, cell, { overflow: 'shrink' }] }]),
        ]
      : []
  }

  /** A total that adds up amounts of several currencies. */
  currencies(table: PreparedTable, row: PreparedRow, cell: PreparedCell, at: Standing): void {
    const { count, field, currency } = cell.mixes!
    const found = this.values.evaluate(count)(at)
    if (found === null || typeof found !== 'object' || Number(found.units) < 2) return
    const name = `${this.values.options.levels[field.level]!.name}.${field.path}`
    this.count(`currencies ${table.block.id} ${row.row.id} ${cell.id}`, {
      kind: 'currencies',
      block: table.block.id,
      row: row.row.id,
      cell: cell.id,
      part: row.row.kind,
      sentence: `The total of “${columnTitle(table, cell.id)}” adds up amounts of ${Number(found.units)} currencies.`,
      remedies: [
        ...(this.values.options.levels[field.level]!.fields.has(currency)
          ? [{ label: 'One line per currency', edit: 'setField' as const, args: [name, { currency }] }]
          : []),
        {
          label: 'Take the total out',
          edit: 'setText',
          args: [{ block: table.block.id, cell: cell.id, part: row.row.kind, row: row.row.id }, ''],
        },
      ],
    })
  }

  /** A line that no rule prints still counts (rule 9); what is hidden is told with its amounts. */
  hiddenLine(table: PreparedTable, at: Standing): void {
    const key = `hidden ${table.block.id}`
    this.count(key, { kind: 'hidden', block: table.block.id, part: 'line', sentence: '', remedies: [] })
    const found = this.remarks.get(key)!
    const totals = this.hidden.get(key) ?? new Map<string, Decimal>()
    this.hidden.set(key, totals)
    for (const row of table.rows) {
      if (row.row.kind !== 'end') continue
      for (const cell of row.cells) {
        const [total] = cell.text.formulas
        if (total?.is !== 'total' || total.name !== 'sum') continue
        const value = this.values.evaluate(total)(at)
        if (value !== null && typeof value === 'object') totals.set(cell.id, add(totals.get(cell.id) ?? zero, value))
      }
    }
    const print = numberFormat('#,##0.00##########', this.values.language)
    const amounts = [...totals].filter(([, sum]) => !isZero(sum)).map(([id, sum]) => `${print(sum)} in “${columnTitle(table, id)}”`)
    found.sentence =
      `${found.count === 1 ? '1 line is' : `${found.count} lines are`} hidden, since none of the rules of the line ` +
      `rows holds${amounts.length ? `; the totals count ${amounts.join(', ')} of ${found.count === 1 ? 'it' : 'them'}` : ''}.`
  }

  /** What an e-invoice breaks: each rule once, at the first that breaks it. */
  invoice(block: string, rule: string, sentence: string): void {
    this.count(`invoice ${block} ${rule}`, { kind: 'invoice', block, part: 'block', sentence, remedies: [] })
  }

  /** What a payment breaks: each rule once, at the first that breaks it. */
  payment(block: string, rule: string, sentence: string): void {
    this.count(`payment ${block} ${rule}`, { kind: 'payment', block, part: 'block', sentence, remedies: [] })
  }

  /** A picture or code that cannot be drawn. */
  picture(block: string, cell: string, sentence: string): void {
    this.count(`picture ${block} ${cell}`, { kind: 'picture', block, cell, part: 'item', sentence, remedies: [] })
  }

  /** Signs on a page that the paper's fonts have no glyph for, each told once, where it stands. */
  signs(page: Page): void {
    for (const item of page.items) {
      if (item.kind !== 'text') continue
      const sign = lacking(item.text, item.font)
      if (sign === undefined) continue
      const key = `signs ${sign}`
      const box = page.boxes.findLast(
        each => each.x - 1 <= item.x && item.x <= each.x + each.width && each.y - 1 <= item.y && item.y <= each.y + each.height + 1,
      )
      if (this.remarks.has(key) || !box) continue
      const { block, cell, part } = box
      const sentence = `The paper’s fonts have no “${sign}”; it is printed as a question mark.`
      this.count(key, { kind: 'signs', block, ...(cell === undefined ? {} : { cell }), part, sentence, remedies: [] })
    }
  }

  /** What was noticed in a nested report, told at its block; each kind of thing once, however often the report stands there. */
  take(block: string, name: string, inner: Remarks): void {
    for (const { kind, sentence, block: own, row, cell } of inner.list()) {
      const key = `nested ${block} ${kind} ${own} ${row ?? ''} ${cell ?? ''}`
      if (!this.remarks.has(key)) this.count(key, { kind, block, part: 'block', sentence: `In “${name}”: ${sentence}`, remedies: [] })
    }
  }

  /** What has been noticed so far. */
  list(): LayoutNotice[] {
    return [...this.remarks.values()].map(({ count: _, longest: __, ...notice }) => notice)
  }
}

/** What people call a column: its title, where that is a text by itself. */
function columnTitle({ block }: PreparedTable, id: string): string {
  const title =
    block.rows
      .find(row => row.kind === 'titles')
      ?.cells[id]?.text.trim()
      .replace(/\s+/g, ' ') ?? ''
  return title && !title.includes('{{') ? title : id
}
