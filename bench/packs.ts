import { spawn, type ChildProcess } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { newPack, type PackDefinition } from '../core/pack/definition'
import { spokenStatement } from '../demo/reports/spoken'
import { openEstante, type Estante } from '../server/estante'
import type { Fetch } from '../core/read/read'
import { joinRows, type PackedRows } from '../core/value/packed'
import { KeptRows } from '../server/runs/keptRows'
import { RunMeter } from '../server/runs/meter'
import { withFiles } from '../server/runs/outFile'
import { readyRun } from '../server/runs/ready'
import { keptFetch } from '../server/runs/remote'
import { keptOf } from '../server/runs/runRecord'
import { rowsTo } from '../server/runs/write'
import type { PackRunRow } from '../server/store/packRunRows'
import { removeServer, startServer } from '../tests/servers'
import { company, median, ms, note, root, scale } from './harness'
import { level as levelOf, report } from './definitions'
import { askCompany, tester } from './support'

/** What packs cost beside their reports, letters beside their pages, a queue that waits, and two programs on one store. */
export async function packs(): Promise<void> {
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  try {
    // first, since files are written in a thread whose memory holds nothing else
    await laterFile(estante)
    await monthEnd(estante)
    await statements(estante)
  } finally {
    await estante.close()
  }
  await idle()
  await together()
}

async function ended(estante: Estante, id: string): Promise<PackRunRow> {
  for (;;) {
    const run = (await estante.store.packRuns.find(id))!
    if (!['waiting', 'running', 'sending'].includes(run.state)) {
      if (run.state !== 'done') throw new Error(`The pack is ${run.state}: ${JSON.stringify(run.sentences)}`)
      return run
    }
    await Promise.race([estante.packs.news, wait(500)])
  }
}

/** A pack in the store under a name of the benchmark's; an earlier one of the name goes. */
async function kept(estante: Estante, name: string, definition: PackDefinition) {
  const { packs: rows } = estante.store
  for (const each of await rows.list(tester)) if (each.name === name) await rows.remove(tester, each.id)
  return rows.find(tester, await rows.add(tester, name, definition))
}

const monthEndReports = [
  ...['Income statement', 'Balance sheet', 'Trial balance', 'Budget variance', 'Income statement trend', 'Comparison of branches'],
  ...['Customer ageing', 'Supplier ageing', 'Payments due', 'Open order lines', 'Goods received, not billed', 'Spend by supplier'],
]

async function monthEnd(estante: Estante): Promise<void> {
  const reports = await Promise.all(monthEndReports.map(name => estante.store.report(tester, name, 'published')))
  const pack = await kept(estante, 'Bench: month end', {
    ...newPack(),
    reports: reports.map(({ id, name }, at) => ({ id: `r${at}`, report: id, name, answers: {} })),
  })
  const alone = async () => {
    const began = performance.now()
    for (const { id, name, version, definition } of reports) {
      const input = await estante.checkedInput(tester, name, definition, {}, { version: `${id} ${version}` })
      const run = estante.runs.start(tester, input, id)
      await run.over
      if (run.state !== 'done') throw new Error(`${name}: ${run.sentences?.join(' ')}`)
      const file = estante.runs.passingFile()
      await estante.pool.pdf(tester, name, { pages: run.file, places: run.places }, file)
      rmSync(file)
    }
    return performance.now() - began
  }
  const whole = async () => {
    const began = performance.now()
    await ended(estante, (await estante.packs.start(tester, pack, { answers: {}, dry: true }))!)
    return performance.now() - began
  }
  await whole()
  const times = { alone: [] as number[], whole: [] as number[] }
  for (let round = 0; round < 3; round++) {
    times.alone.push(await alone())
    times.whole.push(await whole())
  }
  const ratio = median(times.whole) / median(times.alone)
  note(
    'a month-end pack of 12 reports against the sum of them run alone',
    `${ratio.toFixed(2)} × (${ms(median(times.whole))}, ${ms(median(times.alone))})`,
    '≤ 1.1 ×',
    ratio <= 1.1,
  )
}

