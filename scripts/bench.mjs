// npm run bench: builds what is missing, makes the benchmark company once, and measures; -- --scale 4 for a quicker look, -- --only pdf
// for one part.
import { spawnSync } from 'node:child_process'
import { ensureInstalled, root } from './ensure.mjs'

ensureInstalled()
const { buildAll } = await import('./build.mjs')
await buildAll()
const { build } = await import('esbuild')
await build({
  absWorkingDir: root,
  entryPoints: [
    'bench/bench.ts',
    'bench/write.worker.ts',
    'bench/sheet.worker.ts',
    'bench/csv.worker.ts',
    'bench/read.thread.ts',
    'bench/intake.worker.ts',
    'bench/tagged.worker.ts',
  ],
  outdir: '.build/bench',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  logLevel: 'warning',
})
const { status } = spawnSync(process.execPath, ['--expose-gc', '.build/bench/bench.mjs', ...process.argv.slice(2)], {
  stdio: 'inherit',
  cwd: root,
  env: { ...process.env, ESTANTE_ROOT: root },
})
process.exit(status ?? 1)
