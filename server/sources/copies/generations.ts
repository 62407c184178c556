import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { SourceCheck } from '../../../core/api/answers'
import type { Catalog } from '../../../core/books/catalog'
import { type Context, ownContext } from '../../access/context'
import { sizeOf } from '../../engine/files'
import { type Connection, StoreError } from '../../store/records'
import type { Secrets } from '../../store/secrets'
import type { Store } from '../../store/store'
import { newlyLacking } from '../checkSource'
import { newSource } from '../naming'
import type { Sources } from '../sources'
import type { CopySource } from './copySource'
import { copiesServer, type Kept, type KeptTable, type Place, placeOfGeneration } from './place'
import { dropSchema, schemaSize } from './target'

/** What is kept of a source whose tables are made generation by generation. */
export interface KeptRecord {
  generation: number
  generations: Kept[]
  /** why the last refresh failed, and when */
  failed?: { at: string; why: string }
}

/** Generations that can be gone back to, the present one among them. */
const mostKept = 3

/** What generations are made with. */
export interface KeepingParts {
  store: Store
  sources: Sources
  secrets: Secrets
  /** folder of all sources */
  folder: string
}

/** The record of generations of a source that was added before there were several of its kind. */
export function keptRecord(options: Record<string, unknown>): KeptRecord {
  const { generation, generations, takenAt, failed } = options as unknown as KeptRecord & { takenAt?: string }
  return {
    generation: Number(generation),
    generations: generations ?? [{ number: Number(generation), at: String(takenAt), rows: 0 }],
    ...(failed ? { failed } : {}),
  }
}

export const placeOf = (folder: string, id: string, { number, server }: Pick<Kept, 'number' | 'server'>): Place =>
  placeOfGeneration(folder, id, number, server ? (copiesServer() ?? '') : undefined)

/** Numbers of generations whose folders are there, the newest first. */
function generationsIn(folder: string): number[] {
  if (!existsSync(folder)) return []
  return readdirSync(folder)
    .flatMap(name => (/^g\d+$/.test(name) ? [Number(name.slice(1))] : []))
    .sort((a, b) => b - a)
}

/** Takes all but some generations off the disk, with what was kept beside their folders. */
function removeOthers(folder: string, kept: readonly number[]): void {
  if (!existsSync(folder)) return
  for (const name of readdirSync(folder)) {
    const number = Number(/^g(\d+)/.exec(name)?.[1] ?? NaN)
    if (!Number.isNaN(number) && !kept.includes(number)) rmSync(join(folder, name), { recursive: true, force: true })
  }
}

/** What was made at a place goes. A server that cannot be asked now keeps it. */
export async function removePlace(place: Place): Promise<void> {
  if (place.kind === 'folder') for (const each of [place.folder, `${place.folder}.making`]) rmSync(each, { recursive: true, force: true })
  else await dropSchema(place).catch(() => {})
}

/** In the folder of a source that is being added: the schema of the server in which its first generation is made. */
const madeOnServer = (own: string) => join(own, 'made-on-server')

/** Folders of sources that were being added when the program was ended, with what they had on the server that keeps copies. */
export async function clearUnfinished(folder: string, known: readonly string[]): Promise<void> {
  for (const name of readdirSync(folder)) {
    const own = join(folder, name)
    const unfinished = /-[0-9a-f]{8}$/.test(name) && !known.includes(name)
    if (!unfinished && !name.startsWith('.empty.')) continue
    const mark = madeOnServer(own)
    if (existsSync(mark)) {
      const address = copiesServer()
      const dropped = address && dropSchema({ kind: 'server', address, schema: readFileSync(mark, 'utf8') }).then(() => true)
      // a server that cannot be asked now is asked when the program is started again
      if (!dropped || !(await dropped.catch(() => false))) continue
    }
    rmSync(own, { recursive: true, force: true })
  }
}

/** A source that is to be added. */
interface FirstOf<M extends Made> {
  name: string
  kind: Connection['kind']
  open: (connection: Connection, folder: string) => CopySource
  /** what is kept of it beside its generations */
  more: (made: M, id: string) => object
}

/**
 * Makes the first generation of a new source: the source is there, with all of its tables, or nothing is.
 * @throws StoreError with one sentence
 */
export async function firstGeneration<M extends Made>(
  context: Context,
  { store, sources, folder }: KeepingParts,
  { name, kind, open, more }: FirstOf<M>,
  make: (place: Place) => Promise<M>,
): Promise<{ id: string; made: M }> {
  const { id, name: wanted } = newSource(sources, name)
  const own = join(folder, id)
  const place = placeOfGeneration(own, id, 1, copiesServer())
  const at = new Date()
  try {
    if (place.kind === 'server') {
      mkdirSync(own, { recursive: true })
      writeFileSync(madeOnServer(own), place.schema)
    }
    const made = await make(place)
    const options = { ...more(made, id), generation: 1, generations: [await keptOf(1, at, place, made)] }
    const connection: Connection = { id, name: wanted, kind, options }
    const source = open(connection, folder)
    await source.open()
    await store.connect(context, connection)
    sources.add(source)
    rmSync(madeOnServer(own), { force: true })
    return { id, made }
  } catch (error) {
    await removePlace(place)
    rmSync(own, { recursive: true, force: true })
    throw error
  }
}

/** All generations of a source go, and its folder. */
export async function removeGenerations(folder: string, id: string, generations: readonly Kept[]): Promise<void> {
  for (const each of generations) if (each.server) await removePlace(placeOf(folder, id, each))
  rmSync(folder, { recursive: true, force: true })
}

