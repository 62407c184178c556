import { createReadStream, existsSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename } from 'node:path'
import { createInterface } from 'node:readline/promises'
import { Readable, Writable } from 'node:stream'
import type { SourceCheck, SourceInfo } from '../core/api/answers'
import type { AddedServer, AddedSource, BroughtFile, CopyState } from '../core/api/intake'
import type { SourceSettings } from '../core/books/settings'
import { isArchive } from '../core/intake/endings'
import { suggestion } from '../core/value/suggestion'
import { type Context, ownContext } from '../server/access/context'
import type { SaidCopy } from '../server/sources/copies/addCopy'
import { checkSource } from '../server/sources/checkSource'
import { filesRecord } from '../server/sources/files/addFiles'
import { FileFault } from '../server/sources/files/kinds/kind'
import type { GivenFile } from '../server/sources/files/take.worker'
import { unpack } from '../server/sources/files/unpack'
import { filesIn, lookAgain } from '../server/sources/files/watch'
import { keepSettings } from '../server/sources/keepSettings'
import { namedKind } from '../server/sources/namedSource'
import type { SaidServer } from '../server/sources/postgres/addServer'
import { here, Server, serverHolding } from './parts'
import { type Order, readOrder } from './sourceOrder'
import { UsageError } from './usage'

const context: Context = { person: 'command line' }

/** A file as it is, or the files of an archive. @throws UsageError */
async function givenFiles(path: string): Promise<GivenFile[]> {
  if (!isArchive(path)) return [{ path, name: basename(path) }]
  try {
    return await unpack(path, basename(path), tmpdir())
  } catch (error) {
    throw error instanceof FileFault ? new UsageError(error.message) : error
  }
}

class ByServer extends Server {
  private async bring(files: readonly string[]): Promise<BroughtFile[]> {
    const brought: BroughtFile[] = []
    for (const path of files)
      brought.push(
        ...(await this.ask<BroughtFile[]>(`/api/intake?${new URLSearchParams({ name: basename(path) })}`, {
          method: 'POST',
          headers: { 'content-type': 'application/octet-stream', 'content-length': String(statSync(path).size) },
          body: Readable.toWeb(createReadStream(path)) as never,
          duplex: 'half',
        } as RequestInit)),
      )
    return brought
  }

  async add(name: string, files: readonly string[], watch: string | undefined): Promise<AddedSource> {
    const brought = await this.bring(files)
    const watched = watch === undefined ? {} : { watch }
    return this.send<AddedSource>('/api/sources', { name, files: brought.map(({ id }) => ({ id })), ...watched })
  }

  connect(name: string, said: SaidServer): Promise<AddedServer> {
    return this.send<AddedServer>('/api/servers', { name, ...said })
  }

  copy(name: string, said: SaidCopy): Promise<AddedSource> {
    return this.send<AddedSource>('/api/copies', { name, ...said })
  }

  /** Files in place of those of a source. */
  async again(id: string, files: readonly string[], evenSo: boolean): Promise<Pick<AddedSource, 'tables'>> {
    const brought = await this.bring(files)
    return this.send(`/api/sources/${encodeURIComponent(id)}/files`, { files: brought.map(each => ({ id: each.id })), evenSo })
  }

  async refresh(id: string, evenSo: boolean): Promise<CopyState> {
    return this.send<CopyState>(`/api/sources/${encodeURIComponent(id)}/copy`, { evenSo })
  }
}

/** A password that was neither in the address nor in the environment is asked for, unseen. */
async function withPassword<T extends { url: string; password?: string }>(said: T): Promise<T> {
  const written = URL.canParse(said.url) && new URL(said.url).password !== ''
  if (said.password !== undefined || written || !process.stdin.isTTY) return said
  process.stderr.write('Password: ')
  const silent = new Writable({ write: (_chunk, _encoding, done) => done() })
  const asking = createInterface({ input: process.stdin, output: silent, terminal: true })
  const password = await asking.question('')
  asking.close()
  process.stderr.write('\n')
  return password ? { ...said, password } : said
}

/** The files of some paths, those of archives unpacked for the time of some work. */
async function withFiles<T>(paths: readonly string[], work: (files: GivenFile[]) => Promise<T>): Promise<T> {
  const given = await Promise.all(paths.map(path => givenFiles(path)))
  try {
    return await work(given.flat())
  } finally {
    for (const [at, path] of paths.entries()) if (isArchive(path)) for (const each of given[at]!) rmSync(each.path, { force: true })
  }
}

/** Where the work is done: through the server that holds the folder, or here. */
interface Doing extends Order {
  through: ByServer | undefined
}

const write = (line: object): void => void process.stdout.write(`${JSON.stringify(line)}\n`)

