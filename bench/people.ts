import { request } from 'node:http'
import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import type { Guard } from '../core/guard/guards'
import type { Person } from '../core/api/people'
import { invoiceRegister } from '../demo/reports/reports'
import { type Context, ownContext } from '../server/access/context'
import { openEstante, type Estante } from '../server/estante'
import { people as peopleTable } from '../server/store/schema'
import type { Database } from '../server/store/database'
import { eq } from 'drizzle-orm'
import { company, median, ms, note, root, scale } from './harness'
import { sourceId, tester } from './support'

/** Two guards that hide nothing, so that the same rows are read with them and without. */
const guards: Guard[] = [
  { team: 'quay', table: 'branches', is: 'records', formula: 'code in (person.branches)' },
  { team: 'quay', table: 'invoices', is: 'with', key: 'invoices_branch_id_fkey' },
]
const team = { id: 'quay', name: 'Quay', attributes: { branches: ['NQ', 'BR', 'ID'] } }

/** What people cost: guards of a run, the check of a request, and guessing beside other people's work. */
export async function people(): Promise<void> {
  const estante = await openEstante({ folder: await company(Math.min(scale, 40)) })
  await guardedRun(estante)
  await requestCheck(estante)
  await estante.close()
  await guessing()
}

async function guardedRun(estante: Estante): Promise<void> {
  const before = await estante.store.guards(ownContext, sourceId)
  await estante.store.saveGuards(ownContext, sourceId, { guards, released: [] })
  const guarded: Context = {
    person: 'guarded',
    signedIn: { id: 'guarded', name: 'Guarded', signIn: 'guarded', role: 'reader', teams: [team] },
  }
  const times = { guarded: [] as number[], plain: [] as number[] }
  const rows = { guarded: '', plain: '' }
  const both = [
    ['guarded', guarded],
    ['plain', tester],
  ] as const
  for (let round = 0; round <= 12; round++)
    // none of them is always the second one
    for (const [which, context] of round % 2 ? both : [...both].reverse()) {
      const input = await estante.input(context, 'Register', invoiceRegister(), {})
      const file = estante.runs.passingFile()
      const began = performance.now()
      const result = await estante.pool.run(context, input, { format: 'json', file })
      if (round) times[which].push(performance.now() - began)
      rows[which] = JSON.stringify(result.rows)
      rmSync(file, { force: true })
    }
  await estante.store.saveGuards(ownContext, sourceId, before.value)
  if (rows.guarded !== rows.plain) throw new Error('The guards have hidden something.')
  const ratio = median(times.guarded) / median(times.plain)
  note(
    'the invoice register with two guards against without',
    `${ratio.toFixed(2)} × (${ms(median(times.guarded))}, ${ms(median(times.plain))})`,
    '≤ 1.15 ×',
    ratio <= 1.15,
  )
}

async function requestCheck(estante: Estante): Promise<void> {
  const id = await estante.people.add(ownContext, {
    name: 'Check',
    signIn: `check-${Date.now()}`,
    role: 'author',
    password: 'nine grey gulls at noon',
  })
  const token = await estante.people.sessions.begin(id, 'bench')
  const times: number[] = []
  for (let round = 0; round < 600; round++) {
    const began = performance.now()
    const signedIn = (await estante.people.sessions.personOf(token)) as Person
    await estante.sources.sight({ person: id, signedIn }, sourceId)
    if (round >= 100) times.push(performance.now() - began)
  }
  // nobody signs in to the company that is measured
  const database = (Reflect.get(estante.people, 'database') as () => Database)()
  await database.delete(peopleTable).where(eq(peopleTable.id, id))
  note('the check of a request: session, right, teams and guards', `median ${ms(median(times))}`, '≤ 1 ms', median(times) <= 1)
}

/** An answer of a server, asked from an address of this machine. */
function ask(
  port: number,
  from: string,
  method: string,
  path: string,
  body?: object,
  cookie = '',
): Promise<{ status: number; cookie: string; took: number }> {
  const began = performance.now()
  return new Promise((resolve, reject) => {
    const sent = request(
      {
        host: '127.0.0.1',
        port,
        localAddress: from,
        method,
        path,
        headers: {
          host: `127.0.0.1:${port}`,
          origin: `http://127.0.0.1:${port}`,
          'content-type': 'application/json',
          ...(cookie ? { cookie } : {}),
        },
      },
      response => {
        response.resume()
        response.on('end', () =>
          resolve({
            status: response.statusCode ?? 0,
            cookie: (response.headers['set-cookie'] ?? []).map(each => each.split(';')[0]).join('; '),
            took: performance.now() - began,
          }),
        )
      },
    )
    sent.on('error', reject)
    sent.end(body ? JSON.stringify(body) : undefined)
  })
}

async function guessing(): Promise<void> {
  const [port, folder] = [4798, mkdtempSync(join(tmpdir(), 'estante-bench-'))]
  const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      ESTANTE_ROOT: root,
      ESTANTE_DATA: folder,
      ESTANTE_DEMO: 'off',
      NITRO_HOST: '127.0.0.1',
      NITRO_PORT: String(port),
      PORT: String(port),
    },
  })
  let said = ''
  server.stdout.on('data', text => (said += String(text)))
  while (!/first\?key=[\w-]+/.test(said)) await wait(50)
  const key = /first\?key=([\w-]+)/.exec(said)![1]
  const password = 'nine grey gulls at noon'
  const first = { key, name: 'First', signIn: 'first', password }
  const { cookie } = await ask(port, '127.0.0.1', 'POST', '/api/first', first)
  const others = async (seconds: number) => {
    const times: number[] = []
    const end = performance.now() + seconds * 1000
    while (performance.now() < end) {
      const { status, took } = await ask(port, '127.0.0.1', 'GET', '/api/library', undefined, cookie)
      if (status !== 200) throw new Error(`The library answered ${status}.`)
      times.push(took)
      await wait(5)
    }
    return times
  }
  await others(3)
  const quiet = await others(10)
  let [guesses, guessed] = [0, 0]
  const flood = setInterval(() => {
    const at = guesses++ % 20
    ask(port, `127.0.0.${20 + at}`, 'POST', '/api/session', { name: `name ${guesses % 7}`, password: `guess ${guesses} of many` }).then(
      () => guessed++,
      () => {},
    )
  }, 20)
  const right: number[] = []
  const signing = (async () => {
    for (let round = 0; round < 8; round++) {
      await wait(1000)
      const { status, took } = await ask(port, '127.0.0.9', 'POST', '/api/session', { name: 'first', password })
      if (status !== 200) throw new Error(`A right password was answered with ${status}.`)
      right.push(took)
    }
  })()
  const loud = await others(10)
  await signing
  clearInterval(flood)
  server.kill('SIGTERM')
  await new Promise(resolve => server.on('exit', resolve))
  rmSync(folder, { recursive: true, force: true })
  const slower = median(loud) / median(quiet)
  note(
    `a right password while ${Math.round(guesses / 10)} wrong ones a second come from 20 addresses`,
    `longest ${ms(Math.max(...right))}, ${guessed} of ${guesses} answered`,
    '≤ 1 s',
    Math.max(...right) <= 1000,
  )
  note("other people's requests meanwhile", `${slower.toFixed(2)} × (${ms(median(loud))}, ${ms(median(quiet))})`, '≤ 1.1 ×', slower <= 1.1)
}