/** The database has changed so that reports would break: nothing is put in place unless somebody wants it all the same. */
class LackingError extends StoreError {
  constructor(lacking: SourceCheck['reports'], { undone, same }: ChangeWords) {
    const [first, ...more] = lacking
    const others = more.length ? `, and ${more.length} more ${more.length === 1 ? 'report' : 'reports'}` : ''
    super(
      `${undone}, because “${first!.name}” would break (${first!.problems[0]!.replace(/\.$/, '')})${others}; ` +
        `change what reports read, or ${same} all the same.`,
      409,
    )
  }
}

/** How a change of a source's tables is spoken of. */
export interface ChangeWords {
  /** begins the sentence: “The refresh was not put in place” */
  undone: string
  /** what can be done all the same: “refresh” */
  same: string
}

/** @throws StoreError where reports would break that do not with the tables that are there */
export async function refuseLacking(
  context: Context,
  parts: Pick<KeepingParts, 'store' | 'sources'>,
  id: string,
  tables: { before: Catalog; after: Catalog },
  words: ChangeWords,
): Promise<void> {
  const lacking = await newlyLacking(context, parts, id, tables)
  if (lacking.length) throw new LackingError(lacking, words)
}

/** What was made: the tables of the new generation, all of them. */
export interface Made {
  tables: Record<string, KeptTable>
}

/** A generation that has just been made at a place. */
export async function keptOf(number: number, at: Date, place: Place, { tables }: Made): Promise<Kept> {
  return {
    number,
    at: at.toISOString(),
    rows: Object.values(tables).reduce((sum, table) => sum + table.rows, 0),
    bytes: place.kind === 'folder' ? sizeOf(place.folder) : await schemaSize(place),
    ...(place.kind === 'server' ? { server: true as const } : {}),
    tables,
  }
}

/** The source that is to have a generation more. */
interface NextOf<R extends KeptRecord> {
  source: CopySource
  record: R
  /** it is put in place though reports would break */
  evenSo: boolean
  words: ChangeWords
  /** it lies where the present one does, also where others would lie on a server by now */
  stays?: boolean
}

/**
 * Makes a generation more, which takes the place of the present one at once; where that fails, all stays as it was, and it is kept why.
 * @throws StoreError with one sentence
 */
export async function nextGeneration<R extends KeptRecord, M extends Made>(
  context: Context,
  parts: KeepingParts,
  { source, record, evenSo, words, stays = false }: NextOf<R>,
  make: (place: Place, before: { kept: Kept; place: Place }) => Promise<M>,
  change: (record: R, made: M) => R = each => each,
): Promise<{ generation: number; made: M }> {
  const own = join(parts.folder, source.id)
  const number = Math.max(record.generation, ...record.generations.map(each => each.number), ...generationsIn(own)) + 1
  const at = new Date()
  const { catalog: before } = await parts.sources.catalog(ownContext, source.id)
  const present = record.generations.find(each => each.number === record.generation)!
  const place = placeOfGeneration(own, source.id, number, stays && !present.server ? undefined : copiesServer())
  let made: M
  let kept: Kept
  try {
    made = await make(place, { kept: present, place: placeOf(own, source.id, present) })
    kept = await keptOf(number, at, place, made)
    await source.use(kept, after => (evenSo ? Promise.resolve() : refuseLacking(context, parts, source.id, { before, after }, words)))
  } catch (error) {
    await removePlace(place)
    const why = error instanceof Error ? error.message : String(error)
    if (!context.signal?.aborted) await parts.store.reconnect(context, source.id, { ...record, failed: { at: at.toISOString(), why } })
    throw error
  }
  const { failed: _, ...rest } = change(record, made)
  const generations = [kept, ...record.generations].slice(0, mostKept)
  await parts.store.reconnect(context, source.id, { ...rest, generation: number, generations })
  parts.sources.changed(source.id)
  // what somebody still reads stays until the refresh after
  const staying = [...generations.map(each => each.number), ...source.read()]
  removeOthers(own, staying)
  for (const each of record.generations) if (each.server && !staying.includes(each.number)) await removePlace(placeOf(own, source.id, each))
  return { generation: number, made }
}

/** Goes to another generation that is still kept. @throws StoreError with one sentence */
export async function useGeneration(
  context: Context,
  parts: KeepingParts,
  own: { source: CopySource; record: KeptRecord },
  number: number,
): Promise<void> {
  const { source, record } = own
  const kept = record.generations.find(each => each.number === number)
  if (!kept) throw new StoreError(`“${source.name}” has no generation ${number} any more; refresh it instead.`, 404)
  await source.use(kept)
  await parts.store.reconnect(context, source.id, { ...record, generation: number })
  parts.sources.changed(source.id)
}

/** From where on a server is advised (measured: what the embedded engine still opens and counts at once). */
const advisedFrom = { rows: 5_000_000, bytes: 2 * 2 ** 30 }

/** Says with figures that a copy outgrows the embedded engine; nothing where it does not. */
export function keepingAdvice({ server, tables = {}, bytes = 0 }: Kept, kind: string): string | undefined {
  if (server) return undefined
  const [largest] = Object.entries(tables).sort(([, a], [, b]) => b.rows - a.rows)
  const long = largest && largest[1].rows >= advisedFrom.rows
  if (!long && bytes < advisedFrom.bytes) return undefined
  const size = long
    ? `“${largest[0]}” has ${largest[1].rows.toLocaleString('en')} rows`
    : `These tables take ${(bytes / 2 ** 30).toFixed(1)} GB`
  return (
    `${size}; from ${(advisedFrom.rows / 1_000_000).toFixed(0)} million in a table or ${advisedFrom.bytes / 2 ** 30} GB on, copies are ` +
    `read faster on a PostgreSQL server: start Estante with ESTANTE_COPIES_URL=postgresql://… and ` +
    (kind === 'files' ? 'add the files as a new source, which lies there.' : 'refresh, and this one moves there.')
  )
}
