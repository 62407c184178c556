import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'

/** A file or folder of the disk: what it surely holds, and what was written to it since the disk was last asked to keep it. */
interface Inode {
  folder: boolean
  content: Buffer
  pending: ({ from: number; data: Buffer } | { size: number })[]
}
type Naming = { op: 'create'; path: string; inode: Inode } | { op: 'remove'; path: string } | { op: 'rename'; path: string; to: string }

/** What recorder.cjs has written down. */
interface Entry {
  op: 'create' | 'folder' | 'write' | 'truncate' | 'sync' | 'rename' | 'remove'
  path: string
  to?: string
  from?: number
  size?: number
  length: number
  at: string
  data: Buffer
}

const pageSize = 4096

/**
 * A disk whose power can be cut. What was written and not kept may be there or not, page by page, and so may names of files; what was kept
 * is there (POSIX, fsync).
 */
export class Disk {
  /** names that are surely there, and those that a program sees */
  private kept = new Map<string, Inode>()
  private seen = new Map<string, Inode>()
  private namings: Naming[] = []

  /** All files of a folder, as kept. */
  static of(folder: string): Disk {
    const disk = new Disk()
    const visit = (path: string) => {
      for (const entry of readdirSync(join(folder, path), { withFileTypes: true })) {
        const own = path ? `${path}/${entry.name}` : entry.name
        if (/\.(sound|set-aside)/.test(own)) continue
        const content = entry.isFile() ? readFileSync(join(folder, own)) : Buffer.alloc(0)
        disk.kept.set(own, { folder: entry.isDirectory(), content, pending: [] })
        if (entry.isDirectory()) visit(own)
      }
    }
    visit('')
    disk.seen = new Map(disk.kept)
    return disk
  }

  /** What a program has done, from its logs, up to where they were cut off. */
  play(logs: string): void {
    const entries = readdirSync(logs).flatMap(file => readLog(join(logs, file)))
    entries.sort((a, b) => (BigInt(a.at) < BigInt(b.at) ? -1 : 1))
    for (const entry of entries) this.take(entry)
  }

  private take(entry: Entry): void {
    const { op, path } = entry
    const inode = this.seen.get(path)
    switch (op) {
      case 'create':
      case 'folder': {
        const fresh: Inode = { folder: op === 'folder', content: Buffer.alloc(0), pending: [] }
        this.seen.set(path, fresh)
        this.namings.push({ op: 'create', path, inode: fresh })
        break
      }
      case 'write':
        inode?.pending.push({ from: entry.from!, data: entry.data })
        break
      case 'truncate':
        inode?.pending.push({ size: entry.size! })
        break
      case 'remove':
        for (const name of [...this.seen.keys()]) if (name === path || name.startsWith(`${path}/`)) this.seen.delete(name)
        this.namings.push({ op: 'remove', path })
        break
      case 'rename':
        moved(this.seen, path, entry.to!)
        this.namings.push({ op: 'rename', path, to: entry.to! })
        break
      case 'sync':
        if (path === '' || inode?.folder) this.keepNames(path)
        else if (inode) {
          for (const change of inode.pending) apply(inode, change)
          inode.pending = []
        }
    }
  }

  /** The names in a folder are kept, and with them, as in the journal of a file system, what was done before to the folders above. */
  private keepNames(folder: string): void {
    const own = (path: string) => (dirname(path) === '.' ? '' : dirname(path)) === folder
    const chosen = new Set<Naming>()
    const above = new Set<string>()
    for (const each of [...this.namings].reverse()) {
      const paths = 'to' in each ? [each.path, each.to] : [each.path]
      if (!paths.some(path => own(path) || above.has(path))) continue
      chosen.add(each)
      for (const path of paths) for (let at = path; at !== '.'; at = dirname(at)) above.add(at)
    }
    for (const each of this.namings) if (chosen.has(each)) this.name(each)
    this.namings = this.namings.filter(each => !chosen.has(each))
  }

  private name(each: Naming): void {
    if (each.op === 'create') this.kept.set(each.path, each.inode)
    else if (each.op === 'rename') moved(this.kept, each.path, each.to)
    else for (const name of [...this.kept.keys()]) if (name === each.path || name.startsWith(`${each.path}/`)) this.kept.delete(name)
  }

  /** The disk after its power was cut; `chance` says of each thing that was not kept whether it is there all the same. */
  cut(folder: string, chance: () => boolean): void {
    for (const each of this.namings) if (chance()) this.name(each)
    rmSync(folder, { recursive: true, force: true })
    mkdirSync(folder, { recursive: true })
    for (const [path, inode] of [...this.kept].sort(([a], [b]) => (a < b ? -1 : 1))) {
      const place = join(folder, path)
      if (inode.folder) {
        mkdirSync(place, { recursive: true })
        continue
      }
      const after: Inode = { folder: false, content: Buffer.from(inode.content), pending: [] }
      for (const change of inode.pending) {
        if ('size' in change) {
          if (chance()) apply(after, change)
          continue
        }
        for (let from = 0; from < change.data.length;) {
          const end = Math.min(change.data.length, from + pageSize - ((change.from + from) % pageSize))
          if (chance()) apply(after, { from: change.from + from, data: change.data.subarray(from, end) })
          from = end
        }
      }
      if (!existsSync(dirname(place))) continue
      writeFileSync(place, after.content)
    }
  }
}

function moved(names: Map<string, Inode>, from: string, to: string): void {
  for (const [name, inode] of [...names]) {
    if (name !== from && !name.startsWith(`${from}/`)) continue
    names.delete(name)
    names.set(to + name.slice(from.length), inode)
  }
}

function apply(inode: Inode, change: Inode['pending'][number]): void {
  const end = 'size' in change ? change.size : Math.max(inode.content.length, change.from + change.data.length)
  if (end !== inode.content.length) {
    const grown = Buffer.alloc(end)
    inode.content.copy(grown, 0, 0, Math.min(end, inode.content.length))
    inode.content = grown
  }
  if ('data' in change) change.data.copy(inode.content, change.from)
}

function readLog(file: string): Entry[] {
  const bytes = readFileSync(file)
  const entries: Entry[] = []
  for (let at = 0; at < bytes.length;) {
    const end = bytes.indexOf(10, at)
    if (end < 0) break
    const entry = JSON.parse(bytes.toString('utf8', at, end)) as Entry
    // the last one may have been cut off
    if (end + 1 + entry.length > bytes.length) break
    entry.data = bytes.subarray(end + 1, end + 1 + entry.length)
    entries.push(entry)
    at = end + 1 + entry.length
  }
  return entries
}
