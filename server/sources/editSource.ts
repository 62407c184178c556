import type { SourceConnection, TriedServer } from '../../core/api/intake'
import { placeOf, type ServerPlace } from '../../core/intake/serverPlace'
import { type Context, ownContext } from '../access/context'
import { type Connection, StoreError } from '../store/records'
import { adapterFor, type CopyRecord, openedSecret, type SaidCopy, triedCopy } from './copies/addCopy'
import { type Foreign, plainAddress } from './copies/adapter'
import { whyWhole } from './copies/changed'
import { CopySource } from './copies/copySource'
import { type ChangeWords, type KeepingParts, refuseLacking } from './copies/generations'
import { filesRecord } from './files/addFiles'
import { watchable } from './files/watchable'
import { namedKind, type NamedOptions, NamedSource, plainId, type Within } from './namedSource'
import { sourceName } from './naming'
import { recordOfServer, type SaidServer, type ServerRecord, serverSource, triedServer } from './postgres/addServer'

/** What somebody says of a source that is there, against what is kept of it. */
export interface SaidEdit {
  name: string
  /** of a server or a database that is copied; with the password that is kept where the place is the same and none is said */
  server?: SaidServer
  copy?: SaidCopy
  /** of files: a folder of this machine that is watched; empty: none */
  watch?: string
  /** it is changed though reports would break */
  evenSo?: boolean
}

const changeWords: ChangeWords = { undone: 'The connection stays as it was', same: 'change it' }

async function connectionOf(context: Context, { store, sources }: KeepingParts, id: string): Promise<Connection> {
  const source = sources.get(id)
  const found = (await store.connections(context)).find(each => each.id === source.id)
  if (!found || found.kind === namedKind)
    throw new StoreError(`“${source.name}” belongs to the program and cannot be changed; connect a source of your own.`, 422)
  return found
}

/** The address of a server that is kept, without its password. */
function urlOf({ address: { host, port, database, user, tls } }: ServerRecord): string {
  const socket = host.startsWith('/')
  const mode = { off: 'disable', encrypted: 'require', checked: 'verify-full' }[tls]
  const query = new URLSearchParams({ ...(socket ? { host, port: String(port) } : {}), sslmode: mode })
  const where = socket ? '' : `${host.includes(':') ? `[${host}]` : host}:${port}`
  return `postgresql://${encodeURIComponent(user)}@${where}/${encodeURIComponent(database)}?${query}`
}

/** What is kept of a connection, without anything secret. @throws StoreError */
export async function keptConnection(context: Context, parts: KeepingParts, id: string): Promise<SourceConnection> {
  const { name, kind, options } = await connectionOf(context, parts, id)
  if (kind === 'server') {
    const record = options as unknown as ServerRecord
    return { name, kind, url: urlOf(record), schemas: record.schemas, zone: record.zone, day: record.day ?? '' }
  }
  if (kind === 'copy') {
    const record = options as unknown as CopyRecord
    const { url } = openedSecret(parts, id, record)
    return { name, kind, url: withoutPassword(url), ...(record.tables ? { tables: record.tables } : {}), grows: record.grows ?? {} }
  }
  const { record } = await filesRecord(context, parts, id)
  return { name, kind: 'files', watch: record.watch ?? '', tables: record.tables ?? {} }
}

const withoutPassword = (url: string) => url.replace(/^([a-z]+:\/\/[^/@:]*):[^/]*@/i, '$1@')

/** How a connection is guarded, whatever word says so; without one it is checked, but for this machine. */
function guardOf({ host, encryption }: ServerPlace): 'off' | 'encrypted' | 'checked' {
  if (host.startsWith('/') || encryption === 'disable' || encryption === 'off') return 'off'
  if (encryption) return encryption === 'require' ? 'encrypted' : 'checked'
  return ['localhost', '127.0.0.1', '::1'].includes(host) ? 'off' : 'checked'
}

/** The place is the same, whose password is kept, and nobody hears it on the way who did not before. */
function samePlace(one: string, other: string): boolean {
  const [a, b] = [placeOf(one), placeOf(other)]
  return !!a && !!b && a.host === b.host && a.port === b.port && a.user === b.user && guardOf(a) === guardOf(b)
}

/**
 * What is said, with the password that is kept: it only ever goes to where it was given for. The certificate of an authority stays too.
 */
async function withKept<T extends SaidServer | SaidCopy>(context: Context, parts: KeepingParts, id: string, said: T): Promise<T> {
  const { kind, options } = await connectionOf(context, parts, id)
  if (said.password || placeOf(said.url)?.password) return said
  if (kind === 'server') {
    const record = options as unknown as ServerRecord
    if (!record.secret || !samePlace(said.url, urlOf(record))) return said
    return { ...said, password: parts.secrets.open(id, record.secret) }
  }
  const kept = openedSecret(parts, id, options as unknown as CopyRecord)
  const password = kept.password ?? placeOf(kept.url)?.password
  return password && samePlace(said.url, kept.url) ? { ...said, password } : said
}

