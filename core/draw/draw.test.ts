import { XMLParser } from 'fast-xml-parser'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fontNames } from '../compose/fonts'
import type { Page, PageItem } from '../compose/page'
import { cssFont, drawPage, type Pen } from './canvas'
import { pageSvg } from './svg'

const place = { x: fc.integer({ min: 0, max: 500 }), y: fc.integer({ min: 0, max: 800 }) }
const colour = fc.constantFrom('#000000', '#0f4c5c', '#e07a3f')
const item: fc.Arbitrary<PageItem> = fc.oneof(
  fc.record({
    kind: fc.constant('text' as const),
    ...place,
    text: fc.string({ maxLength: 20 }),
    font: fc.constantFrom(...fontNames),
    size: fc.constantFrom(8, 9, 12.5),
    colour,
  }),
  fc.record({
    kind: fc.constant('fill' as const),
    ...place,
    width: fc.integer({ min: 1, max: 90 }),
    height: fc.integer({ min: 1, max: 90 }),
    colour,
  }),
)
const pageOf = (items: PageItem[]): Page => ({ width: 595, height: 842, overall: 1, number: 1, record: 0, items, boxes: [] })

/** A pen that writes down what it is told. */
function recorder(): { pen: Pen; strokes: unknown[][] } {
  const strokes: unknown[][] = []
  const pen = { fillStyle: '', font: '', textBaseline: '' } as unknown as Pen
  for (const name of ['fillText', 'fillRect', 'beginPath', 'moveTo', 'lineTo', 'bezierCurveTo', 'closePath', 'fill'] as const) {
    ;(pen as unknown as Record<string, unknown>)[name] = (...values: unknown[]) => strokes.push([name, pen.fillStyle, pen.font, ...values])
  }
  return { pen, strokes }
}

describe('a page on canvas', () => {
  it('draws each thing once, in order, in its colour and font, on white', () => {
    fc.assert(
      fc.property(fc.array(item, { maxLength: 20 }), items => {
        const { pen, strokes } = recorder()
        drawPage(pen, pageOf(items))
        expect(strokes[0]).toEqual(['fillRect', '#ffffff', '', 0, 0, 595, 842])
        expect(strokes.slice(1).map(([name, fill, , ...rest]) => [name, fill, ...rest])).toEqual(
          items.map(each =>
            each.kind === 'text'
              ? ['fillText', each.colour, each.text, each.x, each.y]
              : each.kind === 'fill'
                ? ['fillRect', each.colour, each.x, each.y, each.width, each.height]
                : [],
          ),
        )
        items.forEach((each, index) => each.kind === 'text' && expect(strokes[index + 1]![2]).toBe(cssFont(each.font, each.size)))
      }),
    )
  })
  it('places and scales outlines', () => {
    const { pen, strokes } = recorder()
    drawPage(
      pen,
      pageOf([
        {
          kind: 'shapes',
          x: 100,
          y: 50,
          scale: 2,
          shapes: [{ fill: '#0f4c5c', path: [['M', 1, 2], ['L', 3, 4], ['C', 5, 6, 7, 8, 9, 10], ['Z']] }],
        },
      ]),
    )
    expect(strokes.slice(1).map(([name, , , ...rest]) => [name, ...rest])).toEqual([
      ['beginPath'],
      ['moveTo', 102, 54],
      ['lineTo', 106, 58],
      ['bezierCurveTo', 110, 62, 114, 66, 118, 70],
      ['closePath'],
      ['fill'],
    ])
  })
})

describe('a page as SVG', () => {
  it('is well-formed and says the same as the page, whatever the text holds', () => {
    fc.assert(
      fc.property(fc.array(item, { maxLength: 12 }), items => {
        const nodes = new XMLParser({
          ignoreAttributes: false,
          attributeNamePrefix: '',
          preserveOrder: true,
          trimValues: false,
          processEntities: true,
          htmlEntities: true,
          parseTagValue: false,
        }).parse(pageSvg(pageOf(items))) as { svg: Record<string, unknown>[] }[]
        const drawn = nodes[0]!.svg.filter(node => !('#text' in node)).slice(1)
        // XML has no place for control characters; they are left out
        // eslint-disable-next-line no-control-regex
        const kept = (text: string) => text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '').replace(/\r\n?/g, '\n')
        const expected = items.filter(each => each.kind !== 'text' || each.text)
        expect(drawn.length).toBe(expected.length)
        drawn.forEach((node, index) => {
          const each = expected[index]!
          const attributes = node[':@'] as Record<string, string>
          if (each.kind === 'text') {
            const inner = (node.text as { '#text'?: string }[]).map(part => part['#text'] ?? '').join('')
            expect(inner).toBe(kept(each.text))
          }
          expect([attributes.x, attributes.y, attributes.fill]).toEqual([
            String((each as { x: number }).x),
            String((each as { y: number }).y),
            (each as { colour: string }).colour,
          ])
        })
      }),
    )
  })
})
