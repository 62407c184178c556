import { expect, it } from 'vitest'
import { StoreError } from '../store/records'
import { Guesses } from './guesses'

const wrong = () => Promise.reject(new StoreError('wrong', 401))
const right = () => Promise.resolve('in')

it('too many wrong tries make an address wait, for one name and for many; whoever comes from elsewhere is let in', async () => {
  const guesses = new Guesses()
  for (let at = 0; at < 6; at++) await expect(guesses.slowed('10.0.0.1', 'Marta', wrong)).rejects.toMatchObject({ status: 401 })
  await expect(guesses.slowed('10.0.0.1', 'marta ', right)).rejects.toMatchObject({ status: 429 })
  expect(await guesses.slowed('10.0.0.1', 'nuno', right)).toBe('in')
  expect(await guesses.slowed('10.0.0.2', 'marta', right)).toBe('in')
  for (let at = 0; at < 40; at++) await guesses.slowed('10.0.0.3', `name ${at}`, wrong).catch(() => {})
  await expect(guesses.slowed('10.0.0.3', 'somebody', right)).rejects.toThrow(/too many wrong tries; try again in \d+ minutes?\.$/)
})

it('a right try takes the wrong ones before it back, and a fault of another kind is no guess', async () => {
  const guesses = new Guesses()
  for (let round = 0; round < 4; round++) {
    for (let at = 0; at < 4; at++) await guesses.slowed('10.0.0.1', 'marta', wrong).catch(() => {})
    expect(await guesses.slowed('10.0.0.1', 'marta', right)).toBe('in')
  }
  for (let at = 0; at < 50; at++) await guesses.slowed('10.0.0.9', 'nuno', () => Promise.reject(new Error('broken'))).catch(() => {})
  expect(await guesses.slowed('10.0.0.9', 'nuno', right)).toBe('in')
})
