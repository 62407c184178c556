import { resolve } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { parseArgs } from 'node:util'
import { watch } from 'chokidar'
import type { Context } from '../server/access/context'
import { dataFolder } from '../server/estante'
import { BoundFolder, type Told } from './boundFolder'
import { here, Server, serverHolding } from './parts'
import { type ShelfSide, sideOfFolder, sideOfServer } from './shelfSide'
import { UsageError } from './usage'

const usage = 'estante watch <folder> --shelf <name> [--once] [--data <folder>]'
const context: Context = { person: 'command line' }
/** How often the library is looked at, in milliseconds. */
const every = 2000

/**
 * estante watch: a folder whose files are the reports of a shelf. A change of a file is a version of its report, a change on screen is
 * written to the folder; where both have changed, the library's stands and the folder's is kept beside it. One line of JSON for each.
 * @throws UsageError with one sentence
 */
export async function watchCommand(args: string[]): Promise<void> {
  let parsed
  try {
    parsed = parseArgs({
      args,
      allowPositionals: true,
      options: { shelf: { type: 'string' }, once: { type: 'boolean', default: false }, data: { type: 'string' } },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const [, named, ...rest] = parsed.positionals
  const { shelf, once } = parsed.values
  if (!named || rest.length || !shelf) throw new UsageError(`Say which folder and which shelf. It is written: ${usage}`)
  const folder = resolve(process.env.INIT_CWD ?? process.cwd(), named)
  const data = parsed.values.data ? resolve(parsed.values.data) : dataFolder()
  const work = (side: ShelfSide) => follow(new BoundFolder(folder, shelf, side), folder, once)
  const answering = serverHolding(data)
  if (answering) await work(sideOfServer(new Server(answering)))
  else await here(data, estante => work(sideOfFolder(context, estante)))
}

let lastProblem = ''
const tell = ({ problem, ...done }: Told): void => {
  // a server that is away is told of once
  if (problem !== undefined) {
    if (problem !== lastProblem) process.stderr.write(`${problem}\n`)
    lastProblem = problem
  } else process.stdout.write(`${JSON.stringify(done)}\n`)
}

/** Makes both the same whenever one of them changes, until the command is stopped. */
async function follow(bound: BoundFolder, folder: string, once: boolean): Promise<void> {
  if (once) return bound.match(tell)
  let stopped = false
  let changed: () => void = () => {}
  const stop = () => {
    stopped = true
    changed()
  }
  process.once('SIGINT', stop).once('SIGTERM', stop)
  const watcher = watch(folder, { ignoreInitial: true, awaitWriteFinish: { stabilityThreshold: 150, pollInterval: 50 } })
  watcher.on('all', () => changed())
  try {
    while (!stopped) {
      const news = new Promise<void>(resolve => (changed = resolve))
      // a server that is away for a while is asked again
      await bound.match(tell).catch((error: Error) => tell({ problem: error.message }))
      await Promise.race([news, wait(every, undefined, { ref: true })])
    }
  } finally {
    await watcher.close()
  }
}
