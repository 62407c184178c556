import fc from 'fast-check'
import { expect, it } from 'vitest'
import { shared } from './share'

const value = fc.letrec<{ any: unknown }>(tie => ({
  any: fc.oneof(
    { maxDepth: 4 },
    fc.oneof(fc.integer(), fc.string({ maxLength: 4 }), fc.boolean(), fc.constant(null), fc.constant(undefined)),
    fc.array(tie('any'), { maxLength: 4 }),
    fc.dictionary(fc.constantFrom('a', 'b', 'c'), tie('any'), { noNullPrototype: true }),
    fc.record({ id: fc.string({ maxLength: 1 }), a: tie('any') }, { noNullPrototype: true }),
  ),
})).any

it('says what the new value says, whatever was known before', () => {
  fc.assert(
    fc.property(value, value, (before, after) => {
      expect(shared(before, after)).toStrictEqual(after)
    }),
  )
})

it('a copy of what is known is what is known itself', () => {
  fc.assert(
    fc.property(value, before => {
      expect(shared(before, structuredClone(before))).toBe(before)
    }),
  )
})

it('parts that stay are the same objects, also when others come before them', () => {
  const before = {
    blocks: [
      { id: 'a', text: ['x'] },
      { id: 'b', text: ['y'] },
    ],
    page: { width: 1 },
  }
  const after = structuredClone({ ...before, blocks: [{ id: 'new', text: [] as string[] }, ...before.blocks] })
  const found = shared(before, after)
  expect(found.page).toBe(before.page)
  expect(found.blocks.slice(1)).toEqual(before.blocks)
  expect(found.blocks[1]).toBe(before.blocks[0])
  expect(found.blocks[2]).toBe(before.blocks[1])
  expect(found.blocks).not.toBe(before.blocks)
})

it('neither value is changed', () => {
  fc.assert(
    fc.property(value, value, (before, after) => {
      const [one, two] = [structuredClone(before), structuredClone(after)]
      shared(before, after)
      expect([before, after]).toStrictEqual([one, two])
    }),
  )
})
