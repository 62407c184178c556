import { readFileSync } from 'node:fs'
import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import type { SourceInfo } from '../core/api/answers'
import { namesOfMatches, type SwapCheck, type SwapProof, type SwapProposal } from '../core/api/swap'
import type { TableMatch } from '../core/swap/match'
import type { SourceNames } from '../core/swap/names'
import { suggestion } from '../core/value/suggestion'
import type { Context } from '../server/access/context'
import { dataFolder, type Estante } from '../server/estante'
import { RunError } from '../server/runs/input'
import { proveSame } from '../server/runs/proof'
import { namedKind } from '../server/sources/namedSource'
import { keepSwap, pointed, pointedReady, proposeSwap } from '../server/sources/swap'
import { answersOf } from './answers'
import { here, Server, serverHolding } from './parts'
import { UsageError } from './usage'

const usage =
  'estante swap "<report>" --to "<source>" [--map <file.json>] [--prove [--set name=value …]] [--data <folder>]; the map says ' +
  '{"table": "its table there", "table.column": "its column there"}, an empty text leaves one out'
const context: Context = { person: 'command line' }

/** What is done, by the server that holds the folder or here. */
interface Doing {
  propose: () => Promise<SwapProposal>
  check: (names: SourceNames) => Promise<SwapCheck>
  prove: (names: SourceNames, answers: Record<string, string>) => Promise<SwapProof>
  keep: (names: SourceNames) => Promise<{ version: number; lacks: string[] }>
}

function byServer(server: Server, report: string, to: string): Doing {
  const path = (rest = '') => `/api/reports/${encodeURIComponent(report)}/swap${rest}`
  return {
    propose: () => server.send(path('/propose'), { to }),
    check: names => server.send(path('/check'), { to, names }),
    prove: (names, answers) => server.send(path('/proof'), { to, names, answers }),
    keep: async names => {
      const { version } = await server.ask<{ version: number }>(`/api/reports/${encodeURIComponent(report)}`)
      return server.send(path(), { to, names, basedOn: version })
    },
  }
}

function byHand(app: Estante, report: string, to: string): Doing {
  const found = app.store.report(context, report)
  return {
    propose: async () => proposeSwap(context, app, (await found).definition, to),
    check: async names => pointed(context, app, (await found).definition, to, names),
    prove: async (names, answers) => {
      const { id, name, definition } = await found
      const { definition: now, lacks } = await pointedReady(context, app, definition, to, names)
      if (lacks.length) throw new RunError(lacks)
      return proveSame(context, app, { id, name, before: definition, now }, answers)
    },
    keep: async names => {
      const { id, version, definition } = await found
      return keepSwap(context, app, { id, basedOn: version, definition }, to, names)
    },
  }
}

/** The map of a file: by table, or by table and column. @throws UsageError */
function readMap(path: string): Map<string, string> {
  let found: unknown
  try {
    found = JSON.parse(readFileSync(path, 'utf8'))
  } catch {
    throw new UsageError(`${path} is no JSON that can be read; write {"table": "its table there"} into it.`)
  }
  if (typeof found !== 'object' || found === null || Array.isArray(found) || Object.values(found).some(each => typeof each !== 'string'))
    throw new UsageError(`${path} is no map of names; write {"table": "its table there", "table.column": "its column there"} into it.`)
  return new Map(Object.entries(found as Record<string, string>))
}

/** The matches with what the map says instead. @throws UsageError where it speaks of what the report does not need */
function mapped(tables: readonly TableMatch[], map: Map<string, string>): TableMatch[] {
  const left = new Map(map)
  const said = (name: string, proposed: string | undefined) => {
    const own = left.get(name)
    left.delete(name)
    return own === undefined ? proposed : own || undefined
  }
  const next = tables.map((table): TableMatch => {
    const { to: _, ...rest } = table
    const to = said(table.table, table.to)
    const columns = table.columns.map(({ to: proposed, ...column }) => {
      const own = said(`${table.table}.${column.column}`, proposed)
      return own ? { ...column, to: own } : column
    })
    return { ...rest, columns, ...(to ? { to } : {}) }
  })
  const [stray] = left.keys()
  if (stray !== undefined) {
    const known = tables.flatMap(({ table, columns }) => [table, ...columns.map(({ column }) => `${table}.${column}`)])
    throw new UsageError(`The report needs no “${stray}”${suggestion(stray, known)}; take it out of the map.`)
  }
  return next
}

/** estante swap …: points a report at another source; one line of JSON. @throws UsageError or StoreError with one sentence */
export async function swapCommand(args: string[]): Promise<void> {
  let parsed
  try {
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: {
        to: { type: 'string' },
        map: { type: 'string' },
        prove: { type: 'boolean', default: false },
        set: { type: 'string', multiple: true, default: [] as string[] },
        data: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const [report, ...rest] = parsed.positionals
  const { to, map, prove, set, data } = parsed.values
  if (!report || rest.length) throw new UsageError(`Name one report, in quotes if it has spaces. It is written: ${usage}`)
  if (!to) throw new UsageError(`Say at which source with --to. It is written: ${usage}`)
  const base = process.env.INIT_CWD ?? process.cwd()
  const answers = answersOf(set)
  const said = map ? readMap(resolve(base, map)) : new Map<string, string>()
  const folder = data ? resolve(base, data) : dataFolder()
  const holding = serverHolding(folder)
  const work = async (list: { id: string; name: string; kind: string }[], doing: (id: string) => Doing) => {
    const own = list.filter(each => each.kind !== namedKind)
    const target = own.find(each => each.name.toLowerCase() === to.trim().toLowerCase())
    if (!target) {
      const known = own.map(each => each.name)
      throw new UsageError(`There is no source “${to}”${suggestion(to, known)}; see estante source list.`)
    }
    const { propose, check, prove: proving, keep } = doing(target.id)
    const proposal = await propose()
    const tables = mapped(proposal.tables, said)
    const names = namesOfMatches(tables)
    const columns = tables.flatMap(table =>
      table.columns.map(column => ({ name: `${table.table}.${column.column}`, to: table.to && column.to })),
    )
    const line = {
      report,
      from: proposal.from.name,
      to: target.name,
      matched: columns.filter(each => each.to).length,
      unmatched: [...tables.filter(each => !each.to).map(each => each.table), ...columns.filter(each => !each.to).map(each => each.name)],
    }
    const proof = prove ? await proving(names, answers) : undefined
    const found = proof && {
      same: proof.same,
      rows: proof.changes.counts,
      differingPages: proof.differing.map(page => page + 1),
      ...(proof.same
        ? {}
        : {
            differences: proof.changes.rows
              .slice(0, 100)
              .map(({ kind, label, cells }) => ({
                kind,
                label,
                cells: cells.map(({ cell, before, now, difference }) => ({ cell, before, now, ...(difference ? { difference } : {}) })),
              })),
          }),
    }
    // what was to be proved and is not the same stays where it is
    if (proof && !proof.same) return { ...line, lacks: (await check(names)).lacks, ...found, swapped: false }
    const { version, lacks } = await keep(names)
    return { ...line, lacks, ...found, swapped: true, version }
  }
  const line = holding
    ? await (async () => {
        const server = new Server(holding)
        return work(
          (await server.ask<SourceInfo[]>('/api/sources')).map(({ id, name, kind }) => ({ id, name, kind })),
          id => byServer(server, report, id),
        )
      })()
    : await here(folder, app =>
        work(
          app.sources.list().map(({ id, name, kind }) => ({ id, name, kind })),
          id => byHand(app, report, id),
        ),
      )
  process.stdout.write(`${JSON.stringify(line)}\n`)
}
