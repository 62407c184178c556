import { createReadStream, existsSync, readdirSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, join, resolve } from 'node:path'
import { createInterface } from 'node:readline/promises'
import { Readable, Writable } from 'node:stream'
import { parseArgs } from 'node:util'
import type { SourceCheck, SourceInfo } from '../core/api/answers'
import type { AddedServer, AddedSource, BroughtFile, CopyState } from '../core/api/intake'
import { becomesTable, endingWords, isArchive } from '../core/intake/endings'
import { suggestion } from '../core/value/suggestion'
import type { Context } from '../server/access/context'
import { dataFolder } from '../server/estante'
import type { SaidCopy } from '../server/sources/copies/addCopy'
import { checkSource } from '../server/sources/checkSource'
import { FileFault } from '../server/sources/files/kinds/kind'
import type { GivenFile } from '../server/sources/files/take.worker'
import { unpack } from '../server/sources/files/unpack'
import { namedKind } from '../server/sources/namedSource'
import type { SaidServer } from '../server/sources/postgres/addServer'
import { holderOf } from '../server/store/lock'
import { here, Server } from './parts'
import { UsageError } from './usage'

const usage =
  'estante source add "<name>" --files <folder or file> [--files …], or --url postgresql://user@host/database [--schema a,b], or ' +
  '--url mysql://user@host/database --copy [--tables a,b]; estante source list; estante source refresh "<name>" [--even-so]; ' +
  'estante source check "<name>"; each with [--data <folder>]'
const context: Context = { person: 'command line' }

const commands = ['add', 'list', 'refresh', 'check'] as const

interface Order {
  what: (typeof commands)[number]
  name: string
  files: string[]
  server?: SaidServer
  copy?: SaidCopy
  /** a refresh is put in place though reports would break */
  evenSo: boolean
  folder: string
}

const options = {
  files: { type: 'string', multiple: true, default: [] as string[] },
  url: { type: 'string' },
  schema: { type: 'string', multiple: true, default: [] as string[] },
  copy: { type: 'boolean', default: false },
  tables: { type: 'string', multiple: true, default: [] as string[] },
  zone: { type: 'string' },
  day: { type: 'string' },
  'even-superuser': { type: 'boolean', default: false },
  'even-so': { type: 'boolean', default: false },
  data: { type: 'string' },
} as const

