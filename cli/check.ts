import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { definitionChanges } from '../core/compare/definitions'
import type { ReportDefinition } from '../core/definition/report'
import { type Checked, findingsJunit, findingsSarif, findingsText } from '../core/plain/findings'
import { TextError, valueOf } from '../core/plain/text'
import type { Context } from '../server/access/context'
import { dataFolder } from '../server/estante'
import { checkFolder, testFolder } from '../server/library/checking'
import { answersOf } from './answers'
import { filesIn } from './library'
import { here, Server, serverHolding } from './parts'
import { UsageError } from './usage'

const usage =
  'estante check <folder> [--run [--set name=value …]], estante test <folder>, both with [--format text|sarif|junit] [--out <file>] ' +
  '[--strict] [--data <folder>]; or estante diff <file> <file>'
const context: Context = { person: 'command line' }
const formats = ['text', 'sarif', 'junit'] as const

const from = (path: string) => resolve(process.env.INIT_CWD ?? process.cwd(), path)

/**
 * estante check, test and diff: comes back with the exit code: 0 where nothing is wrong, 1 where something is, or differs.
 * @throws UsageError with one sentence
 */
export async function checkCommand(args: string[]): Promise<number> {
  let parsed
  try {
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: {
        run: { type: 'boolean', default: false },
        set: { type: 'string', multiple: true, default: [] as string[] },
        format: { type: 'string', default: 'text' },
        out: { type: 'string' },
        strict: { type: 'boolean', default: false },
        data: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const [command, ...named] = parsed.positionals
  if (command === 'diff') return differ(named)
  const { values: options } = parsed
  if (named.length !== 1) throw new UsageError(`Say which folder. It is written: ${usage}`)
  const format = formats.find(each => each === options.format)
  if (!format) throw new UsageError(`There is no format “${options.format}”; there are ${formats.join(', ')}.`)
  const files = filesIn(from(named[0]!))
  const data = options.data ? resolve(options.data) : dataFolder()
  const answering = serverHolding(data)
  const answers = options.run ? answersOf(options.set) : undefined
  const sent = () => ({
    files: [...files].map(([path, bytes]) => ({ path, base64: Buffer.from(bytes).toString('base64') })),
    what: command,
    ...(answers ? { answers } : {}),
  })
  const checked = answering
    ? (await new Server(answering).send<{ checked: Checked[] }>('/api/library/check', sent())).checked
    : await here(data, estante =>
        command === 'test' ? testFolder(context, estante, files) : checkFolder(context, estante, files, answers ? { answers } : {}),
      )
  if (command === 'test' && !checked.length)
    throw new UsageError(`There is no test in ${from(named[0]!)}; tests lie in reports/<shelf>/tests/.`)
  const text =
    format === 'sarif'
      ? findingsSarif(checked, '1')
      : format === 'junit'
        ? findingsJunit(checked, `estante ${command}`)
        : findingsText(checked)
  if (options.out) writeFileSync(from(options.out), text)
  else process.stdout.write(text)
  const count = (level: 'error' | 'warning') =>
    checked.reduce((sum, each) => sum + each.findings.filter(own => own.level === level).length, 0)
  const [errors, warnings] = [count('error'), count('warning')]
  process.stderr.write(`${JSON.stringify({ [command === 'test' ? 'tests' : 'reports']: checked.length, errors, warnings })}\n`)
  return errors || (options.strict && warnings) ? 1 : 0
}

/** Tells two definitions apart in words. */
function differ(named: readonly string[]): number {
  if (named.length !== 2) throw new UsageError(`Say which two files. It is written: ${usage}`)
  const [before, after] = named.map(path => {
    const file = from(path)
    if (!existsSync(file) || statSync(file).isDirectory())
      throw new UsageError(`There is no file ${file}; name one of a folder that was exported.`)
    try {
      const value = valueOf(readFileSync(file), path) as { definition?: ReportDefinition } | null
      // a definition by itself, as it is exported from the screen, is one too
      const definition = value?.definition ?? (value as ReportDefinition | null)
      if (!definition?.dataSets || !definition.layouts) throw new UsageError(`${path} holds no report; name a file of one.`)
      return definition
    } catch (error) {
      throw error instanceof TextError ? new UsageError(error.message) : error
    }
  })
  const sentences = definitionChanges(before!, after!)
  process.stdout.write(sentences.map(sentence => `${sentence}\n`).join(''))
  return sentences.length ? 1 : 0
}
