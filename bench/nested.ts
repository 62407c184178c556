import { plainTable } from '../core/definition/upgrade'
import type { NestedBlock } from '../core/definition/blocks/nested'
import type { Block } from '../core/definition/blocks/block'
import type { ReportDefinition } from '../core/definition/report'
import type { Fetch } from '../core/read/read'
import { openEstante, type Estante } from '../server/estante'
import { runPages } from '../server/runs/execute'
import { RunMeter } from '../server/runs/meter'
import { readyRun } from '../server/runs/ready'
import type { RunInput } from '../server/runs/input'
import { level, report } from './definitions'
import { company, median, ms, note, scale } from './harness'
import { valueAt } from '../core/value/columns'
import { type Decimal, toNumber } from '../core/value/decimal'
import { askCompany, sourceSchema, tester } from './support'

const lines = (levelName: string): Block => ({
  ...plainTable(
    'lines',
    levelName,
    [
      { id: 'no', title: 'No', text: '{{ line_no }}', width: 40 },
      { id: 'description', title: 'Description', text: '{{ description }}', width: 0 },
      { id: 'quantity', title: 'Quantity', text: '{{ quantity }}', width: 80 },
      { id: 'amount', title: 'Amount', text: '{{ amount }}', width: 90, end: '{{ sum(amount) }}' },
    ],
    { after: 6 },
  ),
})
const fields = ['line_no', 'description', 'quantity', 'amount']
/** Lines of so many invoices: about eight for each item. */
const sold = 'invoice_id <= 51000'
const sort = ['invoice_id', 'line_no'].map(field => ({ field, descending: false }))
/** Items one after another, with something under each. */
const items = (inner: Block, most: number, details: ReportDefinition['dataSets'][0]['root']['details'] = []): ReportDefinition =>
  report(level('item', 'items', { fields: ['code'], filters: [`id <= ${most}`], sort: [{ field: 'code', descending: false }], details }), {
    kind: 'repeat',
    id: 'each',
    level: 'item',
    newPage: false,
    restartNumbers: false,
    after: 0,
    blocks: [
      {
        kind: 'panel',
        id: 'head',
        height: 16,
        after: 0,
        items: [{ kind: 'text', id: 'code', x: 0, y: 0, width: 200, text: '{{ code }}' }],
      },
      inner,
    ],
  } as Block)

/** The time and the statements of a run's pages. */
async function pages(estante: Estante, input: RunInput): Promise<{ took: number; statements: number; count: number }> {
  let [statements, count] = [0, 0]
  const fetch: Fetch = query => {
    statements++
    return askCompany(estante, query)
  }
  const began = performance.now()
  for await (const _ of runPages(readyRun(input), fetch, new RunMeter(), true)) count++
  return { took: performance.now() - began, statements, count }
}

/** A report nested under thousands of records, against the same lines as a level of the report's own. */
export async function nested(): Promise<void> {
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  const inner: ReportDefinition = {
    ...report(level('lines', 'invoice_lines', { fields, filters: ['item_id = param.item', sold], sort }), lines('lines')),
    parameters: [{ name: 'item', label: 'Item', kind: 'whole', required: true }],
  }
  const id = await estante.store.create(tester, 'Bench', 'Lines of an item', inner, true)
  const block: NestedBlock = {
    kind: 'nested',
    id: 'inner',
    report: id,
    name: 'Lines of an item',
    feeds: [{ parameter: 'item', formula: 'id' }],
    left: 0,
    width: 0,
    after: 0,
    most: 200,
  }
  const own = level('lines', 'invoice_lines', { on: [{ from: 'id', to: 'item_id' }], fields, filters: [sold], sort })
  const inputs = {
    nested: await estante.input(tester, 'Nested', items(block, 5000), {}),
    detail: await estante.input(tester, 'Detail', items(lines('lines'), 5000, [own]), {}),
    few: await estante.input(tester, 'Few', items(block, 300), {}),
    some: await estante.input(tester, 'Some', items(block, 500), {}),
  }
  const times = { nested: [] as number[], detail: [] as number[] }
  let [made, linesIn] = [0, '']
  for (let round = 0; round <= 5; round++)
    for (const which of ['nested', 'detail'] as const) {
      const { took, count } = await pages(estante, inputs[which])
      if (round) times[which].push(took)
      if (which === 'nested') made = count
    }
  const { columns } = await askCompany(estante, {
    text: `select count(*)::numeric from "${sourceSchema}".invoice_lines where item_id <= 5000 and ${sold}`,
    values: [],
    columns: [{ path: 'n', type: 'number', scale: 0 }],
  })
  linesIn = toNumber(valueAt(columns[0]!, 0) as Decimal).toLocaleString('en')
  const [ours, detail] = [median(times.nested), median(times.detail)]
  const sent = [(await pages(estante, inputs.few)).statements, (await pages(estante, inputs.some)).statements]
  note(
    `a nested report under 5,000 records, ${linesIn} lines on ${made.toLocaleString('en')} pages`,
    `${(ours / detail).toFixed(2)} × the same lines as a detail level (${ms(ours)}, ${ms(detail)})`,
    '≤ 1.3 ×',
    ours / detail <= 1.3,
  )
  note('statements sent for 300 records of a chunk and for 500', sent.join(' and '), 'the same', sent[0] === sent[1])
  await estante.close()
}
