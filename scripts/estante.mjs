// The command line: installs and builds what is missing, then runs .build/cli/estante.mjs.
import { spawnSync } from 'node:child_process'
import { ensureInstalled, root } from './ensure.mjs'

ensureInstalled()
const { buildWorkers } = await import('./workers.mjs')
await buildWorkers()
const { status } = spawnSync(process.execPath, ['--enable-source-maps', `${root}.build/cli/estante.mjs`, ...process.argv.slice(2)], {
  stdio: 'inherit',
  env: { ...process.env, ESTANTE_ROOT: root },
})
process.exit(status ?? 1)
