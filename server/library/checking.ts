import { assembleReport } from '../../core/compose/assemble'
import type { ReportDefinition } from '../../core/definition/report'
import type { TieFigure, TieOut } from '../../core/definition/tieOuts'
import { type Checked, type Finding, lineOf } from '../../core/plain/findings'
import { renameNested } from '../../core/plain/names'
import { withPictures } from '../../core/plain/pictures'
import { TextError, type TextFiles, valueOf } from '../../core/plain/text'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import { RunError } from '../runs/input'

const reportFile = /^reports\/[^/]+\/[^/]+\.yaml$/
const testFile = /^reports\/[^/]+\/tests\/[^/]+\.yaml$/
const decoder = new TextDecoder()

interface Read {
  path: string
  text: string
  name: string
  definition: ReportDefinition
}

/** The report of a file, or what is wrong with that. */
async function readReport(context: Context, app: Estante, files: TextFiles, path: string): Promise<Read | Finding> {
  const bytes = files.get(path)!
  const fault = (rule: string, sentence: string, line?: number): Finding => ({
    file: path,
    ...(line === undefined ? {} : { line }),
    level: 'error',
    rule,
    sentence,
  })
  try {
    const value = valueOf(bytes, path) as { name?: unknown; definition?: unknown } | null
    if (typeof value?.name !== 'string' || !value.name) return fault('text', 'The file has no name; write it as name: …')
    const whole = withPictures(value.definition, `${path.slice(0, path.lastIndexOf('/'))}/pictures/`, files, path)
    const text = decoder.decode(bytes)
    try {
      return { path, text, name: value.name, definition: await app.planner.parse(context, JSON.stringify(whole ?? null)) }
    } catch (error) {
      const { message } = error as Error
      return fault(
        'schema',
        message,
        lineOf(text, ...(/[\w.[\]"-]+/.exec(message)?.[0] ?? '').split(/[.[\]"]+/).filter(part => /\D/.test(part))),
      )
    }
  } catch (error) {
    if (!(error instanceof TextError)) throw error
    const line = /, line (\d+): /.exec(error.message)?.[1]
    return fault('text', error.message.replace(/^.*?: /, ''), line === undefined ? undefined : Number(line))
  }
}

/**
 * Checks the reports of a folder of definitions: their text and shape, their formulas against the catalogs of their sources (as these are
 * now, or as they were last read where a source is away), what is noticed on their layouts, and the reports that they name. With answers
 * their tie-outs are held, too.
 */
export async function checkFolder(
  context: Context,
  app: Estante,
  files: TextFiles,
  { answers }: { answers?: Readonly<Record<string, string>> } = {},
): Promise<Checked[]> {
  const paths = [...files.keys()].filter(path => reportFile.test(path)).sort()
  const read = await Promise.all(paths.map(path => readReport(context, app, files, path)))
  const known = new Map((await app.store.library(context)).flatMap(shelf => shelf.reports.map(each => [each.name, each.id] as const)))
  const inFolder = new Set(read.flatMap(each => ('definition' in each ? [each.name] : [])))
  const checked: Checked[] = []
  for (const [at, each] of read.entries()) {
    const file = paths[at]!
    if (!('definition' in each)) {
      checked.push({ file, name: file, findings: [each] })
      continue
    }
    const findings = await checkReport(context, app, each, name => inFolder.has(name) || known.has(name))
    if (answers && !findings.some(finding => finding.level === 'error'))
      findings.push(...(await heldTies(context, app, each, known, answers)))
    checked.push({ file, name: each.name, findings })
  }
  return checked
}

async function checkReport(
  context: Context,
  app: Estante,
  { path: file, text, definition }: Read,
  named: (report: string) => boolean,
): Promise<Finding[]> {
  const findings: Finding[] = []
  const find = (level: Finding['level'], rule: string, sentence: string, ...ids: (string | undefined)[]) => {
    const line = lineOf(text, ...ids)
    const found: Finding = { file, ...(line === undefined ? {} : { line }), level, rule, sentence }
    if (!findings.some(each => each.sentence === sentence && each.line === line)) findings.push(found)
  }
  renameNested(definition, report => {
    if (!named(report)) find('error', 'reference', `The report “${report}” is neither in the folder nor in the library; put it there.`)
    return report
  })
  const { source } = definition.dataSets[0]!
  if (!app.sources.has(source)) {
    find('error', 'reference', `There is no source “${source}” here; connect it, or name another.`, source)
    return findings
  }
  const { catalog } = await app.sources.catalog(context, source).catch(async error => {
    const last = await app.store.lastCatalog(context, source)
    if (!last) throw error
    return { catalog: last }
  })
  for (const { name } of definition.layouts)
    try {
      const { tree, layout } = assembleReport(definition, catalog, 0, name)
      for (const problem of tree.problems) find('error', 'data', problem.sentence)
      for (const { block, cell, sentence } of layout.problems) find('error', 'formula', sentence, block, cell)
      for (const { block, cell, kind, sentence } of layout.notices) find('warning', kind, sentence, block, cell)
    } catch (error) {
      find('error', 'layout', `The layout “${name}” cannot be made ready: ${(error as Error).message}`, name)
    }
  return findings
}

