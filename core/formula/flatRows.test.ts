import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { DataRecords } from '../value/records'
import { flatRows } from './flatRows'
import type { LevelInfo } from './typed'

const level = (index: number, parent: number): LevelInfo => ({
  index,
  parent,
  children: [],
  name: `l${index}`,
  caption: '',
  key: [],
  fields: new Map(),
  definition: { name: '', table: '', on: [], fields: [], related: [], details: [], filters: [], sort: [] },
})

it('are the records of a level with those above them, as nested loops find them', () => {
  const shape = fc.array(fc.array(fc.nat(3), { maxLength: 4 }), { maxLength: 5 })
  fc.assert(
    fc.property(shape, fc.nat(12), (tree, most) => {
      const levels = [level(0, -1), level(1, 0), level(2, 1)]
      const wanted: [number, number, number][] = []
      const starts: number[][] = [[0, tree.length], [0], [0]]
      for (const [root, children] of tree.entries()) {
        for (const count of children) {
          const middle = starts[2]!.length - 1
          for (let at = 0; at < count; at++) wanted.push([root, middle, wanted.length])
          starts[2]!.push(wanted.length)
        }
        starts[1]!.push(starts[2]!.length - 1)
      }
      const counts = [tree.length, starts[2]!.length - 1, wanted.length]
      const records: DataRecords = { levels: counts.map((count, at) => ({ count, columns: {}, starts: Int32Array.from(starts[at]!) })) }
      const found = flatRows(levels, records, levels[2]!, most)
      expect(found.total).toBe(wanted.length)
      expect(found.above.map(each => each.index)).toEqual([0, 1])
      expect(found.rows.map(row => [row.get(0), row.get(1), row.get(2)])).toEqual(wanted.slice(0, most))
    }),
  )
})
