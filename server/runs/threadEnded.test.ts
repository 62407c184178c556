import { afterAll, beforeAll, expect, it } from 'vitest'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { isOver, type RunRecord } from './runRecord'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

const started = async () =>
  estante.runs.start(tester, await estante.input(tester, 'Sales invoice', salesInvoice(), { month: '2026-09' }), 'report')
const printed = async (run: RunRecord) => {
  await run.over
  expect([run.state, run.sentences]).toEqual(['done', undefined])
  return estante.runs.files.pages(tester, run, 0, 1e6)
}
/** Ends all threads as nothing in Estante would. */
const endThreads = () => Promise.all(estante.pool['threads']['made']?.pool.threads.map(each => each.terminate()) ?? [])

it('a run whose thread is ended in its middle is made anew, and is the same', async () => {
  const undisturbed = await printed(await started())
  const run = await started()
  for (let times = 0; times < 2; times++) {
    // it has begun, and is not done
    const read = run.read
    while (!isOver(run) && !run.early && run.read === read && run.places.length < 2) await run.news
    expect(isOver(run)).toBe(false)
    await endThreads()
    while (!isOver(run) && (run.early || run.places.length > 1)) await run.news
  }
  const pages = await printed(run)
  expect(pages).toEqual(undisturbed)
  expect(run.outline.length).toBe(run.result!.rows.invoice)
})

it('a run whose thread is ended each time says so, and another is made', async () => {
  const run = await started()
  void (async () => {
    while (!isOver(run)) {
      await run.news
      if (run.early || run.places.length > 1) await endThreads()
    }
  })()
  await run.over
  expect([run.state, run.sentences]).toEqual(['failed', ['The thread that made this report was ended from outside; run it again.']])
  await printed(await started())
})