/** A report with its nested ones by their ids; nothing where one of these is in the folder only. */
function storedForm({ definition }: Read, known: ReadonlyMap<string, string>): ReportDefinition | undefined {
  let all = true
  const own = renameNested(definition, name => known.get(name) ?? ((all = false), name))
  return all ? own : undefined
}

async function heldTies(
  context: Context,
  app: Estante,
  read: Read,
  known: ReadonlyMap<string, string>,
  answers: Readonly<Record<string, string>>,
): Promise<Finding[]> {
  const definition = storedForm(read, known)
  if (!definition?.tieOuts?.length) return []
  const own = Object.fromEntries(Object.entries(answers).filter(([name]) => definition.parameters.some(each => each.name === name)))
  return figureFaults(context, app, read, definition, own, 'tie-out')
}

/** Tie-outs of a definition that do not hold, or cannot be worked out. */
async function figureFaults(
  context: Context,
  app: Estante,
  { path: file, text, name }: Pick<Read, 'path' | 'text' | 'name'>,
  definition: ReportDefinition,
  answers: Record<string, string>,
  rule: string,
): Promise<Finding[]> {
  const fault = (sentence: string, id?: string): Finding => {
    const line = lineOf(text, id)
    return { file, ...(line === undefined ? {} : { line }), level: 'error', rule, sentence }
  }
  try {
    const results = await app.pool.tieOuts(context, await app.checkedInput(context, name, definition, answers))
    return results.flatMap(({ id, name: called, holds, left, right, sentence }) =>
      holds ? [] : [fault(sentence ?? `“${called}”: ${left ?? 'nothing'} is not ${right ?? 'nothing'}.`, id)],
    )
  } catch (error) {
    return error instanceof RunError ? error.sentences.map(sentence => fault(sentence)) : [fault((error as Error).message)]
  }
}

interface TestOfReport {
  name: string
  answers?: Record<string, unknown>
  figures: { figure: TieFigure | string; equals: string | number; tolerance?: string | number }[]
}

/** Runs the tests that lie beside reports: answers, and what figures then come to. */
export async function testFolder(context: Context, app: Estante, files: TextFiles): Promise<Checked[]> {
  const known = new Map((await app.store.library(context)).flatMap(shelf => shelf.reports.map(each => [each.name, each.id] as const)))
  const checked: Checked[] = []
  for (const path of [...files.keys()].filter(each => testFile.test(each)).sort()) {
    const text = decoder.decode(files.get(path))
    const fault = (sentence: string): Checked => ({
      file: path,
      name: path,
      findings: [{ file: path, level: 'error', rule: 'test', sentence }],
    })
    const report = path.replace('/tests/', '/')
    if (!files.has(report)) {
      checked.push(fault(`There is no report ${report} that it could test; name the file as the report’s.`))
      continue
    }
    const read = await readReport(context, app, files, report)
    if (!('definition' in read)) {
      checked.push({ file: path, name: path, findings: [read] })
      continue
    }
    let tests: unknown
    try {
      tests = valueOf(files.get(path)!, path)
    } catch (error) {
      checked.push(fault((error as Error).message))
      continue
    }
    const definition = storedForm(read, known)
    for (const test of Array.isArray(tests) ? (tests as Partial<TestOfReport>[]) : [{} as Partial<TestOfReport>]) {
      const figures = test?.figures
      if (typeof test?.name !== 'string' || !Array.isArray(figures) || figures.some(each => !each?.figure || each.equals === undefined)) {
        checked.push(fault('A test has a name and figures, each with what it equals: - name: … figures: - figure: … equals: …'))
        continue
      }
      const { dataSets, ...rest } = definition ?? read.definition
      const tieOuts = figures.map(({ figure, equals, tolerance = 0 }, at): TieOut => {
        const dataSet = dataSets[0]!.name
        return {
          id: `test ${at}`,
          name: typeof figure === 'string' ? figure : JSON.stringify(figure),
          left: typeof figure === 'string' ? { is: 'formula', dataSet, formula: figure } : figure,
          right: { is: 'formula', dataSet, formula: String(equals) },
          tolerance: String(tolerance),
        }
      })
      const answers = Object.fromEntries(Object.entries(test.answers ?? {}).map(([name, value]) => [name, String(value)]))
      const findings = await figureFaults(context, app, { path, text, name: read.name }, { ...rest, dataSets, tieOuts }, answers, 'test')
      const line = lineOf(text, test.name)
      checked.push({
        file: path,
        name: `${read.name}: ${test.name}`,
        findings: findings.map(each => ({ ...each, ...(line === undefined ? {} : { line }) })),
      })
    }
  }
  return checked
}
