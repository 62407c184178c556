import { company, median, ms, note, root, scale } from './harness'
import { tester, sourceSchema, companyEngine, companyFolder } from './support'
import { cpSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { PGlite } from '@electric-sql/pglite'
import { assembleReport } from '../core/compose/assemble'
import { tickedFields } from '../core/model/levels'
import type { ReportDefinition } from '../core/definition/report'
import { planDataSet } from '../core/sql/plan'
import type { Query } from '../core/sql/query'
import { clock } from '../demo/company/clock'
import { salesInvoice } from '../demo/reports/invoice'
import { serveSnapshot } from '../server/runs/remote'

/** Invoices with their lines and items: fifteen columns of lines. */
export function linesOfInvoices(): ReportDefinition {
  const definition = salesInvoice()
  definition.dataSets[0]!.root = {
    ...definition.dataSets[0]!.root,
    fields: [],
    related: [],
    filters: [],
    sort: [],
    details: [
      {
        name: 'lines',
        table: 'invoice_lines',
        on: [{ from: 'id', to: 'invoice_id' }],
        related: [
          {
            name: 'item',
            table: 'items',
            on: [{ from: 'item_id', to: 'id' }],
            fields: ['code', 'name', 'price', 'net_weight'],
            related: [],
          },
        ],
        details: [],
        filters: [],
        sort: [],
        fields: [
          'invoice_id',
          'line_no',
          'kind',
          'item_id',
          'account_code',
          'description',
          'quantity',
          'unit_code',
          'unit_price',
          'amount',
          'tax_code',
        ],
      },
    ],
  }
  return definition
}

/** 400,000 lines × 15 columns through planner, engine and thread boundary, against the plain query of the same rows in this process. */
export async function read(): Promise<void> {
  const folder = await company(scale)
  const definition = linesOfInvoices()
  const columns = 15
  const engine = companyEngine(folder)
  await engine.open()
  const catalog = await engine.catalog(tester)
  const report = assembleReport(definition, catalog)
  const plan = planDataSet({
    levels: report.tree.levels,
    catalog,
    schema: sourceSchema,
    used: report.tree.levels.map(level => new Set(tickedFields(level.definition))),
    parameterTypes: {},
    parameters: {},
    today: clock,
  })
  const ours: number[] = []
  let rows = 0
  let stall = 0
  let memory = 0
  // as a run does it: records are made in a thread of their own, this one only hands messages on
  for (let round = 0; round < 3; round++) {
    const { port1, port2: asks } = new MessageChannel()
    const snapshot = await engine.snapshot({ ...tester, task: `read ${round}` })
    serveSnapshot(port1 as never, snapshot)
    const thread = new Worker(join(root, '.build/bench/read.thread.mjs'), {
      workerData: { definition, catalog, schema: sourceSchema, today: clock, ports: { asks } },
      transferList: [asks as never],
    })
    let last = performance.now()
    const beat = setInterval(() => {
      stall = Math.max(stall, performance.now() - last - 5)
      last = performance.now()
    }, 5)
    const found = await new Promise<{ rows: number; ms: number; memory: number }>((resolve, reject) =>
      thread.once('message', resolve).once('error', reject),
    )
    clearInterval(beat)
    await thread.terminate()
    port1.close()
    snapshot.close()
    rows = found.rows
    memory = Math.max(memory, found.memory)
    ours.push(found.ms)
    console.log(`  ours ${ms(found.ms)}`)
  }
  await engine.close()
  const copy = join(root, '.build', 'bench-copy')
  rmSync(copy, { recursive: true, force: true })
  cpSync(companyFolder(folder), copy, { recursive: true })
  const db = await PGlite.create(copy)
  const statement: Query = plan.records(1, [[0]])
  const whole = statement.text.replace(/ where .*$/, '')
  const plain: number[] = []
  for (let round = 0; round < 3; round++) {
    const began = performance.now()
    const result = await db.query(whole)
    plain.push(performance.now() - began)
    if (result.rows.length !== rows) throw new Error(`${rows} rows were read, ${result.rows.length} were there`)
    console.log(`  db.query ${ms(plain.at(-1)!)}`)
  }
  await db.close()
  const ratio = median(plain) / median(ours)
  note(
    `reading ${rows.toLocaleString('en')} lines × ${columns} columns into level records`,
    `${ratio.toFixed(2)} × the speed of db.query (${ms(median(ours))} against ${ms(median(plain))})`,
    '≥ 4 ×',
    ratio >= 4,
  )
  note('longest stall of the main thread meanwhile', ms(stall), '≤ 100 ms', stall <= 100)
  note('memory added while reading', `${Math.round(memory / 1e6)} MB`, 'bounded by the chunk')
}
