import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { setText } from '../../core/definition/edits/edits'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoFolder, dice, end, filesIn, openFiles, scratch, startServer, wait } from './support'

/** Mixed work of four people for a while: what they wait for, what stays open and in memory, at the start and at the end. */
const minutes = Number(process.argv[2] ?? 20)
const folder = join(scratch(), 'data')
await demoFolder(folder)
const server = await startServer(folder)
const roll = dice(Number(process.env.FAULTS_SEED ?? 13))
const begun = Date.now()
const until = begun + minutes * 60_000
const errors: string[] = []
const latencies: { at: number; ms: number }[] = []
const library = (await (await server.ask('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
const id = library.flatMap(shelf => shelf.reports).find(each => each.name === 'Sales invoice')!.id
let turn = 0
const month = { month: '2026-09' }
async function timed(work: () => Promise<Response>): Promise<void> {
  const start = performance.now()
  try {
    const answer = await work()
    await answer.arrayBuffer()
    if (answer.status >= 500) errors.push(`${answer.status} ${answer.url}`)
  } catch (error) {
    errors.push((error as Error).message)
  }
  latencies.push({ at: Date.now(), ms: performance.now() - start })
}
const work: (() => Promise<void>)[] = [
  () => timed(() => server.ask(`/api/reports/${id}`)),
  () => timed(() => server.ask('/api/rows', { method: 'POST', body: { definition: salesInvoice(), answers: {}, limit: 100 } })),
  () => timed(() => server.ask('/api/choices', { method: 'POST', body: { report: id, answers: {}, parameter: 'customer', search: 'a' } })),
  () =>
    timed(() =>
      server.ask('/api/order', { method: 'POST', body: { report: id, answers: month, output: { format: 'csv', level: 'lines' } } }),
    ),
  async () => {
    const definition = setText(salesInvoice(), { block: 'pageTop', cell: 'pageNumber', part: 'item' }, `Turn ${++turn}`)
    const { version } = (await (await server.ask(`/api/reports/${id}`)).json()) as { version: number }
    await timed(() => server.ask(`/api/reports/${id}`, { method: 'PUT', body: { basedOn: version, definition } }))
  },
  async () => {
    const { id: run } = (await (await server.ask('/api/runs', { method: 'POST', body: { report: id, answers: month } })).json()) as {
      id: string
    }
    for (let state = 'running'; state === 'running';) {
      const news = await server.ask(`/api/runs/${run}?wait=1&pages=99999`)
      if (!news.ok) return void errors.push(`${news.status} of a run`)
      state = ((await news.json()) as { state: string }).state
    }
    await timed(() => server.ask(`/api/runs/${run}/file?format=${roll() < 0.5 ? 'pdf' : 'xlsx'}`))
  },
  async () => {
    const stop = new AbortController()
    setTimeout(() => stop.abort(), roll() * 300)
    const body = { report: id, answers: month, output: { format: 'pdf' } }
    await server
      .ask('/api/order', { method: 'POST', body, signal: stop.signal })
      .then(answer => answer.arrayBuffer())
      .catch(() => {})
  },
  () =>
    timed(() =>
      server.ask('/api/sources/caisvelho/desk/documents', {
        method: 'POST',
        body: {
          kind: 'entry',
          entry: {
            date: '2026-10-15',
            description: 'Soak',
            lines: [
              { account: '6150', branch: 'NQ', debit: '1.00' },
              { account: '1010', branch: 'NQ', credit: '1.00' },
            ],
          },
        },
      }),
    ),
]
const memory = () => Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.process.pid}/status`, 'utf8'))![1]) / 1024)
const samples: { at: number; memory: number; open: number; files: number }[] = []
const watch = setInterval(() => {
  if (server.process.exitCode === null)
    samples.push({ at: Date.now(), memory: memory(), open: openFiles(server.process.pid!), files: filesIn(join(folder, 'runs')).length })
}, 2000)
/** The longest time for which nobody was answered: the server looks after a beat that asks next to nothing. */
let stall = 0
const beat = (async () => {
  while (Date.now() < until && server.process.exitCode === null) {
    const start = performance.now()
    await server
      .ask('/api/sources')
      .then(answer => answer.arrayBuffer())
      .catch(() => {})
    stall = Math.max(stall, performance.now() - start)
    await wait(250)
  }
})()
await Promise.all(
  Array.from({ length: 4 }, async () => {
    while (Date.now() < until && server.process.exitCode === null) await work[Math.floor(roll() * work.length)]!()
  }),
)
await beat
clearInterval(watch)
const alive = server.process.exitCode === null
await server.stop()
const part = <T extends { at: number }>(list: readonly T[], which: 0 | 1): T[] => {
  const span = (until - begun) / 4
  // the first quarter warms up
  const from = which ? until - span : begun + span
  return list.filter(each => each.at >= from && each.at < from + span)
}
const middle = (list: number[], share = 0.5) => [...list].sort((a, b) => a - b)[Math.floor(list.length * share)] ?? 0
const told = ([0, 1] as const).map(which => ({
  median: Math.round(middle(part(latencies, which).map(each => each.ms))),
  slow: Math.round(
    middle(
      part(latencies, which).map(each => each.ms),
      0.95,
    ),
  ),
  memory: Math.round(middle(part(samples, which).map(each => each.memory))),
  open: Math.round(middle(part(samples, which).map(each => each.open))),
}))
const [first, last] = told as [(typeof told)[0], (typeof told)[0]]
const ok = alive && !errors.length && stall < 3000 && last.memory < first.memory * 1.25 + 100 && last.open < first.open + 15
if (!ok) console.error([...new Set(errors)].slice(0, 10))
end(
  'soak',
  ok,
  `${minutes} minutes, ${latencies.length} requests, ${errors.length} errors, longest stall ${Math.round(stall)} ms; at the start and ` +
    `at the end: median ${first.median} → ${last.median} ms, 95 in 100 within ${first.slow} → ${last.slow} ms, memory ` +
    `${first.memory} → ${last.memory} MB, open files ${first.open} → ${last.open}`,
)
