import { createReadStream, existsSync, readdirSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, extname, join, resolve } from 'node:path'
import { createInterface } from 'node:readline/promises'
import { Readable, Writable } from 'node:stream'
import { parseArgs } from 'node:util'
import type { SourceInfo } from '../core/api/answers'
import type { AddedServer, AddedSource, BroughtFile } from '../core/api/intake'
import { suggestion } from '../core/value/suggestion'
import type { Context } from '../server/access/context'
import { dataFolder, type Estante, openEstante } from '../server/estante'
import { fileEndings } from '../server/sources/files/kinds'
import { FileFault } from '../server/sources/files/kinds/kind'
import type { GivenFile } from '../server/sources/files/take.worker'
import { isArchive, unpack } from '../server/sources/files/unpack'
import { AddressError, readAddress } from '../server/sources/postgres/address'
import type { SaidServer } from '../server/sources/postgres/addServer'
import { holderOf } from '../server/store/lock'
import { UsageError } from './usage'

const usage =
  'estante source add "<name>" --files <folder or file> [--files …] or --url postgresql://user@host/database [--schema a,b], or ' +
  'estante source list, each with [--data <folder>]'
const context: Context = { person: 'command line' }

interface Order {
  what: 'add' | 'list'
  name: string
  files: string[]
  server?: SaidServer
  folder: string
}

const options = {
  files: { type: 'string', multiple: true, default: [] as string[] },
  url: { type: 'string' },
  schema: { type: 'string', multiple: true, default: [] as string[] },
  zone: { type: 'string' },
  day: { type: 'string' },
  'even-superuser': { type: 'boolean', default: false },
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
  if (what !== 'add' && what !== 'list')
    throw new UsageError(`There is no command “source ${what}”${suggestion(what, ['add', 'list'])}. It is written: ${usage}`)
  if (what === 'add' && (!name || rest.length))
    throw new UsageError(`Give the source one name, in quotes if it has spaces. It is written: ${usage}`)
  const base = process.env.INIT_CWD ?? process.cwd()
  const files = values.files.flatMap(each => filesAt(resolve(base, each)))
  if (what === 'add' && !files.length === !values.url)
    throw new UsageError(`Say which files with --files, or which server with --url. It is written: ${usage}`)
  const schemas = values.schema.flatMap(each => each.split(',')).filter(Boolean)
  const password = process.env.ESTANTE_PASSWORD
  return {
    what,
    name,
    files,
    ...(values.url
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
    .filter(each => fileEndings.includes(extname(each).toLowerCase()) || isArchive(each))
    .sort()
    .map(each => join(path, each))
  if (!found.length) throw new UsageError(`The folder ${path} has no files that become tables (${fileEndings.join(', ')}).`)
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

/** What the answer of a server brings; its cookie says who asks. */
class ByServer {
  private cookie = ''
  constructor(private readonly address: string) {}

  async ask<T>(path: string, init: RequestInit = {}): Promise<T> {
    const response = await fetch(new URL(path, this.address), {
      ...init,
      headers: { origin: new URL(this.address).origin, ...(this.cookie ? { cookie: this.cookie } : {}), ...(init.headers as object) },
    })
    this.cookie ||= response.headers.get('set-cookie')?.split(';')[0] ?? ''
    const answer = (await response.json().catch(() => ({}))) as T & { message?: string }
    if (!response.ok) throw new UsageError(answer.message ?? `The server at ${this.address} answered ${response.status}.`)
    return answer
  }

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

  private send<T>(path: string, body: object): Promise<T> {
    return this.ask<T>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  }
}

/** A password that was neither in the address nor in the environment is asked for, unseen. */
async function withPassword(said: SaidServer): Promise<SaidServer> {
  try {
    if (said.password !== undefined || readAddress(said.url).password !== undefined || !process.stdin.isTTY) return said
  } catch (error) {
    throw error instanceof AddressError ? new UsageError(error.message) : error
  }
  process.stderr.write('Password: ')
  const silent = new Writable({ write: (_chunk, _encoding, done) => done() })
  const asking = createInterface({ input: process.stdin, output: silent, terminal: true })
  const password = await asking.question('')
  asking.close()
  process.stderr.write('\n')
  return password ? { ...said, password } : said
}

async function here<T>(folder: string, work: (estante: Estante) => Promise<T> | T): Promise<T> {
  const estante = await openEstante({
    folder,
    scale: Number(process.env.ESTANTE_SCALE ?? 1),
    ...(process.env.DATABASE_URL ? { databaseUrl: process.env.DATABASE_URL } : {}),
  })
  try {
    return await work(estante)
  } finally {
    await estante.close()
  }
}

/** estante source …: each line that it writes is one JSON object. @throws UsageError or StoreError with one sentence */
export async function sourceCommand(args: string[]): Promise<void> {
  const { what, name, files, server: said, folder } = readOrder(args)
  const address = holderOf(folder)?.address
  const server = address ? new ByServer(address) : undefined
  const write = (line: object) => process.stdout.write(`${JSON.stringify(line)}\n`)
  if (what === 'list') {
    const list = server
      ? await server.ask<SourceInfo[]>('/api/sources')
      : await here(folder, estante => estante.sources.list().map(each => ({ id: each.id, name: each.name, kind: each.kind })))
    for (const { id, name: called, kind } of list) write({ id, name: called, kind })
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
