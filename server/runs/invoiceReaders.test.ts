import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { FacturX } from 'factur-x-kit'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { toldByLaw } from '../../demo/reports/einvoice'
import { salesInvoice } from '../../demo/reports/invoice'
import { askCompany, demoData, temporaryFolder, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { RunOutput } from './output'

let estante: Estante
const folder = temporaryFolder()
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function filesOf(format: 'cii' | 'hybrid'): Promise<Map<string, Uint8Array>> {
  const file = join(folder, `${format}.zip`)
  const input = await estante.input(tester, 'Sales invoice', toldByLaw(salesInvoice(), '380'), { month: '2026-09' })
  await estante.pool.run(tester, input, { format, file } as RunOutput)
  return new Map(Object.entries(unzipSync(readFileSync(file))))
}

interface ReadInvoice {
  document: { id: string; type: string; currency: string }
  totals: { openAmount: number; taxBreakdown: { basisAmount: number; calculatedAmount: number }[] }
  invoiceLines: { settlement: { lineTotals: { netTotal: number } } }[]
  buyer: { id: string }
}

describe('e-invoices, as another program reads them', () => {
  it('break none of the rules that it knows, and say what the tables say', async () => {
    const { columns, count } = await askCompany(estante, {
      text: `select i.number, i.total::text as total, i.currency_code::text as currency, c.code,
        (select sum(amount) from company.invoice_lines l where l.invoice_id = i.id)::text as lines,
        (select sum(amount) from company.invoice_taxes t where t.invoice_id = i.id)::text as tax
        from company.invoices i join company.customers c on c.id = i.customer_id where i.kind = 'invoice' and i.invoice_date between
        '2026-09-01' and '2026-09-30' order by i.number`,
      values: [],
      columns: ['number', 'total', 'currency', 'code', 'lines', 'tax'].map(path => ({ path, type: 'text' })),
    })
    const rows = Array.from({ length: count }, (_, row) => columns.map(column => (column as { values: string[] }).values[row]!))
    const cents = (values: readonly number[]) => values.reduce((sum, each) => sum + Math.round(each * 100), 0)
    for (const format of ['cii', 'hybrid'] as const) {
      const found = await filesOf(format)
      const read: unknown[] = []
      for (const [name, bytes] of found) {
        const invoice = await (format === 'cii' ? FacturX.fromXML(Buffer.from(bytes)) : FacturX.fromPDF(bytes))
        expect([name, invoice.validate()]).toEqual([name, { valid: true }])
        const { document, totals, invoiceLines, buyer } = invoice.object as unknown as ReadInvoice
        read.push([
          document.id,
          totals.openAmount,
          document.currency,
          buyer.id,
          cents(invoiceLines.map(each => each.settlement.lineTotals.netTotal)),
          cents(totals.taxBreakdown.map(each => each.calculatedAmount)),
        ])
      }
      expect(read).toEqual(
        rows.map(([number, total, currency, code, lines, tax]) => [
          number,
          Number(total),
          currency,
          code,
          cents([Number(lines)]),
          cents([Number(tax)]),
        ]),
      )
    }
  })

  it.each([
    ['DuePayableAmount', /(<ram:DuePayableAmount>)[^<]*/, '$11.00'],
    ['LineTotalAmount of the document', /(<ram:SpecifiedTradeSettlementHeaderMonetarySummation>\s*<ram:LineTotalAmount>)[^<]*/, '$11.00'],
    ['TaxBasisTotalAmount', /(<ram:TaxBasisTotalAmount>)[^<]*/, '$11.00'],
    ['CalculatedAmount', /(<ram:CalculatedAmount>)[^<]*/, '$11.00'],
  ])('are refused by it where %s is another', async (_, find, put) => {
    const [bytes] = [...(await filesOf('cii')).values()]
    const broken = Buffer.from(bytes!).toString('utf8').replace(find, put)
    expect(broken).not.toBe(Buffer.from(bytes!).toString('utf8'))
    const said = await FacturX.fromXML(Buffer.from(broken)).then(
      read => read.validate().valid,
      () => false,
    )
    expect(said).toBe(false)
  })
})
