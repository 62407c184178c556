import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { columnOf, valueAt } from './columns'
import { envelopeHead, packEnvelope, readEnvelope, withHead } from './envelope'
import { firstMoment, lastMoment } from './moment'
import type { LevelRecords } from './records'
import type { Value, ValueType } from './value'

const decimals = fc.option(fc.record({ units: fc.bigInt({ min: -(10n ** 24n), max: 10n ** 24n }), scale: fc.integer({ min: 0, max: 6 }) }))
const values: Record<ValueType, fc.Arbitrary<Value>> = {
  number: decimals.map(each => each && { ...each, units: asUnits(each.units) }),
  // letters of one to four bytes, among them some that take two units
  text: fc.option(fc.string({ unit: 'grapheme' })),
  date: fc.option(fc.integer({ min: -700_000, max: 2_900_000 })),
  moment: fc.option(fc.bigInt({ min: firstMoment, max: lastMoment })),
  boolean: fc.option(fc.boolean()),
}
const asUnits = (units: bigint) => (units > 9007199254740991n || units < -9007199254740991n ? units : Number(units))
const types = Object.keys(values) as ValueType[]
const level = fc
  .integer({ min: 0, max: 40 })
  .chain(count =>
    fc
      .tuple(...types.map(type => fc.array(values[type], { minLength: count, maxLength: count })))
      .map(columns => ({
        count,
        starts: Int32Array.of(0, count),
        columns: Object.fromEntries(types.map((type, index) => [`a ${type}`, columnOf(type, columns[index]!)])),
      })),
  )
const read = ({ count, columns }: LevelRecords) =>
  Object.fromEntries(
    Object.entries(columns).map(([path, column]) => [path, Array.from({ length: count }, (_, row) => valueAt(column, row))]),
  )

describe('records packed', () => {
  it('come out as they went in, with what is said of them, wherever the bytes begin', () => {
    fc.assert(
      fc.property(
        fc.array(level, { maxLength: 4 }),
        fc.dictionary(fc.string(), fc.string()),
        fc.integer({ min: 0, max: 9 }),
        (levels, head, at) => {
          const bytes = packEnvelope(head, levels)
          const moved = new Uint8Array(at + bytes.length)
          moved.set(bytes, at)
          const back = readEnvelope<object>(moved.subarray(at))
          expect({ ...back.head }).toEqual({ ...head })
          expect(back.levels.map(read)).toEqual(levels.map(read))
          expect(back.levels.map(each => [...each.starts])).toEqual(levels.map(each => [...each.starts]))
        },
      ),
    )
  })
  it('can be said more of without being read', () => {
    fc.assert(
      fc.property(level, fc.string(), (one, word) => {
        const bytes = withHead(packEnvelope({ total: 1 }, [one]), { answers: word })
        expect(envelopeHead(bytes)).toEqual({ total: 1, answers: word })
        expect(read(readEnvelope(bytes).levels[0]!)).toEqual(read(one))
      }),
    )
  })
})
