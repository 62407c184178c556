// npm test: installs what is missing, then lint, types, unit tests, and end-to-end tests against the production build.
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { ensureInstalled, ensurePrograms, ensureUnpacked, must, root } from './ensure.mjs'

ensureInstalled()
ensurePrograms({
  '/usr/bin/chromium': 'chromium',
  '/usr/bin/pdftotext': 'poppler-utils',
  '/usr/bin/soffice': 'libreoffice-calc',
  '/usr/bin/xmllint': 'libxml2-utils',
  '/usr/sbin/mariadbd': 'mariadb-server',
  '/usr/sbin/pgbouncer': 'pgbouncer',
  ...(existsSync('/usr/lib/postgresql') ? {} : { '/usr/lib/postgresql': 'postgresql' }),
})
ensureUnpacked('tryton-modules-account-payment-sepa', `${root}.build/schemas`)
process.env.NUXT_TELEMETRY_DISABLED = '1'
process.env.ESTANTE_ROOT = root

const results = `${root}.build/results`
rmSync(results, { recursive: true, force: true })
mkdirSync(results, { recursive: true })
let [passed, failed] = [0, 0]

/** One check that passes or fails as a whole. */
function check(name, command, args) {
  console.log(`\n── ${name}`)
  const { status } = spawnSync(command, args, { stdio: 'inherit', cwd: root })
  if (status) failed++
  else passed++
}

/** A test runner that writes its counts to a file. */
function suite(name, command, args, file, count, env = {}) {
  console.log(`\n── ${name}`)
  const { status } = spawnSync(command, args, { stdio: 'inherit', cwd: root, env: { ...process.env, ...env } })
  const counts = existsSync(file) ? count(JSON.parse(readFileSync(file, 'utf8'))) : { passed: 0, failed: 0 }
  passed += counts.passed
  failed += status && !counts.failed ? counts.failed + 1 : counts.failed
}

must('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
check('lint', 'npx', ['eslint', '.', '--max-warnings', '0'])
check('arrows of the house', 'npx', ['depcruise', 'core', 'server', 'app', 'cli', 'demo', '--config', '.dependency-cruiser.mjs'])
check('types', 'npx', ['nuxt', 'typecheck'])
check('types of tests and benchmarks', 'npx', ['tsc', '-p', 'tests/tsconfig.json'])
suite(
  'unit tests',
  'npx',
  ['vitest', 'run', '--reporter=default', '--reporter=json', `--outputFile=${results}/unit.json`],
  `${results}/unit.json`,
  found => ({ passed: found.numPassedTests, failed: found.numFailedTests }),
)
suite(
  'planner, formulas, data sets and demo reports on a PostgreSQL server',
  'npx',
  [
    'vitest',
    'run',
    'tests/core',
    'tests/onServer',
    'demo/reports',
    '--reporter=default',
    '--reporter=json',
    `--outputFile=${results}/on.json`,
  ],
  `${results}/on.json`,
  found => ({ passed: found.numPassedTests, failed: found.numFailedTests }),
  { ESTANTE_TESTS_ON: 'server' },
)
const { buildAll } = await import('./build.mjs')
await buildAll()
suite(
  'end-to-end tests',
  'npx',
  ['playwright', 'test'],
  `${results}/e2e.json`,
  found => ({ passed: found.stats.expected + found.stats.flaky, failed: found.stats.unexpected }),
  { PLAYWRIGHT_JSON_OUTPUT_NAME: `${results}/e2e.json` },
)

console.log(`\n${passed} passed, ${failed} failed`)
process.exit(failed ? 1 : 0)
