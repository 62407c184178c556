import type { APIRequestContext } from '@playwright/test'
import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A server of a test's own, over a data folder without the demo, which is gone when it ends. */
export interface OwnServer {
  address: string
  /** all that it has printed, once it holds what is waited for */
  said: (wanted: RegExp) => Promise<string>
  /** kills it without a word and starts it again on the same folder */
  again: () => Promise<void>
  end: () => Promise<void>
}

/** The password of the first administrator in tests. */
export const firstPassword = 'nine grey gulls at noon'

/** Makes the first administrator, who is signed in where the request comes from. */
export async function beFirst({ address, said }: OwnServer, request: APIRequestContext): Promise<void> {
  const key = /\/first\?key=([\w-]+)/.exec(await said(/\/first\?key=[\w-]+/))![1]
  const made = await request.post(`${address}/api/first`, {
    headers: { origin: address },
    data: { key, name: 'Beatriz Norheim', signIn: 'beatriz', password: firstPassword },
  })
  if (!made.ok()) throw new Error(await made.text())
}

/** `env` says otherwise: with `ESTANTE_DEMO: 'on'` it has the demo, and its people. */
export function ownServer(port: string, env: Record<string, string> = {}): OwnServer {
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  let printed = ''
  const started = (): ChildProcess => {
    const server = spawn(process.execPath, ['.output/server/index.mjs'], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: {
        ...process.env,
        ESTANTE_ROOT: process.cwd(),
        ESTANTE_DATA: folder,
        ESTANTE_DEMO: 'off',
        NITRO_HOST: '127.0.0.1',
        NITRO_PORT: port,
        PORT: port,
        ...env,
      },
    })
    server.stdout.on('data', text => (printed += String(text)))
    return server
  }
  let server = started()
  const ended = async (signal: NodeJS.Signals): Promise<void> => {
    const gone = new Promise(resolve => server.on('exit', resolve))
    server.kill(signal)
    await gone
  }
  return {
    address: `http://127.0.0.1:${port}`,
    said: async wanted => {
      while (!wanted.test(printed)) await new Promise(resolve => server.stdout!.once('data', () => setTimeout(resolve)))
      return printed
    },
    again: async () => {
      await ended('SIGKILL')
      printed = ''
      server = started()
    },
    end: async () => {
      await ended('SIGTERM')
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
