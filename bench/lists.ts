import { company, median, ms, note, scale } from './harness'
import { askCompany, sourceSchema } from './support'
import { valueAt } from '../core/value/columns'
import { openEstante } from '../server/estante'
import { type Decimal, toNumber } from '../core/value/decimal'
import { ageing, ageingItems, type Compared, reorder } from './listReports'

/**
 * Ageing and the reorder list: the whole run to shaped rows, against statements written by hand that return the same rows on the same
 * engine.
 */
export async function lists(): Promise<void> {
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  const day = '2026-03-31'
  const invoices = (
    await askCompany(estante, {
      text: `select count(*)::numeric as n from "${sourceSchema}".invoices`,
      values: [],
      columns: [{ path: 'n', type: 'number', scale: 0 }],
    })
  ).columns[0]!
  const told = (what: string, found: Compared, limit: number) => {
    const ratio = median(found.ours) / median(found.theirs)
    if (!found.same) throw new Error(`${what}: the statement by hand does not return as many rows.`)
    note(
      `${what} (${found.rows.toLocaleString('en')} rows)`,
      `${ratio.toFixed(2)} × the statement by hand (${ms(median(found.ours))}, ${ms(median(found.theirs))})`,
      `≤ ${limit} ×`,
      ratio <= limit,
    )
  }
  told(
    `ageing of ${Number(toNumber(valueAt(invoices, 0) as Decimal)).toLocaleString('en')} invoices by customer as of ${day}`,
    await ageing(estante, day, 5),
    1.2,
  )
  told('the same with every open item', await ageingItems(estante, day, 5), 1.05)
  told('reorder list', await reorder(estante, 5), 1.15)
  await estante.close()
}
