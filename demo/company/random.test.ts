import { PGlite } from '@electric-sql/pglite'
import { Decimal as Wide } from 'decimal.js'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { Chance, fixed, money, share, TableText } from './random'

it('rows written for COPY come back from the database as they were', async () => {
  const db = await PGlite.create()
  const text = fc.option(fc.string({ maxLength: 20, unit: 'grapheme' }).filter(each => !each.includes('\0')))
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(text, fc.option(fc.integer()), fc.option(fc.boolean())), { maxLength: 20 }), async rows => {
      await db.exec('drop table if exists t; create table t (place serial, a text, b integer, c boolean)')
      const table = new TableText()
      rows.forEach(row => table.add(...row))
      await db.query("copy t (a, b, c) from '/dev/blob'", [], { blob: table.blob() })
      expect((await db.query('select a, b, c from t order by place', [], { rowMode: 'array' })).rows).toEqual(rows)
    }),
    { numRuns: 60 },
  )
  await db.close()
})

it('money, fixed digits and shares are exact', () => {
  fc.assert(
    fc.property(fc.integer(), fc.integer(), fc.integer({ min: 1, max: 1_000_000 }), (a, b, divisor) => {
      expect(money(a)).toBe(new Wide(a).div(100).toFixed(2))
      expect(fixed(a, 3)).toBe(new Wide(a).div(1000).toFixed(3))
      expect(share(a, b, divisor)).toBe(new Wide(a).times(b).div(divisor).toDecimalPlaces(0, Wide.ROUND_HALF_UP).toNumber() + 0)
    }),
  )
})

it('chance is the same from the same seed, and stays in its bounds', () => {
  const draw = (seed: number) => {
    const chance = new Chance(seed)
    return Array.from({ length: 500 }, () => chance.whole(3, 9))
  }
  expect(draw(7)).toEqual(draw(7))
  expect(new Set(draw(7))).toEqual(new Set([3, 4, 5, 6, 7, 8, 9]))
})
