import type { Standing } from '../formula/evaluate'
import { type Composer, lineHeight } from './compose'
import type { BoxPart, Page } from './page'
import type { PreparedColumn, PreparedTable } from './prepare'
import { look, type ResolvedStyle } from './style'
import type { CheckedText, PrintText } from './text'
import { wrapText } from './wrap'

interface Cell { column: PreparedColumn, width: number, lines: string[], late?: PrintText, style: ResolvedStyle }
interface Row { part: BoxPart, at: Standing, cells: Cell[], height: number, ruleBelow: number, ruleAbove: number }

type StyledPart = keyof PreparedColumn['styles']

/**
 * Lays out a table, breaking it over pages: titles repeat, the last line stays with the table's end, and where the table goes on,
 * the carried row stands as the last of the page and, with the same figure, as the first of the next (rules 19 to 21 of the semantics).
 */
export function* composeTable(composer: Composer, table: PreparedTable, at: Standing): Generator<Page> {
  const stretches = [...composer.lineage.covered(at.from, at.to, at.level, table.level)]
  // one parent's children lie together; where they do not (a sibling branch), each stretch goes on from the last
  const rows = stretches.flatMap(([from, to]) => Array.from({ length: to - from }, (_, index) => from + index))
  const first = rows[0] ?? 0
  const end = (rows.at(-1) ?? -1) + 1
  const { block } = table
  const whole: Standing = { level: table.level, from: first, to: Math.max(end, first) }
  const titles = block.columns.some(column => column.title.trim()) ? measure(composer, table, 'titles', whole) : undefined
  const endRow = block.end ? measure(composer, table, 'end', whole) : undefined
  const carriedHeight = block.carried ? measure(composer, table, 'carried', { ...whole, carriedFrom: first, carriedTo: first }, block.carried.forward).height : 0

  composer.open()
  let started = false
  const start = function* (room: number): Generator<Page> {
    const needed = (titles?.height ?? 0) + room
    if (composer.y + needed > composer.bodyBottom && composer.y > composer.bodyTop) yield* composer.newPage()
    if (titles) draw(composer, table, titles)
    started = true
  }
  const turn = function* (next: number): Generator<Page> {
    const carriedTo = { level: table.level, from: next, to: next + 1, carriedFrom: first, carriedTo: next }
    if (block.carried) draw(composer, table, measure(composer, table, 'carried', carriedTo, block.carried.forward), 'forward')
    yield* composer.newPage()
    if (titles && block.repeatTitles) draw(composer, table, titles)
    if (block.carried) draw(composer, table, measure(composer, table, 'carried', carriedTo, block.carried.brought), 'brought')
  }

  for (let index = 0; index < rows.length; index++) {
    const record = rows[index]!
    const last = index === rows.length - 1
    const row = measure(composer, table, 'line', { level: table.level, from: record, to: record + 1 })
    const after = last ? endRow?.height ?? 0 : carriedHeight
    if (!started) yield* start(row.height + after)
    else if (composer.y + row.height + after > composer.bodyBottom) yield* turn(record)
    if (composer.y + row.height + after <= composer.bodyBottom) draw(composer, table, row)
    else yield* drawTall(composer, table, row, after, () => titles && block.repeatTitles ? titles : undefined)
  }
  if (!started) yield* start(endRow?.height ?? 0)
  if (endRow) {
    if (composer.y + endRow.height > composer.bodyBottom) yield* composer.newPage()
    draw(composer, table, endRow)
  }
}

/** A row taller than a page breaks between its lines of text. */
function* drawTall(composer: Composer, table: PreparedTable, row: Row, after: number, titles: () => Row | undefined): Generator<Page> {
  const tallest = Math.max(...row.cells.map(cell => lineHeight(cell.style)))
  let done = 0
  const total = Math.max(...row.cells.map(cell => cell.lines.length))
  while (done < total) {
    const left = total - done
    const room = (reserve: number) => Math.max(1, Math.floor((composer.bodyBottom - composer.y - reserve - 2 * look.cellPadding.y) / tallest))
    const fitsLast = left <= room(after)
    const count = fitsLast ? left : Math.min(left > 1 ? left - 1 : 1, room(0))
    draw(composer, table, {
      ...row, height: count * tallest + 2 * look.cellPadding.y,
      cells: row.cells.map(cell => ({ ...cell, lines: cell.lines.slice(done, done + count) })),
    })
    done += count
    if (done < total) {
      yield* composer.newPage()
      const again = titles()
      if (again) draw(composer, table, again)
    }
  }
}

function measure(composer: Composer, table: PreparedTable, part: StyledPart, at: Standing, caption = ''): Row {
  const texts = table.columns.map((column): { source: CheckedText | undefined, text: string, late?: PrintText } => {
    const source = part === 'titles' ? column.title : part === 'line' ? column.text : part === 'end' ? column.end : column.carried
    if (!source) return { source, text: '' }
    const print = composer.print(source)
    return source.late ? { source, text: '', late: print } : { source, text: print(at) }
  })
  if (caption) {
    const place = Math.max(0, texts.findIndex(each => !each.source))
    texts[place] = { source: undefined, text: caption }
  }
  const cells: Cell[] = []
  let height = 0
  for (let index = 0; index < texts.length; index++) {
    const { text, late } = texts[index]!
    const column = table.columns[index]!
    const style = part === 'carried' && caption && text === caption ? { ...column.styles.carried, align: 'left' as const } : column.styles[part]
    let width = column.width
    // a text runs on over the empty cells after it: a label up to the next figure, a line's text where nothing else follows
    if (text && style.align === 'left' && part !== 'titles') {
      let next = index + 1
      while (next < texts.length && texts[next]!.text === '' && !texts[next]!.late) next++
      if (part !== 'line' || next === texts.length) for (let over = index + 1; over < next; over++) width += table.columns[over]!.width
    }
    const lines = late ? [''] : wrapText(text, style.font, style.size, width - 2 * look.cellPadding.x)
    height = Math.max(height, lines.length * lineHeight(style))
    cells.push({ column, width, lines, style, ...(late ? { late } : {}) })
  }
  const ruleBelow = part === 'titles' ? look.rules.titles : 0
  const ruleAbove = part === 'end' ? look.rules.end : 0
  return { part: part === 'carried' ? 'forward' : part, at, cells, height: height + 2 * look.cellPadding.y, ruleBelow, ruleAbove }
}

function draw(composer: Composer, table: PreparedTable, row: Row, part: BoxPart = row.part): void {
  const top = composer.y
  const { id } = table.block
  composer.box(id, part, undefined, table.x, top, table.width, row.height, row.at)
  if (row.ruleAbove) composer.fill(table.x, top, table.width, row.ruleAbove, look.rule)
  for (const cell of row.cells) {
    const x = cell.column.x + look.cellPadding.x
    const width = cell.width - 2 * look.cellPadding.x
    const step = lineHeight(cell.style)
    let y = top + look.cellPadding.y
    if (cell.late) composer.writeLate(cell.late, row.at, x, width, y, cell.style)
    else {
      for (const line of cell.lines) {
        composer.writeLine(line, x, width, y, cell.style)
        y += step
      }
    }
    composer.box(id, part, cell.column.column.id, cell.column.x, top, cell.column.width, row.height, row.at)
  }
  if (row.ruleBelow) composer.fill(table.x, top + row.height - row.ruleBelow, table.width, row.ruleBelow, look.rule)
  composer.y += row.height
}