/** Adds what the order names. */
async function add({ name, files, watch, server: said, copy: copied, folder, through }: Doing): Promise<void> {
  if (copied) {
    const wanted = await withPassword(copied)
    const added = through
      ? await through.copy(name, wanted)
      : await here(folder, async estante => ({ name: name.trim(), ...(await estante.copies.add(context, name, wanted)) }))
    return write({ source: added.name, id: added.id, tables: added.tables })
  }
  if (said) {
    const wanted = await withPassword(said)
    const added = through
      ? await through.connect(name, wanted)
      : await here(folder, async estante => {
          const { id, tried } = await estante.addServer(context, name, wanted)
          const { catalog } = await estante.sources.catalog(ownContext, id)
          return { id, name: name.trim(), tried, tables: catalog.tables.length }
        })
    return write({ source: added.name, id: added.id, tables: added.tables, version: added.tried.version, notes: added.tried.notes })
  }
  const watched = watch === undefined ? {} : { watch: { folder: watch, seen: Object.fromEntries(filesIn(watch)) } }
  const added = through
    ? await through.add(name, files, watch)
    : await here(folder, estante =>
        withFiles(files, async given => ({ name: name.trim(), ...(await estante.addFiles(context, name, given, watched)) })),
      )
  write({ source: added.name, id: added.id, tables: added.tables, ...(watch === undefined ? {} : { watched: watch }) })
}

/** Copies a database anew, takes files in again, or looks at a folder that is watched. */
async function refresh({ files, evenSo, folder, through }: Doing, found: { id: string; name: string; kind: string }): Promise<void> {
  if (files.length) {
    const { tables } = through
      ? await through.again(found.id, files, evenSo)
      : await here(folder, estante => withFiles(files, given => estante.takeAgain(context, found.id, given, { evenSo })))
    return write({ source: found.name, id: found.id, tables })
  }
  if (found.kind === 'files' && !through) {
    const taken = await here(folder, async estante => {
      const { watch } = (await filesRecord(context, estante.keeping, found.id)).record
      if (watch === undefined)
        throw new UsageError(`“${found.name}” holds files; name those that have changed with --files, or add it with --watch.`)
      return lookAgain(context, estante.keeping, found.id, evenSo)
    })
    return write({ source: found.name, id: found.id, files: taken })
  }
  const state = through
    ? await through.refresh(found.id, evenSo)
    : await here(folder, async estante => {
        await estante.copies.refresh(context, found.id, { evenSo })
        return estante.copies.generations(context, found.id)
      })
  const [latest] = state.generations
  write({ source: found.name, id: found.id, generation: state.generation, rows: latest!.rows, at: latest!.at })
}

/** Writes what is kept with a source, or keeps what stands in a file, where it fits its tables. */
async function settings({ from, folder, through }: Doing, found: { id: string; name: string }): Promise<void> {
  const path = `/api/sources/${encodeURIComponent(found.id)}/settings`
  if (from === undefined) {
    const kept = through
      ? await through.ask<{ value: SourceSettings }>(path)
      : await here(folder, estante => estante.store.settings(context, found.id))
    return write(kept.value)
  }
  const text = existsSync(from) ? readFileSync(from, 'utf8') : undefined
  if (text === undefined) throw new UsageError(`There is nothing at ${from}; name a file with the settings of a source.`)
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    throw new UsageError(`${from} holds no settings of a source; name a file that “source settings” has written.`)
  }
  if (through) {
    const { version } = await through.ask<{ version: number }>(path)
    const body = JSON.stringify({ settings: value, basedOn: version })
    await through.ask(path, { method: 'PUT', headers: { 'content-type': 'application/json' }, body })
  } else await here(folder, estante => keepSettings(context, estante.sources, found.id, value))
  write({ source: found.name, id: found.id, kept: true })
}

/** estante source …: each line that it writes is one JSON object. @throws UsageError or StoreError with one sentence */
export async function sourceCommand(args: string[]): Promise<void> {
  const order = readOrder(args)
  const { what, name, folder } = order
  const server = serverHolding(folder)
  const through = server ? new ByServer(server) : undefined
  if (what === 'add') return add({ ...order, through })
  const list = (
    through
      ? await through.ask<SourceInfo[]>('/api/sources')
      : await here(folder, estante => estante.sources.list().map(each => ({ id: each.id, name: each.name, kind: each.kind })))
  ).filter(each => each.kind !== namedKind)
  if (what === 'list') {
    for (const { id, name: called, kind } of list) write({ id, name: called, kind })
    return
  }
  const found = list.find(each => each.name.toLowerCase() === name.trim().toLowerCase())
  const names = list.map(each => each.name)
  if (!found) throw new UsageError(`There is no source “${name}”${suggestion(name, names)}; see estante source list.`)
  if (what === 'refresh') return refresh({ ...order, through }, found)
  if (what === 'settings') return settings({ ...order, through }, found)
  const checked = through
    ? await through.ask<SourceCheck>(`/api/sources/${encodeURIComponent(found.id)}/check`)
    : await here(folder, estante => checkSource(context, estante, found.id))
  write({ source: found.name, id: found.id, ...checked })
}
