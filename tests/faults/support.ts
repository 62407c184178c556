import { type ChildProcess, spawn } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
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
