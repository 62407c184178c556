import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Page } from '../../core/compose/page'
import { setText } from '../../core/definition/edits/edits'
import type { ReportDefinition } from '../../core/definition/report'
import { salesInvoice } from '../../demo/reports/invoice'
import { statement } from '../../demo/reports/statements'
import { askCompany, demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { keptOf, type RunRecord } from './runRecord'

let estante: Estante
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
})
afterAll(() => estante.close())

async function run(definition: ReportDefinition, answers: Record<string, string>): Promise<RunRecord> {
  const found = estante.runs.start(tester, await estante.input(tester, 'Report', definition, answers), 'report')
  await found.over
  expect(found.sentences).toBeUndefined()
  return found
}
const one = async (text: string): Promise<string> => {
  const rows = await askCompany(estante, { text, values: [], columns: [{ path: 'x', type: 'text' }] })
  return String((rows.columns[0] as { values: (string | null)[] }).values[0])
}
const written = async (of: RunRecord, output: Parameters<Estante['runs']['files']['written']>[2]) => {
  const file = await estante.runs.files.written(tester, of, output)
  const text = await file.readFile('utf8')
  await file.close()
  return text
}
const fresh = (definition: ReportDefinition): ReportDefinition => JSON.parse(JSON.stringify(definition)) as ReportDefinition
async function postInvoice(): Promise<string> {
  const code = await one('select code from company.items order by id limit 1')
  const [customer, branch] = [
    await one('select code from company.customers order by id limit 1'),
    await one('select code from company.branches order by id limit 1'),
  ]
  const invoice = { date: '2026-10-15', customer, branch, lines: [{ item: code, quantity: '3' }], freight: '' }
  return estante.sources.get('').desk!.post(tester, { kind: 'invoice', invoice })
}

describe('one moment', () => {
  it('files that are made of a run later hold what its pages held, whatever is posted meanwhile', async () => {
    const definition = setText(
      salesInvoice(),
      { block: 'pageTop', cell: 'pageNumber', part: 'item' },
      '{{ page.overall }} of {{ page.overallCount }}',
    )
    definition.dataSets[0]!.root.filters = definition.dataSets[0]!.root.filters.filter(each => !each.includes('customer'))
    const answers = { month: '2026-10' }
    const [before, untouched] = [await run(definition, answers), await run(fresh(definition), answers)]
    const outputs = [{ format: 'json' }, { format: 'csv', level: 'lines' }, { format: 'xml' }, { format: 'html' }] as const
    const first = await Promise.all(outputs.map(output => written(untouched, output)))
    const number = await postInvoice()
    const after = await run(fresh(definition), answers)
    const later = await Promise.all(outputs.map(output => written(before, output)))
    expect(later).toEqual(first)
    expect(later.some(text => text.includes(number))).toBe(false)
    expect((await written(after, { format: 'json' })).includes(number)).toBe(true)
    const pages = (await estante.runs.files.pages(tester, before, 0, 1000)).map(text => JSON.parse(text) as Page)
    expect(JSON.parse(later[0]!)).toHaveLength(before.result!.rows.invoice!)
    expect(pages.every(page => page.items.some(item => item.kind === 'text' && item.text.endsWith(` of ${pages.length}`)))).toBe(true)
  })

  it('a figure of a run is traced as it was, and it is said where its postings have changed since', async () => {
    const definition = statement('income')
    const found = await run(definition, { period: '2026-P07' })
    const wanted = { statement: 'statement', line: 'sales', column: 'actual' }
    const then = await estante.pool.trace(tester, found.input, wanted, keptOf(found))
    expect(then.changed).toBeUndefined()
    await postInvoice()
    const later = await estante.pool.trace(tester, found.input, wanted, keptOf(found))
    expect([later.figure, later.changed]).toEqual([then.figure, true])
    const now = await estante.pool.trace(tester, await estante.input(tester, 'Report', definition, { period: '2026-P07' }), wanted)
    expect(now.figure).not.toBe(then.figure)
    expect(now.changed).toBeUndefined()
  })
})

/** A list over a text, whose columns are said to be such. */
function texted(text: string, columns: { name: string; type: 'number' | 'text'; scale?: number }[]): ReportDefinition {
  return {
    language: 'en-GB',
    parameters: [],
    tables: [{ kind: 'sql', name: 'rates', text, key: [], columns: columns.map(each => ({ ...each, databaseType: each.type })) }],
    dataSets: [
      {
        name: 'Rates',
        source: '',
        fields: {},
        root: {
          name: 'rate',
          table: '@rates',
          on: [],
          fields: columns.map(each => each.name),
          related: [],
          details: [],
          filters: [],
          sort: [],
        },
      },
    ],
    layouts: [
      {
        name: 'Page',
        page: { size: 'A4', orientation: 'portrait', margins: { top: 40, right: 40, bottom: 40, left: 40 } },
        blocks: [
          {
            kind: 'table',
            id: 'list',
            level: 'rate',
            left: 0,
            after: 0,
            columns: [{ id: 'a', width: 200 }],
            groups: [],
            rows: [{ id: 'line', kind: 'line', cells: { a: { text: '{{ a | #,##0.######## }}' } } }],
          },
        ],
      },
    ],
  } as unknown as ReportDefinition
}

describe('columns of a text', () => {
  it('are described again before a run: digits that were not there before are printed, and that is said', async () => {
    const definition = texted('select 1.2345::numeric(12,4) as a union all select 1300', [{ name: 'a', type: 'number', scale: 2 }])
    const found = await run(definition, {})
    const [page] = (await estante.runs.files.pages(tester, found, 0, 1)).map(text => JSON.parse(text) as Page)
    expect(page!.items.flatMap(item => (item.kind === 'text' ? [item.text] : [])).sort()).toEqual(['1,300', '1.2345'])
    expect(found.result!.changed!.sentences).toEqual(['The column “a” of “rates” has any number of decimals now, and had 2 decimals.'])
    expect(await written(found, { format: 'csv', level: 'rate' })).toContain('1.2345')
  })
  it('that are gone or of another kind stop a run with what has changed', async () => {
    const definition = texted("select 'x' as a", [
      { name: 'a', type: 'number' },
      { name: 'b', type: 'text' },
    ])
    const found = estante.runs.start(tester, await estante.input(tester, 'Report', definition, {}), 'report')
    await found.over
    expect(found.sentences!.slice(0, 2)).toEqual([
      'The text “rates” gives no column “b” any more.',
      'The column “a” of “rates” is a text now, and was a number.',
    ])
    expect(found.state).toBe('failed')
  })
})
