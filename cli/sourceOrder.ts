import { existsSync, readdirSync, statSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { becomesTable, endingWords, isArchive } from '../core/intake/endings'
import { suggestion } from '../core/value/suggestion'
import { dataFolder } from '../server/estante'
import type { SaidCopy } from '../server/sources/copies/addCopy'
import type { SaidServer } from '../server/sources/postgres/addServer'
import { UsageError } from './usage'

const usage =
  'estante source add "<name>" --files <folder or file> [--files …], or --url postgresql://user@host/database [--schema a,b], or ' +
  '--url mysql://user@host/database --copy [--tables a,b] [--grows table.column]; estante source list; estante source refresh "<name>" ' +
  '[--files <folder or file>] [--even-so]; estante source check "<name>"; estante source settings "<name>" [--from <file>]; each with ' +
  '[--data <folder>]; a folder that is added with --watch is looked at again when its files change'

const commands = ['add', 'list', 'refresh', 'check', 'settings'] as const

/** What is asked of the command. */
export interface Order {
  what: (typeof commands)[number]
  name: string
  files: string[]
  /** the folder of the files, whose changes are taken in */
  watch?: string
  /** a file with the settings that a source is to have */
  from?: string
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
  grows: { type: 'string', multiple: true, default: [] as string[] },
  watch: { type: 'boolean', default: false },
  from: { type: 'string' },
  tables: { type: 'string', multiple: true, default: [] as string[] },
  zone: { type: 'string' },
  day: { type: 'string' },
  'even-superuser': { type: 'boolean', default: false },
  'even-so': { type: 'boolean', default: false },
  data: { type: 'string' },
} as const

/** Reads what stands behind `estante source`. @throws UsageError */
export function readOrder(args: string[]): Order {
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
  const grows = Object.fromEntries(values.grows.map(growing))
  if (values.grows.length && !copied) throw new UsageError(`--grows is for copies of databases. It is written: ${usage}`)
  const [watched, ...more] = values.files.map(each => resolve(base, each))
  if (values.watch && (more.length || !watched || !statSync(watched).isDirectory()))
    throw new UsageError(`--watch is for one folder, which --files names. It is written: ${usage}`)
  return {
    ...(values.watch ? { watch: watched! } : {}),
    ...(values.from ? { from: resolve(base, values.from) } : {}),
    what: command,
    evenSo: values['even-so'],
    name,
    files,
    ...(copied
      ? {
          copy: {
            url: values.url!,
            ...(password ? { password } : {}),
            ...(tables.length ? { tables } : {}),
            ...(values.grows.length ? { grows } : {}),
          },
        }
      : {}),
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

/** The table and the column of `--grows table.column`. @throws UsageError */
function growing(said: string): [string, string] {
  const at = said.lastIndexOf('.')
  if (at < 1 || at === said.length - 1) throw new UsageError(`“--grows ${said}” names no column; write --grows table.column.`)
  return [said.slice(0, at), said.slice(at + 1)]
}
