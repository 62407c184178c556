// Builds the workers and the production application; skipped where nothing has changed since the last build.
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { ensureInstalled, must, root } from './ensure.mjs'

const sources = [
  'app',
  'core',
  'demo',
  'server',
  'cli',
  'public',
  'plugins.ts',
  'scripts/workers.mjs',
  'nuxt.config.ts',
  'package-lock.json',
]

function fingerprint() {
  const hash = createHash('sha256')
  const visit = path => {
    if (!existsSync(path)) return
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) visit(join(path, name))
    else if (!path.endsWith('.test.ts')) hash.update(path.slice(root.length)).update(readFileSync(path))
  }
  for (const source of sources) visit(join(root, source))
  return hash.digest('hex')
}

export async function buildAll() {
  ensureInstalled()
  const stamp = join(root, '.build', 'stamp')
  const now = fingerprint()
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now && existsSync(join(root, '.output/server/index.mjs'))) return
  console.log('Building Estante …')
  const { buildWorkers } = await import('./workers.mjs')
  await buildWorkers()
  must('npx', ['nuxt', 'build', '--logLevel', 'silent'], { env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' } })
  mkdirSync(join(root, '.build'), { recursive: true })
  writeFileSync(stamp, now)
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildAll()
