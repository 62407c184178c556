import { geometryOf } from './measure'
import type { Place } from '../place'
import { baseline } from '../fonts'
import type { BoxPart } from '../page'
import type { PreparedTable } from '../prepared'
import { borders, lineHeight, look } from '../style'
import type { MeasuredRow, Repeats } from './measured'

/** Draws a row at the place's place and moves on; one that stands again, on a further page, is not read again. */
export function drawRow(place: Place, table: PreparedTable, measured: MeasuredRow, repeats: Repeats, again = false): void {
  const { row, at, height } = measured
  const { padding } = table.theme
  const top = place.paper.y
  const { id } = table.block
  const part: BoxPart = row.row.kind
  measured.said?.forEach((text, key) => repeats.set(key, text))
  // only counted: nothing is drawn
  if (place.paper.dry) {
    place.paper.y += height
    return
  }
  place.paper.box(
    id,
    part,
    undefined,
    table.x,
    top,
    table.width,
    height,
    at,
    row.row.id,
    part === 'titles' || part === 'forward' || part === 'brought' ? undefined : place.rowKey(at),
  )
  if (measured.fill) place.paper.fill(table.x, top, table.width, height, measured.fill)
  for (const cell of measured.cells)
    if (cell.style.fill && cell.style.fill !== measured.fill) place.paper.fill(cell.x, top, cell.width, height, cell.style.fill)
  border(place, table, row.above, top, true)
  const geometry = geometryOf(place, table, at)
  for (const cell of row.cells) {
    const drawn = cell.spans && measured.cells.find(each => each.id === cell.id)
    if (drawn) place.paper.fill(drawn.x + padding.x, top + height - 0.5, drawn.width - 2 * padding.x, 0.5, look.hairline)
  }
  const tag = place.paper.tagger?.rowOf(table, part, again)
  for (const cell of measured.cells) {
    const { style, lines } = cell
    const from = tag ? place.paper.tagger!.at : 0
    const beside = cell.picture ? cell.picture.width + 5 : 0
    const x = cell.x + padding.x + (style.align === 'right' ? 0 : style.indent) + beside
    const width = cell.width - 2 * padding.x - style.indent - beside
    if (cell.picture) place.paper.picture(cell.picture.found, cell.x + padding.x, top + padding.y, cell.picture.width, cell.picture.height)
    const step = lineHeight(style)
    const room = height - 2 * padding.y - (style.rotated ? 0 : lines.length * step)
    let y = top + padding.y + (style.vertical === 'bottom' ? room : style.vertical === 'middle' ? room / 2 : 0)
    if (cell.late) place.paper.writeLate(cell.late, at, x, width, y, style)
    else if (style.rotated) {
      const left = width - lines.length * step
      const from = x + (style.align === 'right' ? left : style.align === 'centre' ? left / 2 : 0)
      lines.forEach((line, index) => place.paper.writeUp(line, from + index * step, top + height - padding.y - 2, style))
    } else if (cell.runs) {
      for (const line of cell.runs) {
        const all = line.reduce((sum, each) => sum + each.width, 0)
        const start = x + (style.align === 'right' ? width - all : style.align === 'centre' ? (width - all) / 2 : 0)
        for (const each of line) {
          place.paper.writeLine(
            each.run.text,
            start + each.x,
            each.width,
            y + baseline(style.font, style.size) - baseline(each.style.font, each.style.size),
            { ...each.style, align: 'left' },
          )
          if (each.run.marks.link) place.paper.link(each.run.marks.link, start + each.x, y, each.width, step)
        }
        y += step
      }
    } else {
      lines.forEach((line, index) => {
        place.paper.writeLine(line, x, width - (cell.tails?.[index] ?? 0), y, style)
        y += step
      })
    }
    if (tag) {
      const own = row.cells.find(each => each.id === cell.id)
      tag(from, cell.column, own?.span ?? 1, own?.heads === true)
    }
  }
  if (place.paper.options.boxes)
    table.columns.forEach(({ column }, index) => {
      const own = row.cells.find(cell => cell.column === index)?.at ?? at
      place.paper.box(id, part, column.id, geometry.x[index]!, top, geometry.width[index]!, height, own, row.row.id)
    })
  border(place, table, row.below, top + height, false)
  place.paper.y += height
}

/** A line above or below a row; a double one is two thin lines. */
function border(place: Place, table: PreparedTable, kind: string | undefined, y: number, above: boolean): void {
  if (!kind || kind === 'none') return
  const thickness = borders[kind as keyof typeof borders]
  const colour = kind === 'hair' ? look.hairline : table.theme.line
  const top = above ? y : y - thickness
  if (kind === 'double') {
    place.paper.fill(table.x, top, table.width, 0.7, colour)
    place.paper.fill(table.x, top + thickness - 0.7, table.width, 0.7, colour)
  } else place.paper.fill(table.x, top, table.width, thickness, colour)
}
