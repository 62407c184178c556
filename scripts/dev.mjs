// npm run dev: the application with its workers built again at every change.
import { spawn } from 'node:child_process'
import { ensureInstalled, root } from './ensure.mjs'

ensureInstalled()
const { watchWorkers } = await import('./workers.mjs')
await watchWorkers()
spawn('npx', ['nuxt', 'dev', '--host', '127.0.0.1', '--port', '4780'], {
  stdio: 'inherit',
  cwd: root,
  env: { ...process.env, ESTANTE_ROOT: root, NITRO_PORT: '4780' },
}).on('exit', () => process.exit(0))
