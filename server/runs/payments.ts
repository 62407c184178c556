import { createHash } from 'node:crypto'
import type { Output } from '../../core/api/outputs'
import type { PreparedBlock } from '../../core/compose/prepared'
import { TermError } from '../../core/einvoice/told'
import { digitsOf, printedDigits } from '../../core/einvoice/paper'
import { emptySentence } from '../../core/parameter/sentences'
import { painText } from '../../core/payment/pain'
import { decimalsIn, faultsOf } from '../../core/payment/rules'
import type { Transfer } from '../../core/payment/transfer'
import type { Fetch } from '../../core/read/read'
import { decimalText } from '../../core/value/decimal'
import { runPages } from './execute'
import { RunError, someOf } from './input'
import type { RunMeter } from './meter'
import type { ReadyRun } from './ready'
import { writeAll } from './write'

const hasPayments = (blocks: readonly PreparedBlock[]): boolean =>
  blocks.some(block => ('payments' in block && block.payments !== undefined) || hasPayments(block.inner ?? []))

/**
 * The payments that a run tells, in the order of its rows, each looked at: what breaks a rule, or stands with another amount on the pages,
 * is a sentence of the refusal. @throws RunError with these sentences, or where no table of the layout is told as payments
 */
async function paymentsOf(ready: ReadyRun, fetch: Fetch, meter: RunMeter): Promise<{ transfers: Transfer[]; pages: number }> {
  if (!hasPayments(ready.report.layout.blocks))
    throw new RunError(['No table of this layout is told as payments; switch that on at the table of what is to be paid.'])
  const faults: string[] = []
  const transfers: Transfer[] = []
  const texts: string[] = []
  let pages = 0
  const hear = (told: Transfer | TermError): void => {
    if (told instanceof TermError) return void faults.push(told.message)
    faults.push(...faultsOf(told).map(each => each.sentence))
    transfers.push(told)
  }
  for await (const page of runPages(ready, fetch, meter, false, { payments: hear })) {
    pages++
    for (const item of page.items) if (item.kind === 'text') texts.push(item.text)
  }
  if (!faults.length) {
    const printed = printedDigits(texts)
    for (const { payee, amount, currency } of transfers)
      if (!printed.has(digitsOf(amount, decimalsIn(currency))))
        faults.push(`The payment to ${payee} is ${decimalText(amount)} ${currency}, which stands nowhere on the pages.`)
  }
  if (faults.length) throw new RunError(someOf(faults))
  return { transfers, pages }
}

/**
 * The payments of a run as a file for a bank. The same payments of the same moment have the same number, so that a bank that gets them
 * twice knows it; comes back with how many pages they stand on.
 * @throws RunError where there is none, or one of them cannot be told
 */
export async function paymentsTo(
  ready: ReadyRun,
  { version = '09', file }: Extract<Output, { format: 'pain' }> & { file: string },
  meter: RunMeter,
  fetch: Fetch,
): Promise<number> {
  const { transfers, pages } = await paymentsOf(ready, fetch, meter)
  if (!transfers.length) throw new RunError([emptySentence(ready.definition, ready.parameters)])
  const start = performance.now()
  const made = new Date(ready.moment ?? Date.now()).toISOString().replace(/\.\d+/, '')
  const told = JSON.stringify([made, transfers.map(({ amount, ...rest }) => ({ ...rest, amount: decimalText(amount) }))])
  const id = createHash('sha256').update(told).digest('hex').slice(0, 32).toUpperCase()
  await writeAll(file, painText(transfers, { version, id, made, initiator: transfers[0]!.payer }))
  meter.ms.write += performance.now() - start
  return pages
}
