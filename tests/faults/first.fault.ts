import { join } from 'node:path'
import { child, dice, end, scratch, wait } from './support'

/** The very first start, killed at random moments: the next one makes the company, or says what to do. */
const kills = Number(process.argv[2] ?? 16)
const folder = scratch()
const roll = dice(Number(process.env.FAULTS_SEED ?? 5))
let [whole, failed] = [0, 0]
for (let kill = 0; kill < kills; kill++) {
  const data = join(folder, String(kill))
  const first = child('writer', ['open', data, '0'])
  await wait(300 + (kill / kills) * 22_000 * (0.7 + roll() * 0.3))
  first.process.kill('SIGKILL')
  await first.ended
  const next = child('writer', ['open', data, '0'])
  const status = await next.ended
  if (status === 0 && next.lines[0] === 'reports 27' && Number(next.lines[1]?.replace('tables ', '')) > 40) whole++
  else {
    failed++
    console.error(`Start ${kill}: ${status} ${next.lines.join(', ')} ${next.errors().slice(0, 400)}`)
  }
}
end('first', !failed, `${kills} first starts killed, ${whole} made whole by the next start, ${failed} not`)
