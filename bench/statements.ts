import { company, median, ms, note, scale } from './harness'
import { inBrowser, keepReport, paintedEdits } from './browser'
import { askCompany, sourceSchema } from './support'
import { valueAt } from '../core/value/columns'
import { openEstante } from '../server/estante'
import { type Decimal, toNumber } from '../core/value/decimal'
import { byHand, fullTrend, laid, lineEdits, trend, wideTrend } from './statementReports'

/**
 * An income statement over thirteen periods of the whole ledger, against a statement by hand that returns its figures; then with prior
 * year, budget and branches, and edits of its lines.
 */
export async function statements(): Promise<void> {
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  const counted = (
    await askCompany(estante, {
      text: `select count(*)::numeric as n from "${sourceSchema}".journal_lines`,
      values: [],
      columns: [{ path: 'n', type: 'number', scale: 0 }],
    })
  ).columns[0]!
  const times = { ours: [] as number[], wide: [] as number[], full: [] as number[], hand: [] as number[] }
  for (let round = 0; round <= 5; round++) {
    const timed = async <T>(list: number[], work: () => Promise<T>): Promise<T> => {
      const began = performance.now()
      const result = await work()
      if (round) list.push(performance.now() - began)
      return result
    }
    const hand = await timed(times.hand, () => byHand(estante))
    const found = [
      await timed(times.ours, () => laid(estante, trend())),
      await timed(times.wide, () => laid(estante, wideTrend())),
      await timed(times.full, () => laid(estante, fullTrend())),
    ]
    for (const each of found)
      if (Math.abs(each.result - hand) > 0.005) throw new Error(`The statement says ${each.result}, the ledger by hand ${hand}.`)
  }
  const [hand, ours, wide, full] = [median(times.hand), median(times.ours), median(times.wide), median(times.full)]
  note(
    `income statement over 13 periods from ${Number(toNumber(valueAt(counted, 0) as Decimal)).toLocaleString('en')} journal lines, ` +
      'request to page',
    `${(ours / hand).toFixed(2)} × the statement by hand (${ms(ours)}, ${ms(hand)})`,
    '≤ 1.2 ×',
    ours / hand <= 1.2,
  )
  note(
    'the same with the year before, budget and three branches as columns',
    `${(wide / hand).toFixed(2)} × that statement (${ms(wide)})`,
    '≤ 2 ×',
    wide / hand <= 2,
  )
  note(
    'the same with thirteen columns each of the year before and of the budget, 43 in all',
    `${(full / hand).toFixed(2)} × that statement (${ms(full)})`,
    '≤ 1.15 ×',
    full / hand <= 1.15,
  )
  await estante.close()
  await inBrowser(await company(1), async (tab, address) => {
    for (const [what, definition] of [
      ['the trend', trend()],
      ['the wide one', wideTrend()],
    ] as const) {
      const id = await keepReport(address, definition)
      await tab.goto(`${address}/reports/${id}/page`)
      await tab.waitForFunction(() => document.querySelector('[data-page-text]')?.textContent?.includes('Personnel'))
      await tab.waitForTimeout(1500)
      const times = await paintedEdits(tab, lineEdits, 12)
      const sorted = [...times].sort((a, b) => a - b)
      const high = sorted[Math.floor(sorted.length * 0.95)]!
      note(
        `an edit of a line of ${what} on the sheet, key to painted page`,
        `median ${ms(median(times))}, 95th percentile ${ms(high)}`,
        '≤ 30 ms, ≤ 60 ms',
        median(times) <= 30 && high <= 60,
      )
    }
  })
}