/** What is to be found at a place that a source is to have from now on. @throws StoreError with one sentence */
export async function triedEdit(
  context: Context,
  parts: KeepingParts,
  id: string,
  said: SaidServer,
): Promise<{ server: TriedServer } | { copy: Foreign }> {
  const { id: own } = parts.sources.get(id)
  const { kind } = await connectionOf(context, parts, own)
  const whole = await withKept(context, parts, own, said)
  return kind === 'server' ? { server: await triedServer(whole) } : { copy: await triedCopy(context, whole) }
}

/**
 * Changes a source that somebody has added. A server is tried and its tables are read before anything is kept; where reports would break
 * it stays as it was. What is copied from now on is copied with the next refresh. @throws StoreError with one sentence
 */
export async function editSource(context: Context, parts: KeepingParts, within: Within, id: string, said: SaidEdit): Promise<void> {
  const { id: own } = parts.sources.get(id)
  const connection = await connectionOf(context, parts, own)
  const name = sourceName(parts.sources, said.name, own)
  const needed = (what: unknown) => {
    if (!what) throw new StoreError(`“${connection.name}” is a source of another kind; read it again and change it then.`, 422)
  }
  if (connection.kind === 'server') {
    needed(said.server)
    await editServer(context, parts, { ...connection, name }, said.server!, said.evenSo === true)
  } else if (connection.kind === 'copy') {
    needed(said.copy)
    await editCopy(context, parts, { ...connection, name }, said.copy!)
  } else {
    const { source, record } = await filesRecord(context, parts, own)
    const { watch: _, ...rest } = record
    const watch = said.watch?.trim() ? { watch: watchable(said.watch, parts.folder) } : {}
    await parts.store.reconnect(context, own, { ...rest, ...watch }, name)
    source.name = name
  }
  for (const each of await parts.store.connections(context)) {
    if (plainId(each.id) !== own || each.id === own) continue
    await parts.store.reconnect(context, each.id, each.options, name)
    parts.sources.replace(new NamedSource(each.id, name, each.options as NamedOptions, within))
  }
}

async function editServer(context: Context, parts: KeepingParts, connection: Connection, said: SaidServer, evenSo: boolean): Promise<void> {
  const { id, name } = connection
  const before = connection.options as unknown as ServerRecord
  const { record } = await recordOfServer(id, parts.secrets, await withKept(context, parts, id, said))
  if (!record.address.authority && before.address.authority && record.address.host === before.address.host)
    record.address.authority = before.address.authority
  const source = serverSource({ ...connection, options: record as unknown as Record<string, unknown> }, parts.folder, parts.secrets)
  try {
    const after = await source.catalog(context)
    if (!evenSo) {
      const { catalog } = await parts.sources.catalog(ownContext, id)
      await refuseLacking(context, parts, id, { before: catalog, after }, changeWords)
    }
    await parts.store.reconnect(context, id, record, name)
  } catch (error) {
    await source.close()
    throw error
  }
  parts.sources.replace(source)
}

async function editCopy(context: Context, parts: KeepingParts, { id, name, options }: Connection, said: SaidCopy): Promise<void> {
  const record = options as unknown as CopyRecord
  const whole = await withKept(context, parts, id, said)
  const { kind } = adapterFor(whole)
  const { tables } = await triedCopy(context, whole)
  const missing = said.tables?.find(table => !tables.some(each => each.name === table))
  if (missing !== undefined) throw new StoreError(`There is no table “${missing}” that may be read; leave it out.`, 422)
  for (const [table, column] of Object.entries(said.grows ?? {})) {
    const found = tables.find(each => each.name === table)
    const why = found ? whyWhole(found, column) : `There is no table “${table}” among those that are copied.`
    if (why) throw new StoreError(why, 422)
  }
  const { tables: _, grows: __, ...rest } = record
  const changed: CopyRecord = {
    ...rest,
    adapter: kind,
    from: plainAddress(said.url),
    secret: parts.secrets.seal(id, JSON.stringify({ url: whole.url, password: whole.password })),
    ...(said.tables?.length ? { tables: said.tables } : {}),
    ...(said.grows && Object.keys(said.grows).length ? { grows: said.grows } : {}),
  }
  await parts.store.reconnect(context, id, changed, name)
  const source = parts.sources.get(id)
  if (source instanceof CopySource) Object.assign(source, { name, from: changed.from })
}
