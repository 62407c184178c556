import { randomUUID } from 'node:crypto'
import { existsSync, fsyncSync, mkdirSync, readdirSync, rmSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { PGlite, type PGliteOptions } from '@electric-sql/pglite'
import { NodeFS } from '@electric-sql/pglite/nodefs'
import { copyTree, copyTreeAside, needRoom, putInPlace, sizeOf, syncPath, syncTree } from './files'

/**
 * The embedded engine on a disk that can lose its power. By itself it never asks the disk to keep anything. Here it does as a PostgreSQL
 * server: its journal is on the disk before a change is acknowledged, pages are written whole after each checkpoint (PostgreSQL manual,
 * chapter 28), and names of files are kept with them.
 */

interface EngineModule {
  NODEFS: {
    realPath: (node: unknown) => string
    stream_ops: { fsync?: (stream: { nfd?: number; node: unknown }) => number }
    node_ops: { rename: (node: unknown, folder: unknown, name: string) => void }
  }
}

/** Files of the engine that the disk is asked to keep when the engine says so. */
class DurableFiles extends NodeFS {
  override async init(...asked: Parameters<NodeFS['init']>): ReturnType<NodeFS['init']> {
    const found = await super.init(...asked)
    const own = found.emscriptenOpts as { preRun?: ((module: EngineModule) => void)[] }
    own.preRun = [...(own.preRun ?? []), keepFiles]
    return found
  }
}

function keepFiles({ NODEFS }: EngineModule): void {
  // a file that is new stands in its folder for good only when the folder is kept too
  const named = new Set<string>()
  NODEFS.stream_ops.fsync = ({ nfd, node }) => {
    const path = NODEFS.realPath(node)
    if (nfd === undefined) syncPath(path)
    else {
      fsyncSync(nfd)
      if (!named.has(path)) syncPath(dirname(path))
      named.add(path)
    }
    return 0
  }
  const { rename } = NODEFS.node_ops
  NODEFS.node_ops.rename = (node, folder, name) => {
    const before = NODEFS.realPath(node)
    rename(node, folder, name)
    named.delete(before)
    const to = NODEFS.realPath(folder)
    named.delete(join(to, name))
    syncPath(to)
    if (dirname(before) !== to) syncPath(dirname(before))
  }
}

const setting = (name: string, value: string) => ['-c', `${name}=${value}`]
/** Without `-F`, by which the engine is told not to keep anything. */
const startParams = [
  ...PGlite.defaultStartParams.filter(each => each !== '-F'),
  ...setting('fsync', 'on'),
  ...setting('full_page_writes', 'on'),
  // the only way of asking that reaches the file layer
  ...setting('wal_sync_method', 'fsync'),
  // the journal since the copy before is there when a copy has to be opened
  ...setting('wal_keep_size', '256MB'),
  // sorts and joins of whole ledgers stay in memory: files are dear here
  ...setting('work_mem', '24MB'),
]

/** Options of an engine over a folder that is kept. */
const durableOptions = (folder: string): PGliteOptions => ({ fs: new DurableFiles(folder), startParams })

/** Copies are made of folders up to this size. */
const mostCopied = 400 * 2 ** 20
const copies = (folder: string) => [`${folder}.sound`, `${folder}.sound-before`]
/** Is there a copy of a folder to fall back on? */
export const isCopied = (folder: string): boolean => copies(folder).some(existsSync)
const making = (folder: string) => `${folder}.making`

/** Is there a folder that an engine can be opened on? */
export const isMade = (folder: string): boolean => existsSync(join(folder, 'PG_VERSION')) || copies(folder).some(existsSync)

/**
 * Makes a folder, all of it or nothing: a start that was cut off before leaves none behind. Nothing is kept on the way, all of it at the
 * end. `empty` is a folder that an engine with nothing in it is kept in, to be copied, since making one takes long; where it is not
 * there, it is made. `from` is one whose tables it begins with; whoever has that open only reads it.
 * @throws FullDiskError
 */
export async function makeFolder(
  folder: string,
  fill: (db: PGlite) => Promise<void>,
  { empty, from }: { empty?: string; from?: string } = {},
): Promise<void> {
  const place = making(folder)
  rmSync(place, { recursive: true, force: true })
  needRoom(folder, 56 * 2 ** 20 + (from ? sizeOf(from) : 0))
  mkdirSync(dirname(folder), { recursive: true })
  try {
    const db = from ? await fromOther(place, from) : empty ? await fromEmpty(place, empty) : await PGlite.create(place)
    try {
      await fill(db)
      await db.exec('checkpoint')
    } finally {
      await db.close().catch(() => {})
    }
    syncTree(place)
    putInPlace(place, folder)
  } catch (error) {
    rmSync(place, { recursive: true, force: true })
    throw error
  }
}

/** An engine on a copy of a folder that somebody may be reading: its journal makes up for what changes of it meanwhile. */
async function fromOther(place: string, from: string): Promise<PGlite> {
  for (let left = 2; ; left--)
    try {
      copyTree(from, place)
      break
    } catch (error) {
      // a file of a sort was there when the folder was looked through, and is not any more
      if (!left || (error as NodeJS.ErrnoException).code !== 'ENOENT') throw error
    }
  rmSync(join(place, 'postmaster.pid'), { force: true })
  clearTemporary(place)
  return PGlite.create(place)
}

/** An engine on a copy of an empty folder; on one of its own where that does not open. */
async function fromEmpty(place: string, empty: string): Promise<PGlite> {
  if (!existsSync(empty)) await keepEmpty(empty)
  try {
    copyTree(empty, place)
    return await PGlite.create(place)
  } catch {
    // of another version of the engine, or damaged
    for (const each of [empty, place]) rmSync(each, { recursive: true, force: true })
    return PGlite.create(place)
  }
}

async function keepEmpty(empty: string): Promise<void> {
  const own = `${empty}.${randomUUID()}`
  try {
    await (await PGlite.create(own)).close()
    rmSync(join(own, 'postmaster.pid'), { force: true })
    // whoever else made one meanwhile has made the same
    if (!existsSync(empty)) putInPlace(own, empty)
  } finally {
    rmSync(own, { recursive: true, force: true })
  }
}

/** An engine that is open, and what had to be done for it, in a sentence. */
export interface OpenedEngine {
  db: PGlite
  note?: string
}

/**
 * Opens a folder. One that does not open is set aside, and the last copy that does takes its place, with the journal since.
 * @throws FullDiskError, or the engine's fault where nothing opens
 */
export async function openFolder(folder: string): Promise<OpenedEngine> {
  needRoom(folder)
  rmSync(making(folder), { recursive: true, force: true })
  let fault: Error | undefined
  if (existsSync(join(folder, 'PG_VERSION'))) {
    try {
      return { db: await opened(folder) }
    } catch (error) {
      // a disk that has become full meanwhile is no fault of the folder
      needRoom(folder)
      fault = error as Error
    }
  }
  const aside = `${folder}.set-aside-${new Date().toISOString().replace(/[:.]/g, '-')}`
  if (existsSync(folder)) putInPlace(folder, aside)
  for (const copy of copies(folder).filter(existsSync)) {
    for (const journal of [join(aside, 'pg_wal'), undefined]) {
      if (journal && !existsSync(journal)) continue
      copyTree(copy, folder)
      if (journal) copyTree(journal, join(folder, 'pg_wal'))
      syncTree(folder)
      try {
        const db = await opened(folder)
        const lost = journal ? 'with all that its journal holds' : 'without what was written after it'
        return {
          db,
          note:
            `The folder ${folder} could not be opened (${fault?.message ?? 'it was gone'}) and was set aside as ${aside}; its last sound ` +
            `copy was opened instead, ${lost}.`,
        }
      } catch {
        rmSync(folder, { recursive: true, force: true })
      }
    }
  }
  if (existsSync(aside)) putInPlace(aside, folder)
  throw new Error(
    `The folder ${folder} cannot be opened (${fault?.message ?? 'it is gone'}), and there is no sound copy of it; put a backup in its ` +
      `place, or set it aside to begin with an empty one.`,
  )
}

async function opened(folder: string): Promise<PGlite> {
  // the process that holds the data folder holds this one too: whatever stands in it of an engine before is left over
  rmSync(join(folder, 'postmaster.pid'), { force: true })
  clearTemporary(folder)
  const db = await PGlite.create(durableOptions(folder))
  try {
    const { rows } = await db.query<{ one: number }>('select 1 as one')
    if (rows[0]?.one !== 1) throw new Error('it gives no answer')
    return db
  } catch (error) {
    await db.close().catch(() => {})
    throw error
  }
}

/** What sorts of an engine that was ended have left on the disk. */
function clearTemporary(folder: string): void {
  for (const base of [join(folder, 'base'), join(folder, 'pg_tblspc')])
    if (existsSync(base))
      for (const name of readdirSync(base)) if (name === 'pgsql_tmp') rmSync(join(base, name), { recursive: true, force: true })
}

/** A copy of an open folder as it is at this moment: its engine answers nobody meanwhile, while this thread goes on. */
export async function keepCopy(db: PGlite, folder: string): Promise<void> {
  const [last, before] = copies(folder) as [string, string]
  const size = sizeOf(folder)
  if (size > mostCopied) return
  needRoom(folder, size + 64 * 2 ** 20)
  const fresh = `${last}.new`
  await db.exec('checkpoint')
  await db.runExclusive(() => copyTreeAside(folder, fresh))
  rmSync(join(fresh, 'postmaster.pid'), { force: true })
  rmSync(before, { recursive: true, force: true })
  if (existsSync(last)) putInPlace(last, before)
  putInPlace(fresh, last)
}

/** Bytes of journal after which a copy is made anew: fewer than are kept. */
export const journalPerCopy = 128 * 2 ** 20

/** How far the journal has come, in bytes. */
export async function journalPlace(db: PGlite): Promise<number> {
  const { rows } = await db.query<{ place: string }>("select (pg_current_wal_lsn() - '0/0')::text as place")
  return Number(rows[0]!.place)
}

/** Has an engine come to its end, so that it must be opened anew? */
export function isDead(error: unknown): boolean {
  if (error instanceof WebAssembly.RuntimeError) return true
  const { message = '', cause } = (error ?? {}) as Error
  return (
    /Aborted\(|PANIC|unreachable|memory access out of bounds|PGlite is closed|table index is out of bounds/.test(message) ||
    (cause ? isDead(cause) : false)
  )
}
