import { execFileSync, spawnSync } from 'node:child_process'
import { copyFileSync, cpSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { beforeAll, expect, it } from 'vitest'
import { XMLParser } from 'fast-xml-parser'
import { demoData, temporaryFolder } from '../tests/support'

/*
 * The script that the guide gives for CI, as CI runs it: over our own demo reports, in a folder as it is kept in git.
 */
const folder = temporaryFolder()
const library = join(folder, 'library')
const data = join(folder, 'data')
const root = process.cwd()
const env = {
  ...process.env,
  ESTANTE_ROOT: root,
  INIT_CWD: root,
  ESTANTE: `${process.execPath} ${join(root, '.build/cli/estante.mjs')}`,
  ESTANTE_DATA: data,
}
const shelf = () =>
  join(
    library,
    'reports',
    readdirSync(join(library, 'reports')).find(each => readdirSync(join(library, 'reports', each)).includes('Sales invoice.yaml'))!,
  )
const script = () => spawnSync('docs/samples/check-library.sh', [library, join(folder, 'findings')], { env, encoding: 'utf8' })
const results = () => {
  const sarif = JSON.parse(readFileSync(join(folder, 'findings/check.sarif'), 'utf8')) as {
    runs: { results: { level: string; message: { text: string } }[] }[]
  }
  const junit = new XMLParser({ ignoreAttributes: false }).parse(readFileSync(join(folder, 'findings/tests.xml'), 'utf8')) as {
    testsuites: { testsuite: { '@_tests': string; '@_failures': string } }
  }
  const { '@_tests': tests, '@_failures': failures } = junit.testsuites.testsuite
  return {
    errors: sarif.runs[0]!.results.filter(each => each.level === 'error').map(each => each.message.text),
    tests: Number(tests),
    failures: Number(failures),
  }
}

beforeAll(() => {
  cpSync(demoData(), data, { recursive: true })
  execFileSync(process.execPath, [join(root, '.build/cli/estante.mjs'), 'export', library, '--data', data], { env })
  mkdirSync(join(shelf(), 'tests'))
  copyFileSync('docs/samples/tests/Sales invoice.yaml', join(shelf(), 'tests/Sales invoice.yaml'))
})

it('finds nothing wrong with our own demo reports, and holds the sample test', () => {
  const { status, stderr } = script()
  expect([status, stderr.split('\n').filter(line => line && !line.startsWith('{'))]).toEqual([0, []])
  expect(results()).toEqual({ errors: [], tests: 1, failures: 0 })
})

it('ends with 1 where a formula is broken, or a figure is another', () => {
  const file = join(shelf(), 'Invoice register.yaml')
  const before = readFileSync(file, 'utf8')
  writeFileSync(file, before.replace('{{ number }}', '{{ numbr }}'))
  const broken = script()
  expect([broken.status, results().errors.length > 0]).toEqual([1, true])
  expect(results().errors.join()).toContain('numbr')
  writeFileSync(file, before)
  const test = join(shelf(), 'tests/Sales invoice.yaml')
  writeFileSync(test, readFileSync(test, 'utf8').replace('equals: 83', 'equals: 84'))
  expect([script().status, results()]).toEqual([1, { errors: [], tests: 1, failures: 1 }])
})
