// What the other scripts need before they can start: packages, and for tests some of Debian's programs.
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, utimesSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

export const root = fileURLToPath(new URL('..', import.meta.url))

export function must(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { stdio: 'inherit', cwd: root, ...options })
  if (error || status) {
    console.error(`“${[command, ...args].join(' ')}” failed${error ? `: ${error.message}` : ''}.`)
    process.exit(status || 1)
  }
}

/**
 * Installs the locked packages unless they are there and the lock file has not changed since. Packages' own install scripts are not
 * needed.
 */
export function ensureInstalled() {
  const installed = `${root}node_modules/.package-lock.json`
  if (existsSync(installed) && statSync(installed).mtimeMs >= statSync(`${root}package-lock.json`).mtimeMs) return
  if (existsSync(installed) && sameVersions(installed)) return
  console.log('Installing packages …')
  // not `npm ci`: it insists on optional packages of other platforms, which a registry need not have; versions are those of the lock file
  // all the same
  must('npm', ['install', '--no-save', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel', 'error'])
  // npm leaves its own list as it is where nothing was missing
  utimesSync(installed, new Date(), new Date())
}

function sameVersions(installed) {
  const versions = file =>
    Object.entries(JSON.parse(readFileSync(file, 'utf8')).packages)
      .filter(([name, { optional, peer }]) => name && !optional && !peer)
      .map(([name, { version }]) => `${name}@${version}`)
  const have = new Set(versions(installed))
  return versions(`${root}package-lock.json`).every(each => have.has(each))
}

/** Programs of Debian's that tests read files and drive pages with; installed where this is root. */
export function ensurePrograms(programs) {
  const missing = Object.entries(programs)
    .filter(([file]) => !existsSync(file))
    .map(([, name]) => name)
  if (!missing.length) return
  if (process.getuid?.() !== 0) {
    console.error(`These Debian packages are missing: ${missing.join(', ')}. Install them, or run the tests as root.`)
    process.exit(1)
  }
  must('apt-get', ['update', '-q'], { stdio: ['ignore', 'ignore', 'inherit'] })
  must('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...missing], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  })
}

/** Unpacks a Debian package into a folder without installing it: for files that only tests read. */
export function ensureUnpacked(name, folder) {
  if (existsSync(folder)) return
  const parts = `${folder}.part`
  rmSync(parts, { recursive: true, force: true })
  mkdirSync(parts, { recursive: true })
  const quiet = { cwd: parts, stdio: ['ignore', 'ignore', 'inherit'] }
  must('apt-get', ['update', '-q'], quiet)
  must('apt-get', ['download', '-q', name], quiet)
  for (const file of readdirSync(parts).filter(each => each.endsWith('.deb'))) must('dpkg', ['-x', file, '.'], quiet)
  renameSync(parts, folder)
}
