// node tests/faults/run.mjs <name>: builds a script of faults and runs it; it ends with one line.
import { build } from 'esbuild'
import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { buildWorkers } from '../../scripts/workers.mjs'

const here = fileURLToPath(new URL('.', import.meta.url))
const root = fileURLToPath(new URL('../..', import.meta.url))
const [name, ...rest] = process.argv.slice(2)
const known = readdirSync(here)
  .filter(file => file.endsWith('.fault.ts'))
  .map(file => file.replace('.fault.ts', ''))
if (!name || !existsSync(`${here}${name}.fault.ts`)) {
  console.error(`Name one of ${known.join(', ')}: npm run faults power`)
  process.exit(2)
}
await buildWorkers()
const children = readdirSync(here).filter(file => file.endsWith('.child.ts'))
await build({
  absWorkingDir: root,
  entryPoints: [`tests/faults/${name}.fault.ts`, ...children.map(file => `tests/faults/${file}`)],
  outdir: '.build/faults',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  logLevel: 'warning',
  inject: ['plugins.ts'],
})
const { status } = spawnSync(process.execPath, [`${root}.build/faults/${name}.fault.mjs`, ...rest], {
  stdio: 'inherit',
  cwd: root,
  env: { ...process.env, ESTANTE_ROOT: root },
})
process.exit(status ?? 1)
