import { pie } from 'd3'
import { textWidth } from '../fonts'
import type { PageItem } from '../page'
import { look } from '../style'
import type { ChartData } from './data'
import { percentOf, seriesColour } from './data'
import type { DrawOptions } from './options'
import type { ChartBox, Plain, Write } from './frame'
import { sector } from './shapes'

/** Draws parts of a whole, clockwise from the top, each with its name, its share, and as wanted its figure, beside it. */
export function drawRound(
  data: ChartData,
  box: ChartBox,
  items: PageItem[],
  write: Write,
  plain: Plain,
  options: Pick<DrawOptions, 'figures' | 'onMark'>,
): void {
  const [own] = data.series
  if (!own) return
  const values = own.values.map(value => Math.max(0, value ?? 0))
  const whole = values.reduce((sum, value) => sum + value, 0)
  const radius = Math.max(10, Math.min(box.height, box.width * 0.5) / 2 - 2)
  const centre = { x: box.x + radius + 2, y: box.y + box.height / 2 }
  const parts = pie<number>().sort(null)(values)
  const inner = data.round === 'ring' ? radius * 0.58 : 0
  parts.forEach((part, at) => {
    if (part.endAngle - part.startAngle < 1e-6) return
    items.push({
      kind: 'shapes',
      x: 0,
      y: 0,
      scale: 1,
      shapes: [{ path: sector(centre.x, centre.y, inner, radius, part.startAngle, part.endAngle), fill: seriesColour(at) }],
    })
    // boxes along the part, since it is no rectangle: what they cover leads to its records
    const turns = Math.max(1, Math.ceil((part.endAngle - part.startAngle) / 0.35))
    for (let turn = 0; turn < turns; turn++)
      for (const share of [0.45, 0.8]) {
        const angle = part.startAngle + ((turn + 0.5) / turns) * (part.endAngle - part.startAngle)
        const r = inner + (radius - inner) * share
        const [x, y] = [centre.x + Math.sin(angle) * r, centre.y - Math.cos(angle) * r]
        const size = Math.max(3, (radius - inner) * 0.2)
        options.onMark?.({ x: x - size, y: y - size, width: size * 2, height: size * 2, series: 0, category: at })
      }
  })
  // white lines tell parts apart in grey print
  for (const { startAngle } of parts) {
    const [x, y] = [Math.sin(startAngle), -Math.cos(startAngle)]
    const [nx, ny] = [-y * 0.6, x * 0.6]
    items.push({
      kind: 'shapes',
      x: 0,
      y: 0,
      scale: 1,
      shapes: [
        {
          path: [
            ['M', centre.x + x * inner - nx, centre.y + y * inner - ny],
            ['L', centre.x + x * radius - nx, centre.y + y * radius - ny],
            ['L', centre.x + x * radius + nx, centre.y + y * radius + ny],
            ['L', centre.x + x * inner + nx, centre.y + y * inner + ny],
            ['Z'],
          ],
          fill: '#ffffff',
        },
      ],
    })
  }
  const left = centre.x + radius + 16
  const step = Math.min(plain.size * 1.7, box.height / Math.max(1, values.length))
  const top = centre.y - (step * values.length) / 2 + step * 0.7
  const shares = values.map(value => data.tickRight?.(percentOf(value, whole)) ?? `${Math.round(percentOf(value, whole))} %`)
  const widest = Math.max(0, ...shares.map(share => textWidth(share, plain.font, plain.size)))
  values.forEach((_, at) => {
    const y = top + at * step
    items.push({ kind: 'fill', x: left, y: y - plain.size + 1.5, width: 8, height: plain.size - 1, colour: seriesColour(at) })
    write(shares[at]!, left + 13 + widest, y, 'right', { colour: look.ink })
    write(`${data.categories[at]!}${options.figures ? `  ${own.printed[at]!}` : ''}`, left + 21 + widest, y, 'left')
  })
}
