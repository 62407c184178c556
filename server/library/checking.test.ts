import { XMLParser } from 'fast-xml-parser'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Finding, findingsJunit, findingsSarif, findingsText } from '../../core/plain/findings'
import type { TextFiles } from '../../core/plain/text'
import { askCompany, demoData, tester } from '../../tests/support'
import { type Estante, openEstante } from '../estante'
import { checkFolder, testFolder } from './checking'
import { exportLibrary } from './exporting'

let estante: Estante
let files: TextFiles
beforeAll(async () => {
  estante = await openEstante({ folder: demoData() })
  files = await exportLibrary(tester, estante)
})
afterAll(() => estante.close())

const text = (path: string) => Buffer.from(files.get(path)!).toString('utf8')
const pathOf = (name: string) => [...files.keys()].find(path => path.endsWith(`/${name}.yaml`))!
const found = async (changed: TextFiles, answers?: Record<string, string>): Promise<Finding[]> =>
  (await checkFolder(tester, estante, changed, answers ? { answers } : {})).flatMap(each => each.findings)
const changedBy = (name: string, find: string | RegExp, by: string): TextFiles =>
  new Map([...files, [pathOf(name), Buffer.from(text(pathOf(name)).replace(find, by))]])

describe('a check of a folder of definitions', () => {
  it('finds nothing wrong with the demo’s own, and each of their tie-outs holds', async () => {
    expect((await found(files, { period: '2026-P06' })).filter(each => each.level === 'error')).toEqual([])
  })

  it('says on which line of which file a formula, a reference, the shape or the text is wrong', async () => {
    const errors = async (changed: TextFiles) =>
      (await found(changed)).filter(each => each.level === 'error').map(({ file, line, rule, sentence }) => [file, line, rule, sentence])
    const line = (name: string, part: RegExp) =>
      text(pathOf(name))
        .split('\n')
        .findIndex(each => part.test(each)) + 1
    const invoice = pathOf('Sales invoice')
    const formula = await errors(changedBy('Sales invoice', 'Due\n', 'Due {{ totl }}\n'))
    expect(formula.length).toBeGreaterThan(0)
    expect(formula[0]).toEqual([invoice, line('Sales invoice', /id: dueLabel/), 'formula', expect.stringContaining('“totl”')])
    expect(await errors(changedBy('Trial balance', /format: \d+/, 'format: 99'))).toEqual([
      [pathOf('Trial balance'), undefined, 'schema', expect.stringContaining('format 99')],
    ])
    expect(await errors(changedBy('Trial balance', 'definition:', 'definition: {'))).toEqual([
      [pathOf('Trial balance'), expect.any(Number), 'text', expect.any(String)],
    ])
    expect(await errors(changedBy('Trial balance', /source: caisvelho/, 'source: elsewhere'))).toEqual([
      [pathOf('Trial balance'), expect.anything(), 'reference', 'There is no source “elsewhere” here; connect it, or name another.'],
    ])
    const nesting = [...files.keys()].find(path => path.startsWith('reports/') && /kind: nested/.test(text(path)))!
    const gone = new Map([...files, [nesting, Buffer.from(text(nesting).replace(/( report: ).*/, '$1Nowhere'))]])
    expect((await errors(gone)).map(each => [each[0], each[2]])).toEqual([[nesting, 'reference']])
  })

  it('tells what it noticed as a warning, and a tie-out that does not hold as an error', async () => {
    const pale = await found(changedBy('Sales invoice', /(id: billTo\n(?:.*\n)*?.*colour: )"#6d655b"/, '$1"#fdfdfd"'))
    expect(pale.some(each => each.level === 'warning' && each.rule === 'contrast')).toBe(true)
    const off = await found(changedBy('Income statement', /( +- income\n) +- expense\n/, '$1'), { period: '2026-P06' })
    expect(off.filter(each => each.level === 'error').map(each => each.rule)).toContain('tie-out')
  })

  it('is told as text, as SARIF and as results of tests', async () => {
    const checked = await checkFolder(tester, estante, changedBy('Sales invoice', 'Due\n', 'Due {{ totl }} <&> "x"\n'))
    const errors = checked.flatMap(each => each.findings).filter(each => each.level === 'error')
    expect(findingsText(checked)).toContain(`${pathOf('Sales invoice')}:${errors[0]!.line}: error: `)
    type Sarif = {
      version: string
      runs: { tool: { driver: { rules: { id: string }[] } }; results: { ruleId: string; ruleIndex: number; message: { text: string } }[] }[]
    }
    const { version, runs } = JSON.parse(findingsSarif(checked, '1')) as Sarif
    expect(version).toBe('2.1.0')
    expect(runs[0]!.results.map(each => each.message.text)).toEqual(checked.flatMap(each => each.findings.map(own => own.sentence)))
    for (const { ruleId, ruleIndex } of runs[0]!.results) expect(runs[0]!.tool.driver.rules[ruleIndex]!.id).toBe(ruleId)
    const parsed = new XMLParser({ ignoreAttributes: false, isArray: name => name === 'testcase' }).parse(
      findingsJunit(checked, 'x'),
      true,
    ) as { testsuites: { testsuite: { '@_tests': string; '@_failures': string; testcase: { failure?: { '@_message': string } }[] } } }
    const { testsuite } = parsed.testsuites
    expect([testsuite['@_tests'], testsuite['@_failures']]).toEqual([String(checked.length), '1'])
    expect(testsuite.testcase.filter(each => each.failure)).toHaveLength(1)
  })
})

it('tests beside reports hold what SQL says, and fail where they say otherwise', async () => {
  const { columns } = await askCompany(estante, {
    text: `select sum(lines_total)::text as total, count(*)::text as count from company.invoices where kind = 'invoice' and invoice_date
      between '2026-09-01' and '2026-09-30'`,
    values: [],
    columns: ['total', 'count'].map(path => ({ path, type: 'text' })),
  })
  const [total, count] = columns.map(column => (column as { values: string[] }).values[0]!)
  const path = pathOf('Sales invoice').replace(/\/([^/]+)$/, '/tests/$1')
  const tests = (equals: string) =>
    new Map([
      ...files,
      [
        path,
        Buffer.from(
          `- name: September\n  answers:\n    month: 2026-09\n  figures:\n    - figure: sum(lines.amount)\n      equals: ${equals}\n` +
            `    - figure: count(invoice)\n      equals: ${count}\n`,
        ),
      ] as const,
    ])
  expect(await testFolder(tester, estante, tests(total!))).toEqual([{ file: path, name: 'Sales invoice: September', findings: [] }])
  const [failed] = await testFolder(tester, estante, tests('1'))
  expect(failed!.findings.map(each => [each.file, each.line, each.level])).toEqual([[path, 1, 'error']])
  expect(failed!.findings[0]!.sentence).toContain(total)
  const [odd] = await testFolder(tester, estante, new Map([...files, [path, Buffer.from('- nom: x\n')]]))
  expect(odd!.findings[0]!.sentence).toContain('A test has a name and figures')
})
