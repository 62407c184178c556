import { expect, it } from 'vitest'
import { restTime } from './restTime'

it('the time that is left is that of the steps left, at the pace of those done; it is told once there is a pace', () => {
  const at = 1_000_000
  expect(restTime({ at, done: 0 }, at + 10_000, { done: 1, of: 9 })).toBeUndefined()
  expect(restTime({ at, done: 0 }, at + 1000, { done: 5, of: 9 })).toBeUndefined()
  expect(restTime({ at, done: 0 }, at + 10_000, { done: 9, of: 9 })).toBeUndefined()
  // steps that were done before it began took none of its time
  expect(restTime({ at, done: 100 }, at + 10_000, { done: 150, of: 200 })).toBe(10_000)
  // work at an even pace is told rightly at every step
  for (let step = 2; step < 50; step++) expect(restTime({ at, done: 0 }, at + step * 1500, { done: step, of: 50 })).toBe((50 - step) * 1500)
})
