import { existsSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Page } from '../../core/compose/page'
import { setText } from '../../core/definition/edits/edits'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoData, temporaryFolder, tester, askCompany } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import type { RunRecord } from './runRecord'
import { readOutput } from '../../core/api/outputs'
import { PageSpool, readPages } from './spool'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function finished(run: RunRecord): Promise<void> {
  await run.over
}
const everything = () => {
  const definition = salesInvoice()
  definition.dataSets[0]!.root.filters = []
  return definition
}

it('pages kept in a file come back whole, in any stretch', async () => {
  const folder = temporaryFolder()
  let file = 0
  const page = fc.record({ text: fc.string({ maxLength: 200, unit: 'grapheme' }), number: fc.nat() })
  await fc.assert(
    fc.asyncProperty(fc.array(page, { minLength: 1, maxLength: 30 }), fc.nat(30), fc.nat(30), async (pages, a, b) => {
      const path = join(folder, String(++file))
      const spool = await PageSpool.create(path)
      for (const each of pages) await spool.add(each as unknown as Page)
      await spool.flush()
      await spool.close()
      const [from, to] = [Math.min(a, b, pages.length - 1), Math.min(Math.max(a, b), pages.length)]
      expect((await readPages(path, spool.places, from, to)).map(text => JSON.parse(text) as unknown)).toEqual(pages.slice(from, to))
    }),
    { numRuns: 40 },
  )
})

describe('a run for a reader', () => {
  it('grows page by page, names its documents, and counts what it read', async () => {
    const run = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', salesInvoice(), { month: '2026-09' }))
    await finished(run)
    expect(run.state).toBe('done')
    expect(run.result!.pages).toBe(run.places.length - 1)
    const pages = (await estante.runs.files.pages(tester, run, 0, 1000)).map(text => JSON.parse(text) as Page)
    expect(pages.length).toBe(run.result!.pages)
    expect(run.outline.length).toBe(run.result!.rows.invoice)
    for (const entry of run.outline) expect(pages[entry.page]!.label).toBe(entry.label)
    expect(pages.map(page => page.overall)).toEqual(pages.map((_, index) => index + 1))
    // root records are numbered over the run, whatever chunk they came in
    expect(new Set(pages.map(page => page.record)).size).toBe(run.result!.rows.invoice)
  })
  it('shows its first pages before the rest is done, and leaves this thread free', async () => {
    const run = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', everything(), {}))
    while (run.places.length === 1 && run.state === 'running') await run.news
    expect(run.places.length).toBeGreaterThan(1)
    const early = run.state
    let beats = 0
    const beat = setInterval(() => beats++, 10)
    await finished(run)
    clearInterval(beat)
    expect(early).toBe('running')
    expect(run.result!.rows.invoice).toBeGreaterThan(2500)
    // had it composed in this thread, no timer would have come to its turn in between
    expect(beats).toBeGreaterThan(5)
  })
  it('can be cancelled; the next run is not disturbed', async () => {
    const run = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', everything(), {}))
    await run.news
    await estante.runs.cancel(tester, run.id)
    await finished(run)
    expect(run.state).toBe('cancelled')
    const next = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', salesInvoice(), { month: '2026-10' }))
    await finished(next)
    expect(next.state).toBe('done')
  })
  it('that fails says why', async () => {
    const faulty = setText(salesInvoice(), { block: 'totals', cell: 'total', part: 'item' }, '{{ totl }}')
    const run = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', faulty, {}))
    await finished(run)
    expect([run.state, run.sentences]).toEqual([
      'failed',
      ['“total” in block “totals”: There is no field “totl” here; the nearest is “total”.'],
    ])
  })
})

it('pages over the whole run are counted first where the layout prints their number', async () => {
  const definition = setText(
    salesInvoice(),
    { block: 'pageTop', cell: 'pageNumber', part: 'item' },
    '{{ page.overall }} of {{ page.overallCount }}, {{ page.number }} of {{ page.count }}',
  )
  const run = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', definition, { month: '2026-09' }))
  await finished(run)
  const pages = (await estante.runs.files.pages(tester, run, 0, 1000)).map(text => JSON.parse(text) as Page)
  pages.forEach((page, index) =>
    expect(
      page.items.some(item => item.kind === 'text' && item.text.startsWith(`${index + 1} of ${pages.length}, ${page.number} of `)),
    ).toBe(true),
  )
})

