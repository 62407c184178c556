import type { InvoiceSyntax } from '../../core/api/outputs'
import type { PreparedBlock } from '../../core/compose/prepared'
import type { Page } from '../../core/compose/page'
import { ciiText } from '../../core/einvoice/cii'
import type { EInvoice } from '../../core/einvoice/invoice'
import { notOnPaper } from '../../core/einvoice/paper'
import { breaches } from '../../core/einvoice/rules'
import { TermError } from '../../core/einvoice/told'
import { ublText } from '../../core/einvoice/ubl'
import { emptySentence } from '../../core/parameter/sentences'
import { uniqueNamer } from '../../core/parameter/fileName'
import type { Fetch } from '../../core/read/read'
import { pdfBytes } from './documents'
import { runPages } from './execute'
import { RunError, someOf } from './input'
import type { RunMeter } from './meter'
import type { ReadyRun } from './ready'
import { ZipFile } from './zipFile'

/** An invoice as machines read it, and the pages on which people do. */
interface ToldDocument {
  invoice: EInvoice
  pages: Page[]
}

const encoder = new TextEncoder()
/** The invoice within its PDF (Factur-X 1.07, section 6.2). */
const within = { name: 'factur-x.xml', description: 'The invoice by EN 16931', profile: 'EN 16931' }

const hasInvoices = (blocks: readonly PreparedBlock[]): boolean =>
  blocks.some(block => ('einvoice' in block && block.einvoice !== undefined) || hasInvoices(block.inner ?? []))

/**
 * Each document of a run with its e-invoice, in their order. All are looked at before anything is refused: an invoice that breaks a rule,
 * or tells another figure than its pages, is a sentence of the refusal.
 * @throws RunError with these sentences, or where no repeat of the layout is told as e-invoices
 */
export async function* invoiceDocuments(ready: ReadyRun, fetch: Fetch, meter: RunMeter): AsyncGenerator<ToldDocument> {
  if (!hasInvoices(ready.report.layout.blocks))
    throw new RunError(['No repeat of this layout is told as e-invoices; switch that on at the repeat of its documents.'])
  const faults: string[] = []
  let waiting: (EInvoice | TermError)[] = []
  let open: ToldDocument | undefined
  const checked = ({ invoice, pages }: ToldDocument): boolean => {
    const texts = pages.flatMap(page => page.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])))
    const found = [...breaches(invoice).map(({ rule, sentence }) => `${sentence} (${rule})`), ...notOnPaper(invoice, texts)]
    faults.push(...found.map(sentence => `${invoice.number}: ${sentence}`))
    return !faults.length
  }
  for await (const page of runPages(ready, fetch, meter, false, { invoices: told => void waiting.push(told) })) {
    if (waiting.length && page.number === 1) {
      if (open && checked(open)) yield open
      const told = waiting.shift()!
      if (told instanceof TermError) faults.push(told.message)
      open = told instanceof TermError ? undefined : { invoice: told, pages: [] }
    }
    open?.pages.push(page)
  }
  if (open && checked(open)) yield open
  waiting = waiting.filter(told => !(told instanceof TermError))
  if (waiting.length) faults.push(`${waiting.length} of the e-invoices have no pages of their own; let page numbers begin anew with each.`)
  if (faults.length) throw new RunError(someOf(faults))
}

/**
 * E-invoices of a run as files in a ZIP, named by their numbers; comes back with how many pages they have on paper.
 * @throws RunError where one of them cannot be told
 */
export async function invoicesTo(
  ready: ReadyRun,
  { format, file }: { format: InvoiceSyntax; file: string },
  meter: RunMeter,
  fetch: Fetch,
): Promise<number> {
  const zip = new ZipFile(file)
  const named = uniqueNamer()
  let pages = 0
  for await (const { invoice, pages: own } of invoiceDocuments(ready, fetch, meter)) {
    const start = performance.now()
    pages += own.length
    const text = encoder.encode(format === 'ubl' ? ublText(invoice) : ciiText(invoice))
    const name = named(invoice.number)
    if (format === 'hybrid')
      await zip.add(`${name}.pdf`, await pdfBytes(`${ready.name} ${invoice.number}`, own, { ...within, bytes: text }))
    else await zip.add(`${name}.xml`, text, false)
    meter.ms.write += performance.now() - start
  }
  if (!pages) throw new RunError([emptySentence(ready.definition, ready.parameters)])
  await zip.end()
  return pages
}
