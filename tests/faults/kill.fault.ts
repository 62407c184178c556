import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { child, demoFolder, dice, end, filesIn, scratch, startServer, wait } from './support'

/**
 * Processes that are killed while they save and post, on an embedded store, a store on a server, and the desk, and the whole program
 * while it runs reports or loads: nothing acknowledged is
 * lost.
 */
const kills = Number(process.argv[2] ?? 120)
const folder = scratch()
const roll = dice(Number(process.env.FAULTS_SEED ?? 11))
let [writes, lost, torn, closed] = [0, 0, 0, 0]

/** A PostgreSQL server of Debian's, for the store; nothing where there is none. */
function server(): { url: string; stop: () => void } | undefined {
  const base = '/usr/lib/postgresql'
  const version = existsSync(base) ? readdirSync(base).sort().at(-1) : undefined
  if (!version || process.getuid?.() !== 0) return undefined
  const bin = join(base, version, 'bin')
  const data = join(folder, 'pg')
  mkdirSync(data)
  execFileSync('chown', ['-R', 'postgres', folder])
  const as = (command: string) => spawnSync('su', ['postgres', '-s', '/bin/sh', '-c', command])
  as(`${bin}/initdb -D ${data} -A trust -U estante`)
  as(`${bin}/pg_ctl -D ${data} -o "-p 54329 -k ${data}" -w -l ${data}/log start`)
  return { url: 'postgresql://estante@127.0.0.1:54329/postgres', stop: () => void as(`${bin}/pg_ctl -D ${data} -m fast -w stop`) }
}
const postgres = server()
/** kills of the whole program */
const runKills = 12
const kinds = ['store', 'desk', ...(postgres ? ['server'] : [])]
for (const what of kinds) {
  const data = join(folder, what)
  if (what === 'desk') await demoFolder(data)
  else mkdirSync(data, { recursive: true })
  const env: Record<string, string> = what === 'server' ? { FAULTS_URL: postgres!.url } : {}
  const name = what === 'desk' ? 'desk' : 'store'
  const acknowledged = new Set<string>()
  for (let kill = 0; kill < kills / kinds.length; kill++) {
    const { process: own, lines, ended } = child('writer', [`write-${name}`, data, String(kill * 100_000)], env)
    const early = roll() < 0.2
    const until = Date.now() + (early ? roll() * 3000 : 60_000)
    while (Date.now() < until && (early || lines.length < 2)) await wait(5)
    if (!early) await wait(roll() * 600)
    own.kill('SIGKILL')
    await ended
    const told = lines.filter(line => line !== 'open')
    writes += told.length
    told.forEach(line => acknowledged.add(line))
  }
  const check = child('writer', [`check-${name}`, data, '0'], env)
  if ((await check.ended) !== 0) {
    closed++
    console.error(`The ${what} does not open again. ${check.errors().slice(0, 500)}`)
  }
  const there = new Set(check.lines)
  lost += [...acknowledged].filter(each => !there.has(each)).length
  torn += check.lines.filter(line => line.startsWith('torn')).length
}
postgres?.stop()
// the whole program, in the middle of runs or while it loads: the next start opens, and finds nothing left of them
const whole = join(folder, 'whole')
await demoFolder(whole)
let left = 0
for (let kill = 0; kill <= runKills; kill++) {
  const running = await startServer(whole).catch(() => undefined)
  if (!running) {
    closed++
    continue
  }
  left += filesIn(join(whole, 'runs')).length
  if (kill === runKills) {
    await running.stop()
    break
  }
  const body = { report: 'Sales invoice', answers: { month: '2026-09' } }
  if (roll() < 0.8) void running.ask('/api/runs', { method: 'POST', body }).catch(() => {})
  await wait(roll() * 1500)
  const ended = new Promise(resolve => running.process.once('exit', resolve))
  running.process.kill('SIGKILL')
  await ended
}
end(
  'kill',
  !lost && !torn && !closed && !left && writes > 0,
  `${kills} kills (${kinds.join(', ')}${postgres ? '' : '; no PostgreSQL server here'}), ${writes} writes acknowledged, ${lost} lost, ` +
    `${torn} torn; ${runKills} kills of the program in runs, ${left} files left; ${closed} that did not open again`,
)
