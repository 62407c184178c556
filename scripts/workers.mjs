// Builds the Node workers and the command line into .build/, with packages left outside; but for those of hundreds of files, which would
// all be opened at once by every thread.
import { build, context } from 'esbuild'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const options = {
  absWorkingDir: root,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  plugins: [
    {
      name: 'packages outside',
      setup({ onResolve }) {
        onResolve({ filter: /^[^./]/ }, ({ path, kind }) =>
          kind === 'entry-point' || /^(date-fns|drizzle-orm)(\/|$)/.test(path) ? undefined : { path, external: true },
        )
      },
    },
  ],
  logLevel: 'warning',
  sourcemap: 'inline',
}
const sets = [
  {
    ...options,
    entryPoints: {
      demo: 'demo/engine.worker.ts',
      engine: 'server/sources/embedded/engine.worker.ts',
      run: 'server/runs/run.worker.ts',
      copy: 'server/sources/copies/copy.worker.ts',
      keep: 'server/sources/copies/keep.worker.ts',
      server: 'server/sources/postgres/server.worker.ts',
      take: 'server/sources/files/take.worker.ts',
    },
    outdir: '.build/workers',
    outExtension: { '.js': '.mjs' },
  },
  { ...options, entryPoints: { estante: 'cli/estante.ts' }, inject: ['plugins.ts'], outdir: '.build/cli', outExtension: { '.js': '.mjs' } },
]

export async function buildWorkers() {
  await Promise.all(sets.map(set => build(set)))
}

/** Builds again at every change, for development. */
export async function watchWorkers() {
  for (const set of sets) await (await context(set)).watch()
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildWorkers()
