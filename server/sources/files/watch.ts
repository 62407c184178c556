import { readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { type FSWatcher, watch } from 'chokidar'
import { becomesTable } from '../../../core/intake/endings'
import { type Context, ownContext } from '../../access/context'
import type { KeepingParts } from '../copies/generations'
import { filesRecord, isReplacing, takeAgain } from './addFiles'
import type { GivenFile } from './take.worker'

/** How long a file must stay as it is before it is taken in, and how often it is looked at meanwhile, in milliseconds. */
const still = { stabilityThreshold: 1500, pollInterval: 300 }

/** Files of a folder that become tables, with what tells them apart from what they were: size, and when they were written. */
export function filesIn(folder: string): Map<string, string> {
  const found = new Map<string, string>()
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (!entry.isFile() || !becomesTable(entry.name) || entry.name.startsWith('.')) continue
    const { size, mtimeMs } = statSync(join(folder, entry.name))
    found.set(entry.name, `${size} ${mtimeMs}`)
  }
  return found
}

/** Files that are read as was said of them before. */
function asBefore(folder: string, names: readonly string[], tables: Awaited<ReturnType<typeof filesRecord>>['record']['tables'] = {}) {
  return names.flatMap((name): GivenFile[] => {
    const known = Object.entries(tables).filter(([, origin]) => origin.file === name)
    const given = { path: join(folder, name), name }
    if (!known.length) return [given]
    return known.map(([table, { sheet, said }]) => ({ ...given, ...said, table, ...(sheet === undefined ? {} : { sheet }) }))
  })
}

/**
 * Takes in what has changed in the folder of a source since it was looked at last; a file that is gone leaves its table as it is. Comes
 * back with the names of the files. @throws StoreError with one sentence
 */
export async function lookAgain(context: Context, parts: KeepingParts, id: string, evenSo = false): Promise<string[]> {
  const { source, record } = await filesRecord(context, parts, id)
  if (!record.watch) return []
  const there = filesIn(record.watch)
  const changed = [...there].filter(([name, state]) => record.seen?.[name] !== state)
  if (!changed.length) return []
  const names = changed.map(([name]) => name)
  await takeAgain(context, parts, source.id, asBefore(record.watch, names, record.tables), { evenSo, seen: Object.fromEntries(changed) })
  return names
}

/** Watches the folders of sources of files. */
export class FolderWatches {
  private readonly known = new Map<string, { folder: string; watcher: FSWatcher }>()
  private closed = false
  private turn: Promise<void> = Promise.resolve()

  constructor(private readonly parts: KeepingParts) {}

  /** Watches what is to be watched now, and nothing else. */
  async renew(): Promise<void> {
    const wanted = new Map<string, string>()
    for (const { id, kind, options } of await this.parts.store.connections(ownContext))
      if (kind === 'files' && typeof options.watch === 'string') wanted.set(id, options.watch)
    for (const [id, { folder, watcher }] of this.known)
      if (wanted.get(id) !== folder) {
        this.known.delete(id)
        await watcher.close()
      }
    for (const [id, folder] of wanted) if (!this.known.has(id) && !this.closed) this.begin(id, folder)
  }

  private begin(id: string, folder: string): void {
    const watcher = watch(folder, { depth: 0, awaitWriteFinish: still, ignoreInitial: false })
    this.known.set(id, { folder, watcher })
    let timer: NodeJS.Timeout | undefined
    const look = () => {
      clearTimeout(timer)
      timer = setTimeout(() => this.look(id), 200)
    }
    watcher.on('add', look).on('change', look)
    watcher.on('error', () => {})
  }

  /** One after another; what could not be taken in is kept with the source, and looked at again when its folder changes. */
  private look(id: string): void {
    this.turn = this.turn.then(async () => {
      // whoever brings files by hand has their turn first
      while (!this.closed && isReplacing(id)) await new Promise(resolve => setTimeout(resolve, 300))
      if (this.closed || !this.known.has(id)) return
      await lookAgain(ownContext, this.parts, id).catch(() => {})
    })
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all([...this.known.values()].map(({ watcher }) => watcher.close()))
    await this.turn
  }
}
