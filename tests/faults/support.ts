import { type ChildProcess, spawn } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { openEstante } from '../../server/estante'

/** A folder of the script's own. */
export function scratch(): string {
  const folder = mkdtempSync(join(tmpdir(), 'estante-faults-'))
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** A data folder with the company in it, made once. */
export async function demoFolder(to: string): Promise<void> {
  const template = join(process.cwd(), '.build', 'faults-data')
  if (!existsSync(join(template, 'store', 'PG_VERSION'))) {
    rmSync(template, { recursive: true, force: true })
    mkdirSync(template, { recursive: true })
    await (await openEstante({ folder: template })).close()
  }
  cpSync(template, to, { recursive: true })
  rmSync(join(to, 'holder.json'), { force: true })
}

/** Numbers that look random, the same for the same seed (mulberry32). */
export function dice(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296
  }
}

/** A child of a script, and the lines that it has told. */
export function child(name: string, args: string[], env: Record<string, string> = {}, options: string[] = []) {
  const process_ = spawn(process.execPath, [...options, join(process.cwd(), '.build', 'faults', `${name}.child.mjs`), ...args], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  const lines: string[] = []
  let rest = ''
  let errors = ''
  process_.stdout.on('data', (data: Buffer) => {
    const parts = (rest + String(data)).split('\n')
    rest = parts.pop()!
    lines.push(...parts)
  })
  process_.stderr.on('data', (data: Buffer) => (errors += String(data)))
  const ended = new Promise<number | null>(resolve => process_.on('close', code => resolve(code)))
  return { process: process_ as ChildProcess, lines, ended, errors: () => errors }
}

export const wait = (ms: number): Promise<void> => new Promise(resolve => setTimeout(resolve, ms))

/** The one line that a script ends with. */
export function end(name: string, holds: boolean, words: string): never {
  console.log(`${name}: ${holds ? 'holds' : 'FAILED'} · ${words}`)
  process.exit(holds ? 0 : 1)
}

/** A server of the built program on a data folder. */
export interface Server {
  url: string
  process: ChildProcess
  ended: Promise<number | null>
  errors: () => string
  /** asks as the program's own page does */
  ask: (path: string, options?: { method?: string; body?: unknown; signal?: AbortSignal }) => Promise<Response>
  stop: () => Promise<void>
}

let lastPort = 47_000 + (process.pid % 900)
export async function startServer(folder: string, env: Record<string, string> = {}): Promise<Server> {
  const port = ++lastPort
  const url = `http://127.0.0.1:${port}`
  const own = spawn(process.execPath, [join(process.cwd(), '.output', 'server', 'index.mjs')], {
    env: {
      ...process.env,
      NITRO_HOST: '127.0.0.1',
      HOST: '127.0.0.1',
      NITRO_PORT: String(port),
      PORT: String(port),
      ESTANTE_ROOT: `${process.cwd()}/`,
      ESTANTE_DATA: folder,
      ESTANTE_PEOPLE: 'none',
      ...env,
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let [said, errors] = ['', '']
  own.stdout.on('data', (data: Buffer) => (said += String(data)))
  own.stderr.on('data', (data: Buffer) => (errors = (errors + String(data)).slice(-20_000)))
  const ended = new Promise<number | null>(resolve => own.on('close', code => resolve(code)))
  let over = false
  void ended.then(() => (over = true))
  while (!said.includes('Estante is ready.') && !over) await wait(20)
  return {
    url,
    process: own,
    ended,
    errors: () => errors,
    ask: (path, { method = 'GET', body, signal } = {}) =>
      fetch(url + path, {
        method,
        headers: { origin: url, ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
        ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
        ...(signal ? { signal } : {}),
      }),
    stop: async () => {
      own.kill('SIGTERM')
      await ended
    },
  }
}

/** How many files a process has open. */
export const openFiles = (id: number): number => readdirSync(`/proc/${id}/fd`).length

/** Files in a folder, and the bytes that they take. */
export function filesIn(folder: string): string[] {
  return existsSync(folder) ? readdirSync(folder, { recursive: true }).map(String) : []
}
