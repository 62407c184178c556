import type { PathStep } from '../svgShapes'

type Point = readonly [x: number, y: number]

/** How far the handles of a quarter of a circle stand off, for a radius of 1. */
const kappa = 0.5523

export function circle(x: number, y: number, r: number): PathStep[] {
  const k = kappa * r
  return [
    ['M', x + r, y],
    ['C', x + r, y + k, x + k, y + r, x, y + r],
    ['C', x - k, y + r, x - r, y + k, x - r, y],
    ['C', x - r, y - k, x - k, y - r, x, y - r],
    ['C', x + k, y - r, x + r, y - k, x + r, y],
    ['Z'],
  ]
}

export const polygon = (points: readonly Point[]): PathStep[] => [...points.map(([x, y], at): PathStep => [at ? 'L' : 'M', x, y]), ['Z']]

/** Marks of points, one for each series in turn, so that lines are told apart without their colours. */
export function mark(place: number, x: number, y: number, r: number): PathStep[] {
  switch (place % 4) {
    case 0:
      return circle(x, y, r)
    case 1:
      return polygon([
        [x - r, y - r],
        [x + r, y - r],
        [x + r, y + r],
        [x - r, y + r],
      ])
    case 2:
      return polygon([
        [x, y - r * 1.25],
        [x + r * 1.2, y + r],
        [x - r * 1.2, y + r],
      ])
    default:
      return polygon([
        [x, y - r * 1.3],
        [x + r * 1.3, y],
        [x, y + r * 1.3],
        [x - r * 1.3, y],
      ])
  }
}

/** The outline of a line through points, with round joints; all its parts run the same way round. A gap is where there is no point. */
export function stroke(points: readonly (Point | undefined)[], width: number): PathStep[] {
  const half = width / 2
  // joints of very many points are not seen
  const joints = points.length <= 2000
  return points.flatMap((to, index): PathStep[] => {
    if (!to) return []
    const from = points[index - 1]
    const joint = joints ? circle(to[0], to[1], half) : []
    if (!from) return joint
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]]
    const length = Math.hypot(dx, dy) || 1
    const [nx, ny] = [(-dy / length) * half, (dx / length) * half]
    return [
      ['M', from[0] - nx, from[1] - ny],
      ['L', to[0] - nx, to[1] - ny],
      ['L', to[0] + nx, to[1] + ny],
      ['L', from[0] + nx, from[1] + ny],
      ['Z'],
      ...joint,
    ]
  })
}

/** A line broken into dashes of a length, with gaps of half of it. */
export function dashes(points: readonly (Point | undefined)[], width: number, length = 6): PathStep[] {
  const out: PathStep[] = []
  let left = length
  let on = true
  for (let at = 1; at < points.length; at++) {
    const [from, to] = [points[at - 1], points[at]]
    if (!from || !to) {
      ;[left, on] = [length, true]
      continue
    }
    const whole = Math.hypot(to[0] - from[0], to[1] - from[1])
    const along = (distance: number): Point => [
      from[0] + ((to[0] - from[0]) * distance) / (whole || 1),
      from[1] + ((to[1] - from[1]) * distance) / (whole || 1),
    ]
    for (let done = 0; done < whole;) {
      const step = Math.min(left, whole - done)
      if (on) out.push(...stroke([along(done), along(done + step)], width))
      done += step
      left -= step
      if (left <= 1e-9) {
        on = !on
        left = on ? length : length / 2
      }
    }
  }
  return out
}

/** Points beyond which a line is drawn as what it covers. */
export const mostPoints = 1500

/** What a long line covers from stretch to stretch of its width, three quarters of a point each: nothing of it is left out. */
export function covered(points: readonly (Point | undefined)[]): { x: number; low: number; high: number }[][] {
  const parts: { x: number; low: number; high: number }[][] = [[]]
  let before: Point | undefined
  for (const point of points) {
    if (!point) {
      if (parts.at(-1)!.length) parts.push([])
      before = undefined
      continue
    }
    const place = Math.floor(point[0] / 0.75) * 0.75
    const own = parts.at(-1)!
    const last = own.at(-1)
    if (last?.x === place) {
      last.low = Math.min(last.low, point[1])
      last.high = Math.max(last.high, point[1])
    } else {
      // the way from the point before leads into this stretch
      const from = before?.[1] ?? point[1]
      own.push({ x: place, low: Math.min(point[1], from), high: Math.max(point[1], from) })
    }
    before = point
  }
  return parts.filter(part => part.length)
}

/** The outline of a line of very many points, at least as wide as it is meant to be. */
export const longLine = (points: readonly (Point | undefined)[], width: number): PathStep[] =>
  covered(points).flatMap(part =>
    polygon([
      ...part.map(({ x, low }): Point => [x + 0.375, low - width / 2]),
      ...part.map(({ x, high }): Point => [x + 0.375, high + width / 2]).reverse(),
    ]),
  )

/** Hatching within a rectangle: thin strokes that tell bars apart in grey print. The first series has none. */
export function hatching(place: number, x: number, y: number, width: number, height: number): PathStep[] {
  const kind = place % 4
  if (!kind || width < 2 || height < 2) return []
  const gap = 4
  const out: PathStep[] = []
  const line = (a: Point, b: Point) => out.push(...stroke([a, b], 0.6).filter(step => step[0] !== 'C'))
  if (kind === 1 || kind === 2) {
    // rising to the right, or falling
    for (let at = gap; at < width + height; at += gap) {
      const [fromX, fromY] = at <= height ? [0, at] : [at - height, height]
      const [toX, toY] = at <= width ? [at, 0] : [width, at - width]
      const turn = (px: number) => (kind === 1 ? x + px : x + width - px)
      line([turn(fromX), y + fromY], [turn(toX), y + toY])
    }
  } else for (let at = gap / 2; at < height; at += gap) line([x, y + at], [x + width, y + at])
  return out
}

/** A part of a ring between two angles, clockwise from the top, in radians; with an inner radius of 0 a part of a pie. */
export function sector(x: number, y: number, inner: number, outer: number, from: number, to: number): PathStep[] {
  const point = (angle: number, r: number): Point => [x + Math.sin(angle) * r, y - Math.cos(angle) * r]
  const arc = (a: number, b: number, r: number): PathStep[] => {
    const pieces = Math.max(1, Math.ceil(Math.abs(b - a) / (Math.PI / 4)))
    const step = (b - a) / pieces
    const handle = (4 / 3) * Math.tan(step / 4) * r
    return Array.from({ length: pieces }, (_, at): PathStep => {
      const [start, end] = [a + at * step, a + (at + 1) * step]
      const [sx, sy] = point(start, r)
      const [ex, ey] = point(end, r)
      return [
        'C',
        sx + Math.cos(start) * handle,
        sy + Math.sin(start) * handle,
        ex - Math.cos(end) * handle,
        ey - Math.sin(end) * handle,
        ex,
        ey,
      ]
    })
  }
  const first = point(from, outer)
  if (!inner) return [['M', x, y], ['L', ...first], ...arc(from, to, outer), ['Z']]
  return [['M', ...first], ...arc(from, to, outer), ['L', ...point(to, inner)], ...arc(to, from, inner), ['Z']]
}

/** A colour mixed with white: 1 leaves it as it is. */
export function lighter(colour: string, share = 0.35): string {
  return `#${[1, 3, 5]
    .map(at =>
      Math.round(255 - (255 - parseInt(colour.slice(at, at + 2), 16)) * share)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`
}
