import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join, relative, resolve, sep } from 'node:path'
import { parseArgs } from 'node:util'
import type { TextFiles } from '../core/plain/text'
import type { Context } from '../server/access/context'
import { dataFolder } from '../server/estante'
import { exportLibrary } from '../server/library/exporting'
import { importLibrary, type Imported } from '../server/library/importing'
import { here, Server, serverHolding } from './parts'
import { UsageError } from './usage'

const usage = 'estante export <folder> [--data <folder>], or estante import <folder> [--data <folder>]'
const context: Context = { person: 'command line' }

/** What an export writes into a folder; all else in it (such as .git) is nobody's business here. */
const written =
  /^(library|letterhead)\.yaml$|^pictures\/[^/]+$|^(packs|sources)\/[^/]+\.yaml$|^reports\/[^/]+\/((published|pictures)\/)?[^/]+$/
/** Tests lie beside reports; whoever wrote them keeps them. */
const tests = /^reports\/[^/]+\/tests\/[^/]+\.yaml$/
/** Files that a folder of definitions may have, and their bytes together: what is more is none. */
const [mostFiles, mostBytes] = [20_000, 40 * 2 ** 20]

/** The files of a folder that are definitions, by their paths in it. @throws UsageError */
export function filesIn(folder: string): TextFiles {
  if (!existsSync(folder) || !statSync(folder).isDirectory())
    throw new UsageError(`There is no folder ${folder}; name one that was exported.`)
  const files: TextFiles = new Map()
  let size = 0
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    const path = relative(folder, join(entry.parentPath, entry.name)).split(sep).join('/')
    if (!entry.isFile() || !(written.test(path) || tests.test(path))) continue
    const bytes = readFileSync(join(folder, path))
    files.set(path, bytes)
    if (files.size > mostFiles || (size += bytes.length) > mostBytes)
      throw new UsageError(`${folder} holds more than ${mostFiles} files or ${mostBytes / 2 ** 20} MB; name the folder that was exported.`)
  }
  if (!files.size) throw new UsageError(`There is no definition in ${folder}; name a folder that was exported.`)
  return files
}

/** Writes files into a folder; those of definitions that are not among them go, all else stays. */
function writeFolder(folder: string, files: TextFiles): void {
  mkdirSync(folder, { recursive: true })
  const before = readdirSync(folder).length ? [...readdirSync(folder, { recursive: true, withFileTypes: true })] : []
  for (const entry of before) {
    const path = relative(folder, join(entry.parentPath, entry.name)).split(sep).join('/')
    if (entry.isFile() && written.test(path) && !files.has(path)) rmSync(join(folder, path))
  }
  for (const [path, bytes] of files) {
    const file = join(folder, path)
    // a file that is the same keeps its time
    if (existsSync(file) && Buffer.compare(readFileSync(file), bytes) === 0) continue
    mkdirSync(dirname(file), { recursive: true })
    writeFileSync(file, bytes)
  }
}

type Sent = { path: string; base64: string }[]

/**
 * estante export, estante import: the library as a folder of texts, and back; one line of JSON.
 * @throws UsageError with one sentence
 */
export async function libraryCommand(args: string[]): Promise<void> {
  let parsed
  try {
    parsed = parseArgs({ args, allowPositionals: true, options: { data: { type: 'string' }, all: { type: 'boolean' } } })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const [command, named, ...rest] = parsed.positionals
  if (!named || rest.length) throw new UsageError(`Say which folder. It is written: ${usage}`)
  const folder = resolve(process.env.INIT_CWD ?? process.cwd(), named)
  const data = parsed.values.data ? resolve(parsed.values.data) : dataFolder()
  const answering = serverHolding(data)
  if (command === 'export') {
    const files: TextFiles = answering
      ? new Map(
          (await new Server(answering).ask<{ files: Sent }>('/api/library/files')).files.map(({ path, base64 }) => [
            path,
            Buffer.from(base64, 'base64'),
          ]),
        )
      : await here(data, estante => exportLibrary(context, estante))
    writeFolder(folder, files)
    process.stdout.write(`${JSON.stringify({ folder, files: files.size })}\n`)
    return
  }
  const files = filesIn(folder)
  const sent: Sent = [...files].map(([path, bytes]) => ({ path, base64: Buffer.from(bytes).toString('base64') }))
  const done = answering
    ? await new Server(answering).send<Imported>('/api/library/files', { files: sent })
    : await here(data, estante => importLibrary(context, estante, files))
  process.stdout.write(`${JSON.stringify(done)}\n`)
}