it('a total over the report stands on every invoice, and equals SQL', async () => {
  const definition = setText(
    salesInvoice(),
    { block: 'pageFoot', cell: 'footBranch', part: 'item' },
    'all {{ sum(total, over: report) }} for {{ count(invoice, over: report) }}',
  )
  const run = estante.runs.start(tester, await estante.input(tester, 'Sales invoice', definition, { month: '2026-09' }))
  await finished(run)
  const rows = await askCompany(estante, {
    text:
      "select to_char(sum(total), 'FM999,999,990.00') || ' for ' || count(*) from company.invoices where invoice_date between " +
      "'2026-09-01' and '2026-09-30' and kind = 'invoice'",
    values: [],
    columns: [{ path: 'x', type: 'text' }],
  })
  const expected = `all ${(rows.columns[0] as { values: string[] }).values[0]}`
  const pages = (await estante.runs.files.pages(tester, run, 0, 1000)).map(text => JSON.parse(text) as Page)
  for (const page of pages) expect(page.items.some(item => item.kind === 'text' && item.text === expected)).toBe(true)
})

it('a file of a run is made once, goes on when nobody waits, and goes with the run', async () => {
  const run = estante.runs.start(
    tester,
    { ...(await estante.input(tester, 'Sales invoice', salesInvoice(), { month: '2026-09' })) },
    'report',
  )
  await finished(run)
  expect((await estante.runs.list(tester))[0]!.run).toBe(run)
  const asked = { format: 'xlsx', sheets: 'documents' } as const
  const begins = async (output: Parameters<typeof estante.runs.files.written>[2], letters: number) => {
    const file = await estante.runs.files.written(tester, run, output)
    const start = (await file.readFile()).subarray(0, letters).toString()
    await file.close()
    return start
  }
  expect(await Promise.all([begins(asked, 2), begins(asked, 2)])).toEqual(['PK', 'PK'])
  expect([...run.files.values()].map(file => file.state)).toEqual(['done'])
  expect(await begins({ format: 'pdf' }, 5)).toBe('%PDF-')
  const paths = [run.file, ...[...run.files.values()].map(file => file.path)]
  expect(paths.map(path => existsSync(path))).toEqual([true, true, true])
  await expect(estante.runs.files.written(tester, run, { format: 'csv', level: 'nothing' })).rejects.toThrow(
    'There is no level “nothing”; there are invoice, lines, taxes.',
  )
  expect(run.files.size).toBe(2)
  // one that is being sent when its run goes is sent to its end
  const sent = await estante.runs.files.written(tester, run, { format: 'pdf' })
  await estante.store.saveKeeping(tester, { runs: 1, days: 30 })
  await finished(
    estante.runs.start(tester, await estante.input(tester, 'Sales invoice', salesInvoice(), { month: '2026-09', customer: 'C-0001' })),
  )
  await estante.runs.sweep()
  expect(await estante.runs.get(tester, run.id)).toBeUndefined()
  expect(paths.some(existsSync)).toBe(false)
  expect((await sent.readFile()).subarray(-6).toString()).toContain('%%EOF')
  await sent.close()
  await expect(estante.runs.files.written(tester, run, { format: 'pdf' })).rejects.toThrow('This run is not kept any more')
})

it('what a file is to be is read out of words, each fault with one sentence', () => {
  expect(readOutput({ format: 'csv', level: 'lines', separator: 'tab', decimal: 'comma', guard: 'yes' })).toEqual({
    format: 'csv',
    level: 'lines',
    separator: 'tab',
    decimal: 'comma',
    guard: true,
  })
  expect(readOutput({ format: 'xlsx', sheets: 'groups', rows: 'lines' })).toEqual({ format: 'xlsx', sheets: 'groups', rows: 'lines' })
  expect(readOutput({ format: 'json' })).toEqual({ format: 'json' })
  expect(() => readOutput({ format: 'csv' })).toThrow('CSV holds the rows of one level, or the cells of one crosstab; say which.')
  expect(() => readOutput({ format: 'xlsx', sheets: 'all' })).toThrow('There is no sheets “all”; there are one, documents, groups.')
  expect(() => readOutput({ format: 'doc' })).toThrow('There is no format “doc”')
})
