import { XMLParser } from 'fast-xml-parser'
import svgpath from 'svgpath'

type Segment = Parameters<Parameters<ReturnType<typeof svgpath>['iterate']>[0]>[0]

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

/**
 * Path data of SVG 1.1, chapter 8, as absolute lines and cubic curves: an arc becomes curves that keep to it within three ten-thousandths
 * of its radius.
 * @throws PictureError
 */
export function readPath(data: string): PathStep[] {
  const path = svgpath(data)
  const { err } = path as unknown as { err: string }
  if (err) throw new PictureError(`The path “${shortened(data)}” of the picture cannot be read; save the picture anew as plain SVG.`)
  const steps: PathStep[] = []
  path
    .abs()
    .unshort()
    .unarc()
    .iterate((segment, _, x, y) => {
      const step = lineOrCurve(segment, x, y)
      if (step.some(part => typeof part === 'number' && !Number.isFinite(part)))
        throw new PictureError(`The path “${shortened(data)}” of the picture has figures that are too large.`)
      steps.push(step)
    })
  return steps
}

const shortened = (data: string) => (data.length > 40 ? `${data.slice(0, 40)}…` : data)

/** A step of a path from where the last one ended; short forms and arcs are gone by now. */
function lineOrCurve(segment: Readonly<Segment>, x: number, y: number): PathStep {
  switch (segment[0]) {
    case 'M':
    case 'L':
    case 'C':
      return [...segment]
    case 'H':
      return ['L', segment[1], y]
    case 'V':
      return ['L', x, segment[1]]
    case 'Q': {
      const [, ax, ay, endX, endY] = segment
      return ['C', x + ((ax - x) * 2) / 3, y + ((ay - y) * 2) / 3, endX + ((ax - endX) * 2) / 3, endY + ((ay - endY) * 2) / 3, endX, endY]
    }
    default:
      return ['Z']
  }
}

function shifted(step: PathStep, dx: number, dy: number): PathStep {
  return step.map((value, index) => (typeof value === 'number' ? value + (index % 2 ? dx : dy) : value)) as PathStep
}
