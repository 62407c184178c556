import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { startServer, removeServer } from '../servers'
import { child, demoFolder, dice, end, scratch, wait } from './support'

/**
 * Two programs that share a store work at packs and send letters, and are killed, as is the mail server: no run is lost, no occasion is
 * done twice, no letter is taken twice, and what may or may not have been taken is said to be uncertain.
 */
const kills = Number(process.argv[2] ?? 100)
const occasions = Math.max(4, Math.round(kills / 4))
const folder = scratch()
const roll = dice(Number(process.env.FAULTS_SEED ?? 7))
const database = startServer()
const log = join(folder, 'taken.log')
writeFileSync(log, '')
const mailPort = 20_000 + (process.pid % 20_000)
const runs = join(folder, 'runs')
mkdirSync(runs)
const env = { FAULTS_URL: database.url, ESTANTE_RUNS: runs }

const data = ['one', 'two'].map(name => join(folder, name))
for (const each of data) await demoFolder(each)
type Child = ReturnType<typeof child>
let seed = 0
const mail = () => child('mail', [String(mailPort), log, String(++seed)])
const program = (at: number) => child('packs', [data[at]!, String(mailPort), String(occasions)], env)
let post = mail()
const programs: Child[] = [program(0)]
// the store is made by one of them
while (!programs[0]!.lines.includes('begun')) {
  if (programs[0]!.process.exitCode !== null) end('packs', false, programs[0]!.errors().slice(0, 500))
  await wait(50)
}
programs.push(program(1))
const killed = { programs: 0, mail: 0 }
while (killed.programs + killed.mail < kills) {
  await wait(200 + roll() * 2500)
  const which = Math.floor(roll() * 4)
  if (which === 3) {
    post.process.kill('SIGKILL')
    await post.ended
    await wait(roll() * 400)
    post = mail()
    killed.mail++
    continue
  }
  const at = which % 2
  const own = programs[at]!
  // one that has not opened yet is killed too, now and then
  if (!own.lines.includes('open') && roll() < 0.8) continue
  own.process.kill('SIGKILL')
  await own.ended
  programs[at] = program(at)
  killed.programs++
}
const over = async (own: Child): Promise<boolean> => {
  for (const until = Date.now() + 300_000; Date.now() < until; await wait(200)) {
    if (own.lines.includes('over')) return true
    if (own.process.exitCode !== null) return false
  }
  return false
}
const both = await Promise.all(programs.map(over))
const [told] = programs
const faults: string[] = both.every(Boolean) ? [] : [`not over: ${programs.map(each => each.errors().slice(0, 300)).join(' ')}`]
type Letter = [occasion: string, kind: string, state: string, messageId: string]
const found = told!.lines.filter(line => line.startsWith('run ')).map(line => JSON.parse(line.slice(4)) as [string, string, string[]])
const letters = told!.lines.filter(line => line.startsWith('letter ')).map(line => JSON.parse(line.slice(7)) as Letter)
const taken = new Map<string, number>()
if (existsSync(log)) for (const id of readFileSync(log, 'utf8').split('\n').filter(Boolean)) taken.set(id, (taken.get(id) ?? 0) + 1)
if (new Set(found.map(each => each[0])).size !== occasions || found.length !== occasions)
  faults.push(`${found.length} runs of ${occasions} occasions`)
for (const [occasion, state, sentences] of found)
  if (state !== 'done' && !String(sentences).includes('times while this pack ran'))
    faults.push(`${occasion} is ${state}: ${String(sentences)}`)
const states: Record<string, number> = {}
for (const [occasion, kind, state, id] of letters) {
  states[state] = (states[state] ?? 0) + 1
  if (kind !== 'mail') continue
  const times = taken.get(id) ?? 0
  if (times > 1) faults.push(`a letter of ${occasion} was taken ${times} times`)
  if (state === 'sent' && times !== 1) faults.push(`a letter of ${occasion} is said to be sent and was taken ${times} times`)
  if (state !== 'sent' && state !== 'uncertain' && times) faults.push(`a letter of ${occasion} is ${state} and was taken`)
}
const ids = letters.map(each => each[3])
if (new Set(ids).size !== ids.length) faults.push('two letters have one Message-ID')
for (const each of [...programs, post]) each.process.kill('SIGKILL')
removeServer(database)
if (faults.length) console.error(faults.slice(0, 20).join('\n'))
const given = found.filter(each => each[1] !== 'done').length
end(
  'packs',
  !faults.length,
  `${killed.programs} kills of two programs and ${killed.mail} of the mail server; ${occasions} occasions, each once ` +
    `(${given} given up after three beginnings); ${Object.entries(states)
      .map(([state, count]) => `${count} ${state}`)
      .join(', ')}; no letter taken twice`,
)
