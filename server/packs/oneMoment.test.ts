import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { PackTieResult } from '../../core/api/packs'
import type { PackDefinition } from '../../core/pack/definition'
import { demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { PackRunRow } from '../store/packRunRows'

/* Rule 39: all reports of a pack are of one moment of their source, whatever is posted while they run. */

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function ended(id: string): Promise<PackRunRow> {
  for (;;) {
    const run = (await estante.store.packRuns.find(id))!
    if (!['waiting', 'running', 'sending'].includes(run.state)) return run
    await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 100))])
  }
}
/** An expense in the open period, in cents. */
const post = (cents: number) =>
  estante.sources.get('').desk!.post(tester, {
    kind: 'entry',
    entry: {
      date: '2026-10-20',
      description: 'Paint',
      lines: [
        { account: '6150', branch: 'NQ', department: 'ADM', debit: (cents / 100).toFixed(2) },
        { account: '1010', branch: 'NQ', credit: (cents / 100).toFixed(2) },
      ],
    },
  })

it('every figure of a pack holds the same postings: the first so many of them', async () => {
  const found = (await estante.store.packs.list(tester)).find(each => each.name === 'Month end')!
  const definition: PackDefinition = { ...found.definition, to: [], out: { ...found.definition.out, zip: false, xlsx: false } }
  const result = async (): Promise<[run: PackRunRow, figures: string[]]> => {
    const run = await ended((await estante.packs.start(tester, { ...found, definition }, { answers: { period: '2026-P07' } }))!)
    const across = (run.ties as PackTieResult[]).filter(each => each.report === undefined)
    return [run, across.flatMap(each => [each.left!, each.right!])]
  }
  let [, [begin]] = await result()
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.record({ cents: fc.integer({ min: 1, max: 900_000 }), after: fc.integer({ min: 0, max: 400 }) }), {
        minLength: 3,
        maxLength: 12,
      }),
      async postings => {
        const posting = (async () => {
          for (const { cents, after } of postings) {
            await new Promise(resolve => setTimeout(resolve, after))
            await post(cents)
          }
        })()
        const [run, figures] = await result()
        await posting
        expect([run.state, run.sentences]).toEqual(['done', null])
        // one figure on all sides of both tie-outs
        expect(new Set(figures).size).toBe(1)
        const sums = [0]
        for (const { cents } of postings) sums.push(sums.at(-1)! + cents)
        const spent = Math.round((Number(begin) - Number(figures[0])) * 100)
        expect(sums).toContain(spent)
        begin = (Number(begin) - sums.at(-1)! / 100).toFixed(2)
      },
    ),
    { numRuns: 6 },
  )
}, 240_000)
