import { copyFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import type { SourceInfo } from '../core/api/answers'
import { outputFormats, readOutput } from '../core/api/outputs'
import type { ReportDefinition } from '../core/definition/report'
import { type DraftKind, draftKinds } from '../core/templates/drafts/layout'
import { type DraftOrder, titleOf } from '../core/templates/drafts/report'
import { suggestion } from '../core/value/suggestion'
import type { Context } from '../server/access/context'
import { dataFolder } from '../server/estante'
import { makeDraft } from '../server/runs/draft'
import type { RunOutput } from '../server/runs/output'
import type { RunResult } from '../server/runs/tasks'
import { namedKind } from '../server/sources/namedSource'
import { type Answering, here, orderFile, outFile, Server, serverHolding } from './parts'
import { UsageError } from './usage'

const usage =
  'estante draft --source "<name>" --table <table> [--join <level>:<table> …] [--kind document|groups|list] [--save "<name>"] ' +
  '[--format pdf --out <file>] [--data <folder>]'
const context: Context = { person: 'command line' }
/** the shelf that drafts of the command line are put on */
const shelf = 'New'

interface Drafted {
  definition: ReportDefinition
  kind: DraftKind
}
/** What is done, by the server that holds the folder or here. */
interface Doing {
  draft: (order: DraftOrder) => Promise<Drafted>
  save: (name: string, definition: ReportDefinition) => Promise<string>
  write: (name: string, definition: ReportDefinition, words: Record<string, unknown>, file: string) => Promise<RunResult>
}

function joinsOf(said: readonly string[]): { level: string; table: string }[] | undefined {
  if (!said.length) return undefined
  return said.map(each => {
    const at = each.indexOf(':')
    if (at <= 0 || at === each.length - 1)
      throw new UsageError(`“--join ${each}” does not say a level and a table; write --join invoice:customers.`)
    return { level: each.slice(0, at), table: each.slice(at + 1) }
  })
}

/** estante draft …: the report that the screen drafts from a table; one line of JSON. @throws UsageError or RunError with one sentence */
export async function draftCommand(args: string[]): Promise<void> {
  let parsed
  try {
    parsed = parseArgs({
      args,
      options: {
        source: { type: 'string' },
        table: { type: 'string' },
        join: { type: 'string', multiple: true, default: [] as string[] },
        kind: { type: 'string' },
        save: { type: 'string' },
        format: { type: 'string' },
        out: { type: 'string' },
        data: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const { source, table, join: joined, kind, save, format, out, data } = parsed.values
  if (!source || !table) throw new UsageError(`Name a source and a table. It is written: ${usage}`)
  if (kind !== undefined && !(draftKinds as readonly string[]).includes(kind))
    throw new UsageError(`“${kind}” is no kind of draft; choose ${draftKinds.join(', ')}.`)
  if (format !== undefined && out === undefined) throw new UsageError('Say where to write with --out <file>.')
  const file = out === undefined ? undefined : outFile(out)
  const words = { format: format ?? 'pdf' }
  if (file)
    readOutput(
      words,
      outputFormats.filter(each => each !== 'zip'),
    )
  const joins = joinsOf(joined)
  const folder = data ? resolve(process.env.INIT_CWD ?? process.cwd(), data) : dataFolder()
  const work = async (list: { id: string; name: string; kind: string }[], { draft, save: keep, write }: Doing) => {
    const own = list.filter(each => each.kind !== namedKind)
    const found = own.find(each => each.name.toLowerCase() === source.trim().toLowerCase())
    if (!found)
      throw new UsageError(
        `There is no source “${source}”${suggestion(
          source,
          own.map(each => each.name),
        )}; see estante source list.`,
      )
    const name = save?.trim() || titleOf(table)
    const made = await draft({
      source: found.id,
      table,
      title: name,
      ...(kind ? { kind: kind as DraftKind } : {}),
      ...(joins ? { joins } : {}),
    })
    const levels = (level: ReportDefinition['dataSets'][0]['root']): object => ({
      level: level.name,
      table: level.table,
      fields: level.fields,
      related: level.related.map(each => each.name),
      ...(level.details.length ? { details: level.details.map(levels) } : {}),
    })
    return {
      source: found.name,
      table,
      kind: made.kind,
      data: levels(made.definition.dataSets[0]!.root),
      ...(save ? { id: await keep(name, made.definition), saved: name } : {}),
      ...(file ? await write(name, made.definition, words, file) : {}),
      ...(save || file ? {} : { definition: made.definition }),
    }
  }
  const server = serverHolding(folder)
  const line = server
    ? await byServer(server, work)
    : await here(folder, app =>
        work(
          app.sources.list().map(({ id, name, kind: sort }) => ({ id, name, kind: sort })),
          {
            draft: order => makeDraft(context, app, order),
            save: (name, definition) => app.store.create(context, shelf, name, definition, false),
            write: async (name, definition, output, to) => {
              const own = mkdtempSync(join(tmpdir(), 'estante-'))
              try {
                const passing = join(own, 'out')
                const input = await app.checkedInput(context, name, definition, {})
                const result = await app.pool.run(context, input, { ...readOutput(output), file: passing } as RunOutput)
                copyFileSync(passing, to)
                return result
              } finally {
                rmSync(own, { recursive: true, force: true })
              }
            },
          },
        ),
      )
  process.stdout.write(`${JSON.stringify(line)}\n`)
}

async function byServer<T>(
  holding: Answering,
  work: (list: { id: string; name: string; kind: string }[], doing: Doing) => Promise<T>,
): Promise<T> {
  const server = new Server(holding)
  return work(
    (await server.ask<SourceInfo[]>('/api/sources')).map(({ id, name, kind }) => ({ id, name, kind })),
    {
      draft: order => server.send('/api/draft', order),
      save: async (name, definition) => (await server.send<{ id: string }>('/api/reports', { name, shelf, definition })).id,
      write: async (report, definition, output, to) => {
        const { report: _, ...result } = await orderFile(holding, { report, definition, answers: {}, output }, to)
        return result as RunResult
      },
    },
  )
}
