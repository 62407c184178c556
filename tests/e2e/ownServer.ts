import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A server of a test's own, over a data folder without the demo, which is gone when it ends. */
export interface OwnServer {
  address: string
  /** all that it has printed, once it holds what is waited for */
  said: (wanted: RegExp) => Promise<string>
  end: () => Promise<void>
}

export function ownServer(port: string): OwnServer {
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  const server: ChildProcess = spawn(process.execPath, ['.output/server/index.mjs'], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      ESTANTE_ROOT: process.cwd(),
      ESTANTE_DATA: folder,
      ESTANTE_DEMO: 'off',
      NITRO_HOST: '127.0.0.1',
      NITRO_PORT: port,
      PORT: port,
    },
  })
  let printed = ''
  server.stdout!.on('data', text => (printed += String(text)))
  return {
    address: `http://127.0.0.1:${port}`,
    said: async wanted => {
      while (!wanted.test(printed)) await new Promise(resolve => server.stdout!.once('data', () => setTimeout(resolve)))
      return printed
    },
    end: async () => {
      const gone = new Promise(resolve => server.on('exit', resolve))
      server.kill('SIGTERM')
      await gone
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
