import { setTimeout as wait } from 'node:timers/promises'
import { expect, it } from 'vitest'
import { Guesses } from './guesses'
import { HashTurns } from './hashTurns'
import { RefusedTries } from './refusedTries'
import { Remembered } from './remembered'

it('one is looked at at a time; who has not tried wrongly goes first, the last to come before all', async () => {
  const turns = new HashTurns()
  const done: string[] = []
  let [now, most] = [0, 0]
  const try_ = (name: string, isDoubtful: boolean) =>
    turns.run(isDoubtful, async () => {
      most = Math.max(most, ++now)
      await wait(5)
      now--
      done.push(name)
    })
  await Promise.all([
    try_('first', false),
    try_('doubtful 1', true),
    try_('doubtful 2', true),
    try_('clean 1', false),
    try_('clean 2', false),
  ])
  expect([done, most]).toEqual([['first', 'clean 2', 'clean 1', 'doubtful 1', 'doubtful 2'], 1])
  // and it is free again, also after a failure
  await expect(turns.run(true, () => Promise.reject(new Error('broken')))).rejects.toThrow('broken')
  await try_('after', false)
  expect(done.at(-1)).toBe('after')
})

it('too many doubtful ones at once are sent away, and nobody else is', async () => {
  const turns = new HashTurns()
  const all = Array.from({ length: 40 }, () =>
    turns
      .run(true, () => wait(1))
      .then(
        () => 'in',
        (error: Error) => error.message,
      ),
  )
  const clean = await turns.run(false, () => Promise.resolve('in'))
  const outcomes = await Promise.all(all)
  expect(clean).toBe('in')
  expect(outcomes.filter(each => each === 'in')).toHaveLength(31)
  expect(new Set(outcomes.filter(each => each !== 'in'))).toEqual(new Set(['Too many try to sign in just now; try again in a minute.']))
})

it('many tries of one address at once do not all count as the first one', async () => {
  const guesses = new Guesses()
  const order: string[] = []
  const from = (address: string, name: string) => guesses.slowed(address, name, async () => void order.push(`${address} ${name}`))
  await Promise.all([...Array.from({ length: 5 }, (_, at) => from('10.0.0.1', `n${at}`)), from('10.0.0.2', 'right')])
  expect(order.indexOf('10.0.0.2 right')).toBeLessThan(3)
  expect(order).toHaveLength(6)
})

it('refused tries of an address are written down as one and how many more', async () => {
  const entries: unknown[] = []
  const tries = new RefusedTries({ entry: async (...entry: unknown[]) => void entries.push(entry) } as never)
  for (let at = 0; at < 30; at++) await tries.add('10.0.0.1')
  await tries.add('10.0.0.2')
  expect(entries).toHaveLength(2)
  await tries.close()
  expect(entries.slice(2)).toEqual([['sign-in refused', { what: '29 more', tries: 29 }, { id: '', name: '', address: '10.0.0.1' }]])
})

it('what is remembered is what is there, whatever is changed in between', async () => {
  let value = 0
  const remembered = new Remembered(() => true)
  const read = () =>
    remembered.read('value', async () => {
      const found = value
      await wait(Math.random() * 3)
      return { found }
    })
  const change = () => remembered.changing(async () => void (await wait(Math.random() * 2), value++))
  for (let round = 0; round < 40; round++) {
    await Promise.all([read(), change(), read(), read(), change()])
    expect((await read()).found).toBe(value)
    expect((await read()).found).toBe(value)
  }
  // where others change the store too, nothing is
  const shared = new Remembered(() => false)
  let asked = 0
  for (let at = 0; at < 3; at++) await shared.read('value', async () => ++asked)
  expect(asked).toBe(3)
})
