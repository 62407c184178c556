import { readdirSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoFolder, dice, end, filesIn, openFiles, scratch, startServer, wait } from './support'

/** Readers who go away: requests of every kind, broken off at random moments. The server stays, and nothing of theirs is left. */
const wanted = Number(process.argv[2] ?? 2000)
const folder = join(scratch(), 'data')
await demoFolder(folder)
const roll = dice(Number(process.env.FAULTS_SEED ?? 7))
const server = await startServer(folder)
const temporary = () => readdirSync(tmpdir()).filter(name => name.startsWith('estante-') && !name.startsWith('estante-faults-')).length
const definition = salesInvoice()
const runs = async () => (await (await server.ask('/api/runs')).json()) as { id: string; state: string }[]
const id = ((await (await server.ask('/api/library')).json()) as { reports: { id: string; name: string }[] }[])
  .flatMap(shelf => shelf.reports)
  .find(each => each.name === 'Sales invoice')!.id
const order = (format: string, more: object = {}) => ({
  method: 'POST',
  body: { report: 'Sales invoice', answers: { month: '2026-09' }, output: { format, ...more } },
})
const kinds: (() => Promise<{ path: string; method?: string; body?: unknown }>)[] = [
  async () => ({ path: '/api/order', ...order('pdf') }),
  async () => ({ path: '/api/order', ...order('xlsx') }),
  async () => ({ path: '/api/order', ...order('csv', { level: 'lines' }) }),
  async () => ({ path: '/api/order', ...order('json') }),
  async () => ({ path: '/api/rows', method: 'POST', body: { definition, answers: {}, limit: 200 } }),
  async () => ({ path: '/api/tieouts', method: 'POST', body: { definition, answers: {} } }),
  async () => ({ path: '/api/runs', method: 'POST', body: { report: 'Sales invoice', answers: { month: '2026-09' } } }),
  async () => ({ path: `/api/reports/${id}/first-page` }),
  async () => {
    const all = await runs()
    const one = all[Math.floor(roll() * all.length)]
    const what = ['/file?format=pdf', '/file?format=xlsx', '/file?format=zip', '/pages?from=0&to=20', '?wait=1&pages=999'][
      Math.floor(roll() * 5)
    ]
    return { path: one ? `/api/runs/${one.id}${what}` : '/api/library' }
  },
  async () => {
    const all = await runs()
    const one = all[Math.floor(roll() * all.length)]
    return one ? { path: `/api/runs/${one.id}`, method: 'DELETE' } : { path: '/api/library' }
  },
]
// once through all of it before things are counted
for (const kind of kinds) {
  const { path, ...asked } = await kind()
  await (await server.ask(path, asked)).arrayBuffer()
}
await wait(2000)
const before = { open: openFiles(server.process.pid!), temporary: temporary() }
let [cut, answered, refused] = [0, 0, 0]
async function client(): Promise<void> {
  while (cut < wanted && server.process.exitCode === null) {
    const { path, ...asked } = await kinds[Math.floor(roll() * kinds.length)]!()
    const stop = new AbortController()
    const timer = setTimeout(() => stop.abort(), roll() < 0.9 ? roll() ** 2 * 700 : 20_000)
    try {
      const answer = await server.ask(path, { ...asked, signal: stop.signal })
      await answer.arrayBuffer()
      if (answer.status >= 500) refused++
      else answered++
    } catch (error) {
      if (stop.signal.aborted) cut++
      else if (server.process.exitCode === null) refused++
      void error
    } finally {
      clearTimeout(timer)
    }
  }
}
await Promise.all(Array.from({ length: 6 }, client)).catch(() => {})
const alive = server.process.exitCode === null && server.process.signalCode === null
let left: string[] = []
let now = before
if (alive) {
  for (const run of await runs()) await server.ask(`/api/runs/${run.id}`, { method: 'DELETE' })
  await wait(15_000)
  const known = new Set((await runs()).map(run => run.id))
  left = filesIn(join(folder, 'runs')).filter(name => !known.has(name.slice(0, 36)))
  now = { open: openFiles(server.process.pid!), temporary: temporary() }
}
const memory = alive ? Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.process.pid}/status`, 'utf8'))![1]) / 1024) : 0
const warned = /MaxListeners/.test(server.errors())
await server.stop()
const ok = alive && !left.length && !refused && !warned && now.open <= before.open + 12 && now.temporary <= before.temporary
if (!ok) console.error(server.errors().slice(-3000), left.slice(0, 5))
end(
  'cut',
  ok,
  `${cut} requests broken off, ${answered} answered, ${refused} answered with a fault; the server ${alive ? 'lives' : 'DIED'}, ` +
    `${left.length} files left, open files ${before.open} → ${now.open}, temporary folders ${before.temporary} → ${now.temporary}, ` +
    `${memory} MB` +
    `${warned ? ', warned of listeners' : ''}`,
)