/** A file of rows that a run has kept, against the same from the source without the time of its reading. */
async function laterFile(estante: Estante): Promise<void> {
  const most = 400_000
  const last = await askCompany(estante, {
    text: 'select max(invoice_id)::text from (select invoice_id from company.invoice_lines order by invoice_id limit $1) as own',
    values: [most],
    columns: [{ path: 'id', type: 'text' }],
  })
  const allLines = levelOf('line', 'invoice_lines', {
    fields: ['invoice_id', 'line_no', 'description', 'quantity', 'amount'],
    filters: [`invoice_id <= ${String((last.columns[0] as { values: string[] }).values[0])}`],
  })
  const input = await estante.input(tester, 'Lines', report(allLines), {})
  const run = estante.runs.start(tester, input, 'lines')
  await run.over
  if (run.state !== 'done') throw new Error(run.sentences?.join(' '))
  const level = 'line'
  const ready = readyRun({ ...input, keeps: true })
  const times = { later: [] as number[], held: [] as number[] }
  let lines = 0
  const written = async (fetch: Fetch): Promise<number> => {
    const file = estante.runs.passingFile()
    const meter = new RunMeter()
    const began = performance.now()
    const options = { format: 'csv', level, separator: ',', decimal: '.', file } as never
    await withFiles(() => rowsTo(ready, options, meter, fetch, async work => void (await work())))
    const took = performance.now() - began
    lines = meter.rows[level]!
    rmSync(file)
    return took
  }
  // what was read is in memory as a source gives it: what is left is to take it apart, to shape and to write
  const held = new Map<string, PackedRows[]>()
  for (let round = 0; round < 6; round++) {
    const rows = await KeptRows.open(keptOf(run))
    const later = await written(keptFetch(undefined, rows))
    const fromMemory: Fetch = async (query, source) => {
      const key = JSON.stringify([query.text, query.values])
      if (!held.has(key)) held.set(key, (await rows.find(query, source))!)
      return joinRows(held.get(key)!)
    }
    if (!held.size) await written(fromMemory)
    const without = await written(fromMemory)
    await rows.close()
    if (round) times.later.push(later)
    if (round) times.held.push(without)
  }
  const ratio = median(times.later) / median(times.held)
  note(
    `a file of ${lines.toLocaleString('en')} kept lines, made later, against the time without reading`,
    `${ratio.toFixed(2)} × (${ms(median(times.later))}, ${ms(median(times.held))})`,
    '≤ 1.05 ×',
    ratio <= 1.05,
  )
}

/** Statements of account, each to an address of its own, until the outbox has taken the last, against composing and writing them alone. */
async function statements(estante: Estante): Promise<void> {
  const library = (await estante.store.library(tester)).flatMap(shelf => shelf.reports)
  const before = library.find(each => each.name === 'Bench: statements')
  if (before) await estante.store.remove(tester, before.id)
  // so many of the customers that there are some five thousand statements
  const all = spokenStatement()
  const [set, ...others] = all.dataSets
  const some = { ...set!, root: { ...set!.root, filters: [...set!.root.filters, 'id <= 40000'] } }
  const id = await estante.store.create(tester, 'Bench', 'Bench: statements', { ...all, dataSets: [some, ...others] }, true)
  const { name, version, definition: own } = await estante.store.report(tester, id, 'published')
  const layout = own.layouts[1]!.name
  const ends = ['2026-10-31']
  const pack = await kept(estante, 'Bench: statements', {
    ...newPack(),
    reports: ends.map((asOf, at) => ({
      id: `r${at}`,
      report: id,
      name: 'Statement',
      layout,
      answers: { asOf: { is: 'text', text: asOf } },
    })),
    out: { name: '', pdf: false, cover: false, numbered: false, zip: false },
    hold: 'never',
    to: ends.map((_, at) => ({
      is: 'records',
      id: `to${at}`,
      report: `r${at}`,
      address: '"accounts@harbour.example"',
      name: 'Statement {{ code }}',
      subject: 'Statement {{ code }}',
      body: 'To {{ name }}: {{ sum(open.open) | #,##0.00 }} are open.',
      inLanguages: [],
    })),
  })
  let began = performance.now()
  let bytes = 0
  for (const asOf of ends) {
    const input = await estante.checkedInput(tester, name, own, { asOf }, { version: `${id} ${version}`, layout })
    const run = estante.runs.start(tester, input, id)
    await run.over
    if (run.state !== 'done') throw new Error(run.sentences?.join(' '))
    const file = estante.runs.passingFile()
    await estante.pool.documents(tester, name, { pages: run.file, places: run.places }, file)
    bytes += statSync(file).size
    rmSync(file)
  }
  const alone = performance.now() - began
  const memory: number[] = []
  began = performance.now()
  const packRun = (await estante.packs.start(tester, pack, { answers: {} }))!
  const watch = setInterval(() => {
    if (estante.packs.progressOf(packRun)?.doing === 'sending') memory.push(process.memoryUsage().rss)
  }, 500)
  await ended(estante, packRun)
  clearInterval(watch)
  const whole = performance.now() - began
  const counts = await estante.store.deliveries.counts(packRun)
  const sent = counts.find(each => each.state === 'sent')?.count ?? 0
  if (counts.some(each => each.state !== 'sent')) throw new Error(`Not all went out: ${JSON.stringify(counts)}`)
  note(
    `${sent.toLocaleString('en')} statements split, attached and taken by the outbox, against composing and writing them alone`,
    `${(whole / alone).toFixed(2)} × (${ms(whole)}, ${ms(alone)}; ${Math.round(bytes / 1e6)} MB)`,
    '≤ 2 ×',
    whole / alone <= 2,
  )
  const early = median(memory.slice(0, Math.ceil(memory.length / 5)))
  const late = median(memory.slice(-Math.ceil(memory.length / 5)))
  const grown = Math.round((late - early) / 1e6)
  note(
    'memory while the last fifth of the letters goes out, beyond that of the first',
    `${grown} MB of ${Math.round(late / 1e6)}`,
    '≤ 100 MB',
    grown <= 100,
  )
}

