import { XMLParser } from 'fast-xml-parser'

/** A filled outline; `path` holds absolute M, L, C and Z steps only. */
export interface Shape {
  path: PathStep[]
  fill: string
}
export type PathStep = ['M' | 'L', number, number] | ['C', number, number, number, number, number, number] | ['Z']

export interface Picture {
  width: number
  height: number
  shapes: Shape[]
}

/** A picture that cannot be used: one sentence. */
export class PictureError extends Error {}

type XmlNode = { [name: string]: unknown }

const colour = /^#[0-9a-f]{3}(?:[0-9a-f]{3})?$/i

/**
 * Reads the part of SVG 1.1 that a logo needs: `path`, `rect`, `circle`, `ellipse`, `polygon` and `g` with plain hexadecimal fills.
 * Nothing else of the file is kept, so scripts, styles, links and images in it have no effect.
 * @throws PictureError
 */
export function readSvg(text: string): Picture {
  let nodes: XmlNode[]
  try {
    nodes = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', preserveOrder: true, processEntities: false }).parse(
      text,
    ) as XmlNode[]
  } catch {
    throw new PictureError('The picture is not a readable SVG file.')
  }
  const root = nodes.find(node => 'svg' in node)
  if (!root) throw new PictureError('The picture is not an SVG file.')
  const attributes = attributesOf(root)
  const box = (attributes.viewBox ?? `0 0 ${attributes.width} ${attributes.height}`)
    .trim()
    .split(/[\s,]+/)
    .map(Number)
  if (box.length !== 4 || box.some(value => !Number.isFinite(value)) || !(box[2]! > 0) || !(box[3]! > 0))
    throw new PictureError('The picture has no size; give its svg element a viewBox.')
  const shapes: Shape[] = []
  const visit = (node: XmlNode, inherited: string) => {
    const own = attributesOf(node)
    const fill = own.fill === undefined ? inherited : own.fill
    const tag = Object.keys(node).find(key => key !== ':@')!
    const path = outline(tag, own)
    if (path && fill !== 'none') {
      if (!colour.test(fill))
        throw new PictureError(`The colour “${fill.slice(0, 40)}” in the picture cannot be used; write it like #0f4c5c.`)
      shapes.push({ path: path.map(step => shifted(step, -box[0]!, -box[1]!)), fill })
    }
    if (tag === 'g' || tag === 'svg') for (const child of node[tag] as XmlNode[]) visit(child, fill)
  }
  visit(root, '#000000')
  return { width: box[2]!, height: box[3]!, shapes }
}

function attributesOf(node: XmlNode): Record<string, string> {
  return (node[':@'] ?? {}) as Record<string, string>
}

function outline(tag: string, own: Record<string, string>): PathStep[] | undefined {
  const number = (name: string) => Number(own[name] ?? 0)
  switch (tag) {
    case 'path':
      return readPath(own.d ?? '')
    case 'rect': {
      const [x, y, w, h] = [number('x'), number('y'), number('width'), number('height')]
      return [['M', x, y], ['L', x + w, y], ['L', x + w, y + h], ['L', x, y + h], ['Z']]
    }
    case 'circle':
      return ellipse(number('cx'), number('cy'), number('r'), number('r'))
    case 'ellipse':
      return ellipse(number('cx'), number('cy'), number('rx'), number('ry'))
    case 'polygon':
      return readPath(`M${own.points ?? ''}Z`)
    default:
      return undefined
  }
}

/** Four cubic curves; the distance of their control points is that of the usual circle approximation. */
function ellipse(cx: number, cy: number, rx: number, ry: number): PathStep[] {
  const k = 0.5522847498
  return [
    ['M', cx + rx, cy],
    ['C', cx + rx, cy + k * ry, cx + k * rx, cy + ry, cx, cy + ry],
    ['C', cx - k * rx, cy + ry, cx - rx, cy + k * ry, cx - rx, cy],
    ['C', cx - rx, cy - k * ry, cx - k * rx, cy - ry, cx, cy - ry],
    ['C', cx + k * rx, cy - ry, cx + rx, cy - k * ry, cx + rx, cy],
    ['Z'],
  ]
}

const argumentCounts: Record<string, number> = { M: 2, L: 2, H: 1, V: 1, C: 6, S: 4, Q: 4, T: 2, Z: 0 }

/** Path data of SVG 1.1, chapter 8, without arcs, as absolute lines and cubic curves. */
export function readPath(data: string): PathStep[] {
  const tokens = data.match(/[a-zA-Z]|[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?/g) ?? []
  const steps: PathStep[] = []
  let [x, y, startX, startY] = [0, 0, 0, 0]
  let [lastX, lastY, lastKind] = [0, 0, '']
  let letter = ''
  for (let i = 0; i < tokens.length;) {
    if (/[a-zA-Z]/.test(tokens[i]!)) letter = tokens[i++]!
    const kind = letter.toUpperCase()
    const count = argumentCounts[kind]
    if (count === undefined)
      throw new PictureError(`The picture's path uses “${letter || tokens[i]}”, which is not known here; draw arcs as curves.`)
    const values = tokens.slice(i, i + count).map(Number)
    if (values.length < count || values.some(Number.isNaN)) throw new PictureError('The picture has a path that stops too early.')
    i += count
    const relative = letter !== kind
    const px = (index: number) => values[index]! + (relative ? x : 0)
    const py = (index: number) => values[index]! + (relative ? y : 0)
    const [fromX, fromY] = [x, y]
    switch (kind) {
      case 'M':
        ;[x, y] = [px(0), py(1)]
        ;[startX, startY] = [x, y]
        steps.push(['M', x, y])
        letter = relative ? 'l' : 'L'
        break
      case 'L':
        ;[x, y] = [px(0), py(1)]
        steps.push(['L', x, y])
        break
      case 'H':
        x = px(0)
        steps.push(['L', x, y])
        break
      case 'V':
        y = py(0)
        steps.push(['L', x, y])
        break
      case 'C':
      case 'S': {
        const smooth = kind === 'S'
        const [ax, ay] = smooth ? (/[CS]/.test(lastKind) ? [2 * x - lastX, 2 * y - lastY] : [x, y]) : [px(0), py(1)]
        const o = smooth ? 0 : 2
        ;[lastX, lastY] = [px(o), py(o + 1)]
        const [ex, ey] = [px(o + 2), py(o + 3)]
        steps.push(['C', ax, ay, lastX, lastY, ex, ey])
        ;[x, y] = [ex, ey]
        break
      }
      case 'Q':
      case 'T': {
        const smooth = kind === 'T'
        ;[lastX, lastY] = smooth ? (/[QT]/.test(lastKind) ? [2 * x - lastX, 2 * y - lastY] : [x, y]) : [px(0), py(1)]
        const [ex, ey] = smooth ? [px(0), py(1)] : [px(2), py(3)]
        steps.push([
          'C',
          fromX + ((lastX - fromX) * 2) / 3,
          fromY + ((lastY - fromY) * 2) / 3,
          ex + ((lastX - ex) * 2) / 3,
          ey + ((lastY - ey) * 2) / 3,
          ex,
          ey,
        ])
        ;[x, y] = [ex, ey]
        break
      }
      case 'Z':
        ;[x, y] = [startX, startY]
        steps.push(['Z'])
        break
    }
    lastKind = kind
  }
  return steps
}

function shifted(step: PathStep, dx: number, dy: number): PathStep {
  return step.map((value, index) => (typeof value === 'number' ? value + (index % 2 ? dx : dy) : value)) as PathStep
}
