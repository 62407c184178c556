import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { Page, PageItem } from '../compose/page'
import { boundsOf, changedArea, overlap } from './changes'

const side = 40
const rectangle = fc.record({
  kind: fc.constant('fill' as const),
  x: fc.integer({ min: 2, max: 30 }),
  y: fc.integer({ min: 2, max: 30 }),
  width: fc.integer({ min: 1, max: 8 }),
  height: fc.integer({ min: 1, max: 8 }),
  colour: fc.constantFrom('#000000', '#0f4c5c', '#e07a3f'),
})
const page = (items: PageItem[]) => ({ width: side, height: side, items }) as unknown as Page

/** Paints rectangles point by point, those of an area only where one is given. */
function painted(items: readonly PageItem[], onto: string[], within: (x: number, y: number) => boolean): string[] {
  const points = onto.map((each, at) => (within(at % side, Math.floor(at / side)) ? 'white' : each))
  for (const item of items) {
    if (item.kind !== 'fill') continue
    for (let x = item.x; x < item.x + item.width; x++)
      for (let y = item.y; y < item.y + item.height; y++) if (within(x, y)) points[y * side + x] = item.colour
  }
  return points
}
const blank = Array.from({ length: side * side }, () => 'white')

it('a page whose changed part is painted over looks as if it were painted anew', () => {
  fc.assert(
    fc.property(
      fc.array(rectangle, { maxLength: 12 }),
      fc.array(fc.record({ at: fc.nat(12), put: fc.option(rectangle) }), { maxLength: 4 }),
      (before, edits) => {
        // items go, come or are put in the place of another; those that stay keep their order
        const after: PageItem[] = before.map(each => ({ ...each }))
        for (const { at, put } of edits) after.splice(Math.min(at, after.length), put ? at % 2 : 1, ...(put ? [put] : []))
        const area = changedArea(page(before), page(after))
        const old = painted(before, blank, () => true)
        const wanted = painted(after, blank, () => true)
        if (!area) {
          expect(old).toEqual(wanted)
          return
        }
        const touched = after.filter(item => overlap(boundsOf(item), area))
        const inside = (x: number, y: number) => x >= area.x && x + 1 <= area.x + area.width && y >= area.y && y + 1 <= area.y + area.height
        expect(painted(touched, old, inside)).toEqual(wanted)
      },
    ),
  )
})
