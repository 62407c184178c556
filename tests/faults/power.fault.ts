import { mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Disk } from './disk'
import { child, demoFolder, dice, end, scratch, wait } from './support'

/** Cuts of the power while a store and a desk are written to: what was acknowledged before is there after, and both open again. */
const cuts = Number(process.argv[2] ?? 40)
const folder = scratch()
const roll = dice(Number(process.env.FAULTS_SEED ?? 20261128))
const recorder = join(process.cwd(), 'tests', 'faults', 'recorder.cjs')
let [writes, lost, torn, closed, atStart] = [0, 0, 0, 0, 0]

for (const what of ['store', 'desk'] as const) {
  const data = join(folder, what)
  if (what === 'desk') await demoFolder(data)
  else mkdirSync(data, { recursive: true })
  const acknowledged = new Set<string>()
  for (let cut = 0; cut < cuts / 2; cut++) {
    const disk = Disk.of(data)
    const logs = join(folder, 'logs')
    rmSync(logs, { recursive: true, force: true })
    mkdirSync(logs)
    const begin = String(cut * 100_000)
    const {
      process: own,
      lines,
      ended,
    } = child(`writer`, [`write-${what}`, data, begin], { FAULTS_ROOT: data, FAULTS_LOG: logs }, ['--require', recorder])
    // now and then in the middle of a start, mostly while it writes
    const early = roll() < 0.25
    const until = Date.now() + (early ? roll() * 4000 : 60_000)
    while (Date.now() < until && (early || lines.length < 2)) await wait(5)
    if (!early) await wait(roll() * 1500)
    own.kill('SIGKILL')
    await ended
    if (!lines.length) atStart++
    const told = lines.filter(line => line !== 'open')
    told.forEach(line => acknowledged.add(line))
    writes += told.length
    disk.play(logs)
    // some disks have kept almost all by themselves, some almost nothing
    const kept = roll()
    disk.cut(data, () => roll() < kept)
    const check = child('writer', [`check-${what}`, data, '0'])
    const status = await check.ended
    if (status !== 0) {
      closed++
      console.error(`Cut ${cut} of the ${what}: it does not open again. ${check.errors().slice(0, 500)}`)
      break
    }
    const there = new Set(check.lines)
    const gone = [...acknowledged].filter(each => !there.has(each))
    for (const each of gone) acknowledged.delete(each)
    lost += gone.length
    if (gone.length) console.error(`Cut ${cut} of the ${what} (${early ? 'early' : 'late'}): ${gone.length} lost, from ${gone[0]} on.`)
    torn += check.lines.filter(line => line.startsWith('torn')).length
  }
}
end(
  'power',
  !lost && !torn && !closed && writes > 0,
  `${cuts} cuts (${atStart} during a start), ${writes} writes acknowledged, ${lost} lost, ${torn} torn, ${closed} that did not open again`,
)
