import { setTimeout as wait } from 'node:timers/promises'
import { expect, it } from 'vitest'
import type { Page } from '../../core/compose/page'
import { temporaryFolder } from '../../tests/support'
import { Miniatures } from './miniatures'

const page = (width: number) => ({ width, height: 1, items: [], boxes: [] }) as unknown as Page

it('are made one after another, once each; one that fails is told and keeps none of the others', async () => {
  const shelf = new Miniatures(temporaryFolder())
  let [working, most, made] = [0, 0, 0]
  const make = (width: number) => async () => {
    most = Math.max(most, ++working)
    await wait(5)
    working--
    made++
    if (width === 3) throw new Error('It could not be read.')
    return page(width)
  }
  const asked = [1, 2, 3, 4, 4].map(width => shelf.page(`r${width}`, 1, '', make(width)).catch((error: Error) => error.message))
  expect(await Promise.all(asked)).toEqual([page(1), page(2), 'It could not be read.', page(4), page(4)])
  expect([most, made]).toEqual([1, 4])
})

it('wait while somebody has work of their own', async () => {
  let busy = true
  const shelf = new Miniatures(temporaryFolder(), () => busy)
  const order: string[] = []
  const made = shelf.page('r', 1, '', async () => {
    order.push('miniature')
    return null
  })
  await wait(250)
  order.push('work is done')
  busy = false
  await made
  expect(order).toEqual(['work is done', 'miniature'])
})

it('of the last time are shown at once, those of another version are not', async () => {
  const folder = temporaryFolder()
  await new Miniatures(folder).page('r', 1, '', async () => page(1))
  await wait(50)
  const later = new Miniatures(folder)
  const never = () => new Promise<Page | null>(() => {})
  expect(await later.page('r', 1, '', never)).toEqual(page(1))
  expect(await later.page('r', 2, '', async () => page(2))).toEqual(page(2))
})