interface Running {
  process: ChildProcess
  port: number
}

/** A server of the built program; `cpu` is the core that it may use. */
async function server(port: number, env: Record<string, string>, cpu?: number): Promise<Running> {
  const command = [process.execPath, join(root, '.output/server/index.mjs')]
  const [program, ...args] = cpu === undefined ? command : ['taskset', '-c', String(cpu), ...command]
  const own = spawn(program!, args, {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      ESTANTE_ROOT: root,
      ESTANTE_PEOPLE: 'none',
      NITRO_HOST: '127.0.0.1',
      NITRO_PORT: String(port),
      PORT: String(port),
      ...env,
    },
  })
  await new Promise<void>((resolve, reject) => {
    own.on('exit', code => reject(new Error(`The server ended with ${code}.`)))
    own.stdout.on('data', data => String(data).includes('ready') && resolve())
  })
  return { process: own, port }
}
async function stop({ process: own }: Running): Promise<void> {
  own.removeAllListeners('exit')
  own.kill('SIGTERM')
  await new Promise(resolve => own.on('exit', resolve))
}

/** Seconds of a core that a process has used (proc(5), 14th and 15th fields, in hundredths). */
function used(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ')
  return (Number(fields[11]) + Number(fields[12])) / 100
}

async function idle(): Promise<void> {
  const running = await server(4801, { ESTANTE_DATA: await company(1) })
  // what a start leaves to be done is done
  await wait(60_000)
  const seconds = 30
  const parts: number[] = []
  for (let round = 0; round < 3; round++) {
    const before = used(running.process.pid!)
    await wait(seconds * 1000)
    parts.push((used(running.process.pid!) - before) / seconds)
  }
  const part = median(parts)
  await stop(running)
  note('a server whose queue and schedules have nothing to do', `${(part * 100).toFixed(2)} % of a core`, '≤ 0.5 %', part <= 0.005)
}

/** How long some runs take that are asked of one program, when that is alone on the store, and when there is another. */
async function together(): Promise<void> {
  const runs = 40
  const database = startServer({})
  const folder = mkdtempSync(join(tmpdir(), 'estante-two-'))
  try {
    const measure = async (count: number, round: number): Promise<number> => {
      const name = `store_${count}_${round}`
      database.sql(`create database ${name}`)
      const shared = { DATABASE_URL: database.as('estante', '', name), ESTANTE_RUNS: join(folder, name) }
      mkdirSync(shared.ESTANTE_RUNS, { recursive: true })
      const all: Running[] = []
      for (let at = 0; at < count; at++) all.push(await server(4802 + at, { ...shared, ESTANTE_DATA: join(folder, `data-${at}`) }, at))
      const address = (at: number) => `http://127.0.0.1:${all[at % count]!.port}`
      const library = (await (await fetch(`${address(0)}/api/library`)).json()) as { reports: { id: string; name: string }[] }[]
      const { id } = library.flatMap(shelf => shelf.reports).find(each => each.name === 'Statement of account')!
      // whoever stands before programs gives each its share of what people ask
      const ask = (at: number) =>
        fetch(`${address(at)}/api/runs`, {
          method: 'POST',
          headers: {
            'content-type': 'application/json',
            origin: address(at),
            cookie: `estante-visitor=bench-person-${at % 4}-of-many-0000`,
          },
          body: JSON.stringify({ report: id, answers: {} }),
        }).then(async answer => {
          if (!answer.ok) throw new Error(await answer.text())
        })
      // each has drawn its first breath
      for (let at = 0; at < 2; at++) await ask(at)
      await wait(15_000)
      const began = performance.now()
      await Promise.all(Array.from({ length: runs }, (_, at) => ask(at)))
      const open = () =>
        Number(database.sql(`\\c ${name}\nselect count(*) from runs where state not in ('done', 'failed', 'cancelled')`).trim())
      // asking is work as well
      while (open()) await wait(1000)
      const took = performance.now() - began
      for (const each of all) await stop(each)
      return took
    }
    // cores of a machine that others share are now fast, now slow: each pair is measured side by side
    const times: { one: number; two: number }[] = []
    for (let round = 0; round < 3; round++) times.push({ one: await measure(1, round), two: await measure(2, round) })
    const ratio = median(times.map(each => each.one / each.two))
    const [one, two] = [median(times.map(each => each.one)), median(times.map(each => each.two))]
    note(
      `${runs} runs by two programs on one store against one, each on a core of its own`,
      `${ratio.toFixed(2)} × the throughput (${ms(one)}, ${ms(two)})`,
      '≥ 1.7 ×',
      ratio >= 1.7,
    )
  } finally {
    removeServer(database)
    rmSync(folder, { recursive: true, force: true })
  }
}
