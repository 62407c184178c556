import { copyFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { suggestion } from '../core/value/suggestion'
import { dataFolder, openEstante } from '../server/estante'
import type { ListedParameter } from '../core/api/answers'
import { listParameters } from '../server/runs/choices'
import { RunError } from '../server/runs/input'
import { isInvoiceSyntax, OutputError, outputFormats, readOutput } from '../core/api/outputs'
import type { Context } from '../server/access/context'
import type { RunOutput } from '../server/runs/output'
import type { RunResult } from '../server/runs/tasks'
import { StoreError } from '../server/store/records'
import { answersOf } from './answers'
import { checkCommand } from './check'
import { draftCommand } from './draft'
import { type Answering, orderFile, outFile, Server, serverHolding } from './parts'
import { type OutFolder, outFolder } from './outFolder'
import { libraryCommand } from './library'
import { packCommand } from './pack'
import { sourceCommand } from './source'
import { swapCommand } from './swap'
import { UsageError } from './usage'
import { watchCommand } from './watch'

const usage =
  'estante params "<report>" [--data <folder>], or estante run "<report>" --format ' +
  `${outputFormats.filter(each => each !== 'zip').join('|')} --out <file, or folder/ for e-invoices> ` +
  `[--set name=value …] [--layout <name>] ` +
  `[--level <name>|--crosstab <block>|--printed <block>|layout] [--sheets one|documents|groups] [--rows <level>] ` +
  `[--separator comma|semicolon|tab] [--decimal point|comma] [--guard] [--page <n>] [--version 09|03] [--data <folder>]`
/** Formats of one file: documents apart from one another come from the screen */
const formats = outputFormats.filter(format => format !== 'zip')
/** Whoever sits at this keyboard. */
const context: Context = { person: 'command line' }

interface Order {
  command: 'run'
  report: string
  answers: Record<string, string>
  /** what the file is to be, in the words of the options */
  words: Record<string, unknown>
  output: RunOutput
  folder: string
  layout?: string
  /** each document goes into a file of its own */
  many?: OutFolder
}
interface Listing {
  command: 'params'
  report: string
  folder: string
}

function readOrder(args: string[]): Order | Listing {
  let parsed
  try {
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: {
        set: { type: 'string', multiple: true, default: [] },
        format: { type: 'string', default: 'pdf' },
        out: { type: 'string' },
        level: { type: 'string' },
        crosstab: { type: 'string' },
        printed: { type: 'string' },
        layout: { type: 'string' },
        page: { type: 'string' },
        data: { type: 'string' },
        sheets: { type: 'string' },
        rows: { type: 'string' },
        version: { type: 'string' },
        separator: { type: 'string' },
        decimal: { type: 'string' },
        guard: { type: 'boolean' },
      },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const [command, report, ...rest] = parsed.positionals
  if (!command) throw new UsageError(`A command is missing. It is written: ${usage}`)
  if (command !== 'run' && command !== 'params') {
    const near = suggestion(command, [
      'run',
      'params',
      'source',
      'swap',
      'draft',
      'pack',
      'export',
      'import',
      'watch',
      'check',
      'test',
      'diff',
    ])
    throw new UsageError(`There is no command “${command}”${near}. It is written: ${usage}`)
  }
  if (!report || rest.length) throw new UsageError(`Name one report, in quotes if it has spaces. It is written: ${usage}`)
  const folder = parsed.values.data ? resolve(parsed.values.data) : dataFolder()
  if (command === 'params') return { command, report, folder }
  const { values: options } = parsed
  const { out } = options
  const words = { ...options, guard: options.guard ? 'yes' : undefined }
  const output = readOutput(words, formats)
  if (!out) throw new UsageError('Say where to write with --out <file>.')
  const many = isInvoiceSyntax(output.format) && /[\\/]$/.test(out) ? outFolder(out) : undefined
  const file = many ? join(many.passing, 'invoices.zip') : outFile(out)
  return {
    command,
    report,
    answers: answersOf(parsed.values.set),
    words,
    output: { ...output, file } as RunOutput,
    folder,
    ...(many ? { many } : {}),
    ...(parsed.values.layout ? { layout: parsed.values.layout } : {}),
  }
}

/** Runs through the server that holds the data folder. */
async function runByServer(server: Answering, order: Order): Promise<RunResult & { report: string }> {
  const { file } = order.output
  const { report, answers, words: output, layout } = order
  return orderFile(server, { report, answers, output, ...(layout ? { layout } : {}) }, file)
}

/** Opens the data folder and runs here. The file is put in its place only when it is whole. */
async function runHere(order: Order): Promise<RunResult & { report: string }> {
  const estante = await openEstante({
    folder: order.folder,
    scale: Number(process.env.ESTANTE_SCALE ?? 1),
    ...(process.env.DATABASE_URL ? { databaseUrl: process.env.DATABASE_URL } : {}),
  })
  const folder = mkdtempSync(join(tmpdir(), 'estante-'))
  try {
    const report = await estante.store.report(context, order.report, 'published')
    const file = join(folder, 'out')
    const result = await estante.pool.run(
      context,
      await estante.checkedInput(context, report.name, report.definition, order.answers, { layout: order.layout }),
      { ...order.output, file },
    )
    copyFileSync(file, order.output.file)
    return { ...result, report: report.name }
  } finally {
    await estante.close()
    rmSync(folder, { recursive: true, force: true })
  }
}

const parametersByServer = (server: Answering, report: string): Promise<ListedParameter[]> =>
  new Server(server).ask(`/api/params?${new URLSearchParams({ report })}`)

async function parametersHere(folder: string, report: string): Promise<ListedParameter[]> {
  const estante = await openEstante({
    folder,
    scale: Number(process.env.ESTANTE_SCALE ?? 1),
    ...(process.env.DATABASE_URL ? { databaseUrl: process.env.DATABASE_URL } : {}),
  })
  try {
    const { name, definition } = await estante.store.report(context, report, 'published')
    return await listParameters(context, estante, await estante.input(context, name, definition, {}))
  } finally {
    await estante.close()
  }
}

try {
  if (process.argv[2] === 'source') {
    await sourceCommand(process.argv.slice(3))
    process.exit(0)
  }
  if (process.argv[2] === 'draft') {
    await draftCommand(process.argv.slice(3))
    process.exit(0)
  }
  if (process.argv[2] === 'export' || process.argv[2] === 'import') {
    await libraryCommand(process.argv.slice(2))
    process.exit(0)
  }
  if (process.argv[2] === 'watch') {
    await watchCommand(process.argv.slice(2))
    process.exit(0)
  }
  if (['check', 'test', 'diff'].includes(process.argv[2] ?? '')) process.exit(await checkCommand(process.argv.slice(2)))
  if (process.argv[2] === 'pack') process.exit(await packCommand(process.argv.slice(3)))
  if (process.argv[2] === 'swap') {
    await swapCommand(process.argv.slice(3))
    process.exit(0)
  }
  const order = readOrder(process.argv.slice(2))
  const server = serverHolding(order.folder)
  if (order.command === 'params') {
    for (const parameter of await (server ? parametersByServer(server, order.report) : parametersHere(order.folder, order.report)))
      process.stdout.write(`${JSON.stringify(parameter)}\n`)
    process.exit(0)
  }
  const { report, pages, rows, ms } = server ? await runByServer(server, order) : await runHere(order)
  const files = order.many?.take(order.output.file)
  process.stdout.write(`${JSON.stringify({ report, pages, rows, ms, ...(files === undefined ? {} : { files }) })}\n`)
  process.exit(0)
} catch (error) {
  const known = error instanceof UsageError || error instanceof OutputError || error instanceof RunError || error instanceof StoreError
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`)
  process.exit(known ? 2 : 1)
}