function readOrder(args: string[]): Order {
  let parsed
  try {
    parsed = parseArgs({ args, allowPositionals: true, options })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('. ')[0]!.replace(/\.?$/, '.')} It is written: ${usage}`)
  }
  const { values } = parsed
  const [what = '', name = '', ...rest] = parsed.positionals
  const command = commands.find(each => each === what)
  if (!command) throw new UsageError(`There is no command “source ${what}”${suggestion(what, commands)}. It is written: ${usage}`)
  if (command !== 'list' && (!name || rest.length))
    throw new UsageError(`Give the source one name, in quotes if it has spaces. It is written: ${usage}`)
  const base = process.env.INIT_CWD ?? process.cwd()
  const files = values.files.flatMap(each => filesAt(resolve(base, each)))
  if (what === 'add' && !files.length === !values.url)
    throw new UsageError(`Say which files with --files, or which server with --url. It is written: ${usage}`)
  const schemas = values.schema.flatMap(each => each.split(',')).filter(Boolean)
  const password = process.env.ESTANTE_PASSWORD
  const copied = values.url !== undefined && !/^postgres(ql)?:/i.test(values.url)
  if (copied && !values.copy)
    throw new UsageError(`Only PostgreSQL servers are read in place; write --copy to copy the tables of this one. It is written: ${usage}`)
  if (values.copy && !copied)
    throw new UsageError(`--copy is for databases other than PostgreSQL, which is read in place. It is written: ${usage}`)
  const tables = values.tables.flatMap(each => each.split(',')).filter(Boolean)
  return {
    what: command,
    evenSo: values['even-so'],
    name,
    files,
    ...(copied ? { copy: { url: values.url!, ...(password ? { password } : {}), ...(tables.length ? { tables } : {}) } } : {}),
    ...(values.url && !copied
      ? {
          server: {
            url: values.url,
            ...(password ? { password } : {}),
            ...(schemas.length ? { schemas } : {}),
            ...(values.zone ? { zone: values.zone } : {}),
            ...(values.day ? { day: values.day } : {}),
            ...(values['even-superuser'] ? { evenSuperuser: true } : {}),
          },
        }
      : {}),
    folder: values.data ? resolve(base, values.data) : dataFolder(),
  }
}

/** A file, or the files of a folder that become tables. */
function filesAt(path: string): string[] {
  if (!existsSync(path)) throw new UsageError(`There is nothing at ${path}; name a folder or a file with --files.`)
  if (!statSync(path).isDirectory()) return [path]
  const found = readdirSync(path)
    .filter(each => becomesTable(each) || isArchive(each))
    .sort()
    .map(each => join(path, each))
  if (!found.length) throw new UsageError(`The folder ${path} has no files that become tables (${endingWords}).`)
  return found
}

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
  async add(name: string, files: readonly string[]): Promise<AddedSource> {
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
    return this.send<AddedSource>('/api/sources', { name, files: brought.map(({ id }) => ({ id })) })
  }

  connect(name: string, said: SaidServer): Promise<AddedServer> {
    return this.send<AddedServer>('/api/servers', { name, ...said })
  }

  copy(name: string, said: SaidCopy): Promise<AddedSource> {
    return this.send<AddedSource>('/api/copies', { name, ...said })
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

/** estante source …: each line that it writes is one JSON object. @throws UsageError or StoreError with one sentence */
export async function sourceCommand(args: string[]): Promise<void> {
  const { what, name, files, server: said, copy: copied, evenSo, folder } = readOrder(args)
  const address = holderOf(folder)?.address
  const server = address ? new ByServer(address) : undefined
  const write = (line: object) => process.stdout.write(`${JSON.stringify(line)}\n`)
  if (what === 'list') {
    const list = server
      ? await server.ask<SourceInfo[]>('/api/sources')
      : await here(folder, estante => estante.sources.list().map(each => ({ id: each.id, name: each.name, kind: each.kind })))
    for (const { id, name: called, kind } of list) if (kind !== namedKind) write({ id, name: called, kind })
    return
  }
  if (what === 'refresh' || what === 'check') {
    const list = server
      ? await server.ask<SourceInfo[]>('/api/sources')
      : await here(folder, estante => estante.sources.list().map(each => ({ id: each.id, name: each.name })))
    const found = list.find(each => each.name.toLowerCase() === name.trim().toLowerCase())
    if (!found)
      throw new UsageError(
        `There is no source “${name}”${suggestion(
          name,
          list.map(each => each.name),
        )}; see estante source list.`,
      )
    if (what === 'refresh') {
      const state = server
        ? await server.refresh(found.id, evenSo)
        : await here(folder, async estante => {
            await estante.copies.refresh(context, found.id, { evenSo })
            return estante.copies.generations(context, found.id)
          })
      write({
        source: found.name,
        id: found.id,
        generation: state.generation,
        rows: state.generations[0]!.rows,
        at: state.generations[0]!.at,
      })
      return
    }
    const checked = server
      ? await server.ask<SourceCheck>(`/api/sources/${encodeURIComponent(found.id)}/check`)
      : await here(folder, estante => checkSource(context, estante, found.id))
    write({ source: found.name, id: found.id, ...checked })
    return
  }
  if (copied) {
    const wanted = await withPassword(copied)
    const added = server
      ? await server.copy(name, wanted)
      : await here(folder, async estante => ({ name: name.trim(), ...(await estante.copies.add(context, name, wanted)) }))
    write({ source: added.name, id: added.id, tables: added.tables })
    return
  }
  if (said) {
    const wanted = await withPassword(said)
    const added = server
      ? await server.connect(name, wanted)
      : await here(folder, async estante => {
          const { id, tried } = await estante.addServer(context, name, wanted)
          const { catalog } = await estante.sources.catalog(id)
          return { id, name: name.trim(), tried, tables: catalog.tables.length }
        })
    write({ source: added.name, id: added.id, tables: added.tables, version: added.tried.version, notes: added.tried.notes })
    return
  }
  const added = server
    ? await server.add(name, files)
    : await here(folder, async estante => {
        const given = await Promise.all(files.map(path => givenFiles(path)))
        try {
          return { name: name.trim(), ...(await estante.addFiles(context, name, given.flat())) }
        } finally {
          for (const [at, path] of files.entries()) if (isArchive(path)) for (const each of given[at]!) rmSync(each.path, { force: true })
        }
      })
  write({ source: added.name, id: added.id, tables: added.tables })
}
