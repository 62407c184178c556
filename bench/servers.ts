import { ownContext } from '../server/access/context'
import { existsSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { PGlite } from '@electric-sql/pglite'
import { createConnection } from 'mysql2'
import pg from 'pg'
import { copyRow } from '../core/intake/convert'
import { assembleReport } from '../core/compose/assemble'
import type { ReportDefinition } from '../core/definition/report'
import { tickedFields } from '../core/model/levels'
import { planDataSet } from '../core/sql/plan'
import { clock } from '../demo/company/clock'
import { sourceId } from '../demo/source'
import { openEstante } from '../server/estante'
import { serveSnapshot } from '../server/runs/remote'
import { startMariadb } from '../tests/mariadb'
import { loadCompany, removeServer, startServer } from '../tests/servers'
import { company, median, ms, note, root, scale } from './harness'
import { linesOfInvoices } from './reading'
import { tester } from './support'

const timed = async (work: () => Promise<unknown>): Promise<number> => {
  const began = performance.now()
  await work()
  return performance.now() - began
}

/** Lines from a PostgreSQL server into level records, and every report of the demo there against the embedded engine. */
export async function servers(): Promise<void> {
  await withCompany(Math.min(scale, 40), readLines)
  await withCompany(1, demoReports)
}

/** The company of a size in an embedded engine and on a server that is a source beside it. */
async function withCompany(size: number, work: (estante: Estante, id: string, url: string) => Promise<void>): Promise<void> {
  const folder = await company(size)
  const server = startServer()
  const estante = await openEstante({ folder })
  try {
    await loadCompany(server, 'company', size)
    const url = server.as('reader', 'secret')
    const { id } = await estante.addServer(tester, `Bench ${Date.now()}`, { url, schemas: ['company'], day: '2026-10-31' })
    try {
      await work(estante, id, url)
    } finally {
      await estante.putSourceAway(tester, id)
    }
  } finally {
    await estante.close()
    removeServer(server)
  }
}

type Estante = Awaited<ReturnType<typeof openEstante>>

async function readLines(estante: Estante, id: string, url: string): Promise<void> {
  const source = estante.sources.get(id)
  const { catalog } = await estante.sources.catalog(ownContext, id)
  const definition = linesOfInvoices()
  definition.dataSets[0]!.source = id
  const ours: number[] = []
  let rows = 0
  for (let round = 0; round < 3; round++) {
    const { port1, port2: asks } = new MessageChannel()
    const snapshot = await source.snapshot({ ...tester, task: `read ${round}` })
    serveSnapshot(port1 as never, snapshot)
    const thread = new Worker(join(root, '.build/bench/read.thread.mjs'), {
      workerData: { definition, catalog, schema: source.schema, today: clock, ports: { asks } },
      transferList: [asks as never],
    })
    const found = await new Promise<{ rows: number; ms: number }>((resolve, reject) =>
      thread.once('message', resolve).once('error', reject),
    )
    await thread.terminate()
    port1.close()
    snapshot.close()
    rows = found.rows
    ours.push(found.ms)
  }
  // the same statement by the driver alone, all lines at once
  const report = assembleReport(definition, catalog)
  const plan = planDataSet({
    levels: report.tree.levels,
    catalog,
    schema: 'company',
    used: report.tree.levels.map(level => new Set(tickedFields(level.definition))),
    parameterTypes: {},
    parameters: {},
    today: clock,
  })
  const statement = plan.records(1, [[0]])
  const text = statement.text.replace(/ where .*$/, '').replaceAll('"unicode"', '"und-x-icu"')
  const client = new pg.Client(url)
  await client.connect()
  const [arrays, objects]: [number[], number[]] = [[], []]
  for (let round = 0; round < 3; round++) {
    objects.push(await timed(() => client.query(text)))
    arrays.push(
      await timed(async () => {
        const plain = { getTypeParser: () => (value: string) => value }
        const { rows: found } = await client.query<(string | null)[]>({ text, rowMode: 'array', types: plain as never })
        if (found.length !== rows) throw new Error(`${rows} rows were read, ${found.length} were there`)
        // columns of values, as a run has them
        statement.columns.map(({ type }, at) => found.map(each => (type === 'number' && each[at] !== null ? Number(each[at]) : each[at])))
      }),
    )
  }
  await client.end()
  const [fastest, usual] = [median(ours) / median(arrays), median(objects) / median(ours)]
  note(
    `${rows.toLocaleString('en')} × 15 from a PostgreSQL server into level records`,
    `${fastest.toFixed(2)} × arrays of texts by pg (${ms(median(ours))}), ${usual.toFixed(2)} × the speed of client.query`,
    '≤ 1.3 ×, ≥ 3 ×',
    fastest <= 1.3 && usual >= 3,
  )
}

/** A definition that reads another source than the demo. */
const pointed = (definition: ReportDefinition, source: string): ReportDefinition =>
  JSON.parse(JSON.stringify(definition).replaceAll(`"source":"${sourceId}"`, `"source":"${source}"`)) as ReportDefinition

async function demoReports(estante: Estante, id: string): Promise<void> {
  const ratios: { name: string; ratio: number }[] = []
  for (const { reports } of await estante.store.library(tester))
    for (const { id: report, name } of reports) {
      const { definition } = await estante.store.report(tester, report)
      if (definition.dataSets.some(set => set.source && set.source !== sourceId)) continue
      const file = join(root, '.build', 'bench-out.json')
      const run = async (each: ReportDefinition) => {
        const input = await estante.input(tester, name, each, {})
        return timed(() => estante.pool.run(tester, input, { format: 'json', file }))
      }
      try {
        const [here, there]: [number[], number[]] = [[], []]
        for (let round = 0; round < 3; round++) {
          here.push(await run(definition))
          there.push(await run(pointed(definition, id)))
        }
        ratios.push({ name, ratio: Math.min(...there) / Math.min(...here) })
      } catch (error) {
        console.log(`  ${name}: ${(error as Error).message}`)
      }
    }
  const sorted = [...ratios].sort((a, b) => b.ratio - a.ratio)
  console.log(`  slowest there: ${sorted.slice(0, 4).map(each => `${each.name} ${each.ratio.toFixed(2)}`)}`)
  const ratio = median(ratios.map(each => each.ratio))
  note(
    `${ratios.length} reports of the demo on a PostgreSQL server, median`,
    `${ratio.toFixed(2)} × the embedded engine`,
    '≤ 1.0 ×',
    ratio <= 1,
  )
}

/** A copy of a MariaDB against the bare stream into COPY, and a refresh by what changed against the whole. */
export async function copies(): Promise<void> {
  const rows = scale >= 40 ? 1_000_000 : 100_000
  const folder = join(root, '.build', 'bench-copies')
  rmSync(folder, { recursive: true, force: true })
  process.env.ESTANTE_DEMO = 'off'
  const mariadb = await startMariadb()
  const estante = await openEstante({ folder })
  try {
    mariadb.sql(`create database shop; create user reader; grant select on shop.* to reader; use shop;
      create table orders (id bigint primary key, customer int, day date, booked datetime, town varchar(30), description varchar(60),
        quantity decimal(9,3), amount decimal(12,2), discount decimal(4,1), paid tinyint, code varchar(8),
        changed timestamp not null default current_timestamp);
      insert into orders select seq, seq * 7919 % 50000, '2024-01-01' + interval (seq % 900) day,
        '2024-01-01' + interval seq minute, elt(1 + seq % 3, 'Setúbal', 'Aveiro', 'Brest'), concat('Braided rope, ', seq % 24, ' mm, navy'),
        seq * 250 % 900000 / 1000, seq * 37 % 9999999 / 100, seq % 400 / 10 - 5, seq % 2, concat('C', seq % 997),
        '2024-01-01' + interval seq minute
        from seq_1_to_${rows};`)
    const url = mariadb.as('reader')
    // once, so that a kept empty engine is there as it is after the first source
    const { id: first } = await estante.copies
      .add(tester, 'first', { url: url.replace('/shop?', '/information_schema?'), tables: ['ENGINES'] })
      .catch(() => ({ id: '' }))
    if (first) await estante.putSourceAway(tester, first)
    const bare = await timed(() => bareCopy(url, join(folder, 'bare')))
    let id = ''
    const whole = await timed(async () => ({ id } = await estante.copies.add(tester, 'Shop', { url, grows: { orders: 'changed' } })))
    note(
      `a copy of ${rows.toLocaleString('en')} rows from MariaDB`,
      `${(whole / bare).toFixed(2)} × the bare stream into COPY (${ms(whole)} against ${ms(bare)})`,
      '≤ 1.5 ×',
      whole / bare <= 1.5,
    )
    const refreshes: number[] = []
    for (let round = 1; round <= 3; round++) {
      mariadb.sql(`use shop; update orders set amount = amount + 1, changed = now() where id % 50 = ${round};
        delete from orders where id % 1000 = ${round + 5};`)
      refreshes.push(await timed(() => estante.copies.refresh(tester, id)))
    }
    const ratio = median(refreshes) / whole
    note(
      'a refresh of it with 2 % changed and 0.1 % deleted',
      `${ratio.toFixed(2)} × the whole copy (${ms(median(refreshes))})`,
      '≤ 0.25 ×',
      ratio <= 0.25,
    )
  } finally {
    await estante.close()
    await mariadb.stop()
    delete process.env.ESTANTE_DEMO
  }
}

/** All rows of the table into an embedded engine, with nothing beside: no catalog, no checks, no key. */
async function bareCopy(url: string, folder: string): Promise<void> {
  const db = await PGlite.create(folder)
  await db.exec(`create table orders (id bigint, customer integer, day date, booked timestamp, town text, description text,
    quantity numeric(9,3), amount numeric(12,2), discount numeric(4,1), paid integer, code text, changed timestamp)`)
  const socket = new URL(url).searchParams.get('socket')!
  const connection = createConnection({ socketPath: socket, user: 'reader', database: 'shop', typeCast: false })
  const stream = connection.query({ sql: 'select * from orders', rowsAsArray: true }).stream({ highWaterMark: 2000 })
  let piece: string[] = []
  let letters = 0
  const hand = async () => {
    await db.query(`copy orders from '/dev/blob'`, [], { blob: new Blob([piece.join('')]) })
    ;[piece, letters] = [[], 0]
  }
  for await (const row of stream as AsyncIterable<(Buffer | null)[]>) {
    const text = copyRow(row.map(cell => (cell === null ? null : cell.toString('utf8'))))
    piece.push(text)
    letters += text.length
    if (letters > 8_000_000) await hand()
  }
  await hand()
  connection.destroy()
  await db.close()
  if (existsSync(folder)) rmSync(folder, { recursive: true, force: true })
}
