import { xml, xmlText } from '../einvoice/xml'

/** Something that a check of definitions found: in which file, on which line (from 1), and what in one sentence. */
export interface Finding {
  file: string
  line?: number
  level: 'error' | 'warning'
  /** what kind of thing it is: one word or a few */
  rule: string
  sentence: string
}

/** What was checked: files, or tests, each with what was found. */
export interface Checked {
  file: string
  name: string
  findings: Finding[]
}

/** A line for each finding, as compilers write them. */
export const findingsText = (checked: readonly Checked[]): string =>
  checked
    .flatMap(each => each.findings)
    .map(({ file, line, level, sentence, rule }) => `${file}${line === undefined ? '' : `:${line}`}: ${level}: ${sentence} [${rule}]\n`)
    .join('')

/** Findings for code hosting (SARIF 2.1.0, OASIS). */
export function findingsSarif(checked: readonly Checked[], version: string): string {
  const findings = checked.flatMap(each => each.findings)
  const rules = [...new Set(findings.map(each => each.rule))].sort()
  return `${JSON.stringify(
    {
      $schema: 'https://json.schemastore.org/sarif-2.1.0.json',
      version: '2.1.0',
      runs: [
        {
          tool: { driver: { name: 'Estante', version, rules: rules.map(id => ({ id, shortDescription: { text: id } })) } },
          results: findings.map(({ file, line, level, sentence, rule }) => ({
            ruleId: rule,
            ruleIndex: rules.indexOf(rule),
            level,
            message: { text: sentence },
            locations: [
              {
                physicalLocation: {
                  artifactLocation: { uri: file.split('/').map(encodeURIComponent).join('/') },
                  ...(line === undefined ? {} : { region: { startLine: line } }),
                },
              },
            ],
          })),
        },
      ],
    },
    undefined,
    2,
  )}\n`
}

/** Findings as the results of tests: each file, or test, is one; errors are failures, warnings its output. */
export function findingsJunit(checked: readonly Checked[], suite: string): string {
  const failed = (each: Checked) => each.findings.filter(finding => finding.level === 'error')
  const said = (findings: readonly Finding[]) => findingsText([{ file: '', name: '', findings: [...findings] }]).trimEnd()
  const root = xml('testsuites', [
    xml(
      'testsuite',
      checked.map(each => {
        const errors = failed(each)
        const warnings = each.findings.filter(finding => finding.level === 'warning')
        return xml(
          'testcase',
          [
            errors.length ? xml('failure', said(errors), { message: errors[0]!.sentence }) : undefined,
            warnings.length ? xml('system-out', said(warnings)) : undefined,
          ],
          { name: each.name, classname: each.file },
        )
      }),
      { name: suite, tests: String(checked.length), failures: String(checked.filter(each => failed(each).length).length) },
    ),
  ])
  return xmlText(root)
}

/** The line of a definition's text on which a part with an id begins; inside another where that is said. */
export function lineOf(text: string, ...ids: readonly (string | undefined)[]): number | undefined {
  const lines = text.split('\n')
  let found: number | undefined
  let from = 0
  for (const id of ids) {
    if (id === undefined) continue
    const own = id.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
    const at = lines.findIndex(
      (line, index) =>
        index >= from && new RegExp(`^\\s*(- )?(id|name|source): ['"]?${own}['"]?\\s*$|^\\s*(- )?['"]?${own}['"]?:( |$)`).test(line),
    )
    if (at < 0) break
    found = at + 1
    from = at
  }
  return found
}
