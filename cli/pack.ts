import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import type { PackInfo, PackRunDetail, PackRunState, PackTieResult } from '../core/api/packs'
import { suggestion } from '../core/value/suggestion'
import type { Context } from '../server/access/context'
import { type Estante, dataFolder } from '../server/estante'
import type { MadeFile } from '../server/packs/toSend'
import { answersOf } from './answers'
import { type Answering, here, Server, serverHolding } from './parts'
import { UsageError } from './usage'

const usage = 'estante pack run "<pack>" [--set name=value …] [--dry-run] [--data <folder>]'
const context: Context = { person: 'command line' }

/** What a run of a pack came to, as the line of JSON says it. */
interface Told {
  pack: string
  run: string
  state: PackRunState
  files: string[]
  tieOuts: { count: number; failed: string[] }
  /** what goes out of it, by states */
  goesOut: Record<string, number>
  sentences?: string[]
}
const ongoing: readonly PackRunState[] = ['waiting', 'running', 'sending']
/** Held is neither fine nor a fault: somebody has to look at it. */
const exitCodes: Partial<Record<PackRunState, number>> = { done: 0, held: 3 }

const named = <T extends { name: string }>(list: readonly T[], name: string): T => {
  const found = list.find(each => each.name === name) ?? list.find(each => each.name.toLowerCase() === name.toLowerCase())
  const names = list.map(each => each.name)
  if (!found)
    throw new UsageError(
      `There is no pack “${name}”${suggestion(name, names)}; there ${names.length ? `is ${names.join(', ')}` : 'are none yet'}.`,
    )
  return found
}

/**
 * estante pack run …: a pack is run as from its page; one line of JSON. Comes back with the exit code.
 * @throws UsageError with one sentence
 */
export async function packCommand(args: string[]): Promise<number> {
  let parsed
  try {
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: {
        set: { type: 'string', multiple: true, default: [] as string[] },
        'dry-run': { type: 'boolean', default: false },
        data: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const [command, name, ...rest] = parsed.positionals
  if (command !== 'run' || !name || rest.length) throw new UsageError(`Say which pack is to be run. It is written: ${usage}`)
  const asked = { answers: answersOf(parsed.values.set), dry: parsed.values['dry-run'] }
  const folder = parsed.values.data ? resolve(parsed.values.data) : dataFolder()
  const server = serverHolding(folder)
  const told = await (server ? byServer(server, name, asked) : here(folder, estante => runHere(estante, name, asked)))
  process.stdout.write(`${JSON.stringify(told)}\n`)
  return exitCodes[told.state] ?? 2
}

async function byServer(at: Answering, name: string, asked: { answers: Record<string, string>; dry: boolean }): Promise<Told> {
  const server = new Server(at)
  const pack = named(await server.ask<PackInfo[]>('/api/packs'), name)
  const { id } = await server.send<{ id: string }>(`/api/packs/${pack.id}/run`, asked)
  let run = await server.ask<PackRunDetail>(`/api/packs/runs/${id}`)
  while (ongoing.includes(run.state)) run = await server.ask<PackRunDetail>(`/api/packs/runs/${id}?wait=1`)
  return {
    pack: run.name,
    run: id,
    state: run.state,
    files: run.files.map(each => each.name),
    tieOuts: tieOutsOf(run.allTies),
    goesOut: Object.fromEntries(run.counts.map(each => [each.state, each.count])),
    ...(run.sentences?.length ? { sentences: run.sentences } : {}),
  }
}

async function runHere(estante: Estante, name: string, asked: { answers: Record<string, string>; dry: boolean }): Promise<Told> {
  const pack = named(await estante.store.packs.list(context), name)
  const id = (await estante.packs.start(context, pack, asked))!
  let run = (await estante.store.packRuns.find(id))!
  while (ongoing.includes(run.state)) {
    await Promise.race([estante.packs.news, new Promise(resolve => setTimeout(resolve, 500))])
    run = (await estante.store.packRuns.find(id))!
  }
  const sentences = (run.sentences as string[] | null) ?? []
  return {
    pack: run.name,
    run: id,
    state: run.state,
    files: (run.files as MadeFile[]).map(each => each.name),
    tieOuts: tieOutsOf((run.ties as PackTieResult[] | null) ?? []),
    goesOut: Object.fromEntries((await estante.store.deliveries.counts(id)).map(each => [each.state, each.count])),
    ...(sentences.length ? { sentences } : {}),
  }
}

const tieOutsOf = (ties: readonly PackTieResult[]): Told['tieOuts'] => ({
  count: ties.length,
  failed: ties.filter(each => !each.holds).map(each => (each.report ? `${each.report}: ${each.name}` : each.name)),
})
