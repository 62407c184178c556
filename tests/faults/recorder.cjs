// Writes down what a program does to the files of a folder: what it writes, and what it asks the disk to keep. From that a disk can be put
// together as it may be after its power was cut (see disk.ts). Loaded before the program, in each of its threads.
const fs = require('node:fs')
const { syncBuiltinESMExports } = require('node:module')
const { join, resolve } = require('node:path')
const { threadId } = require('node:worker_threads')

const root = process.env.FAULTS_ROOT
const log = process.env.FAULTS_LOG && fs.openSync(join(process.env.FAULTS_LOG, `thread-${threadId}.log`), 'a')
const { writeSync, openSync } = fs
const paths = new Map()
const inside = path => {
  if (typeof path !== 'string' && !Buffer.isBuffer(path)) return undefined
  const own = resolve(String(path))
  return own === root || (own.startsWith(`${root}/`) && !/\.(sound|set-aside)/.test(own)) ? own.slice(root.length + 1) : undefined
}
const note = (entry, data) => {
  const head = Buffer.from(`${JSON.stringify({ ...entry, length: data ? data.length : 0, at: process.hrtime.bigint().toString() })}\n`)
  writeSync(log, data ? Buffer.concat([head, data]) : head)
}

if (log) {
  const { closeSync, ftruncateSync, fsyncSync, mkdirSync, renameSync, rmSync, rmdirSync, truncateSync, unlinkSync, existsSync } = fs
  fs.openSync = (path, flags, ...rest) => {
    const own = inside(path)
    const fresh = own !== undefined && !existsSync(path)
    const fd = openSync(path, flags, ...rest)
    if (own !== undefined) {
      paths.set(fd, own)
      if (fresh) note({ op: 'create', path: own })
      const truncates = typeof flags === 'number' ? (flags & fs.constants.O_TRUNC) !== 0 : /w/.test(String(flags))
      if (truncates && !fresh) note({ op: 'truncate', path: own, size: 0 })
    }
    return fd
  }
  fs.closeSync = fd => {
    paths.delete(fd)
    return closeSync(fd)
  }
  fs.writeSync = (fd, buffer, ...rest) => {
    const own = paths.get(fd)
    const [offset = 0, length, position] = rest
    const wrote = writeSync(fd, buffer, ...rest)
    if (own !== undefined && typeof buffer !== 'string') {
      const bytes = Buffer.from(buffer.buffer ?? buffer, (buffer.byteOffset ?? 0) + offset, wrote)
      if (typeof position !== 'number') throw new Error('The recorder knows writes at a place only.')
      note({ op: 'write', path: own, from: position }, bytes)
    } else if (own !== undefined) note({ op: 'write', path: own, from: 0 }, Buffer.from(buffer))
    return length === undefined ? wrote : wrote
  }
  const writeFileSync = fs.writeFileSync
  fs.writeFileSync = (path, data, ...rest) => {
    const own = inside(path)
    const fresh = own !== undefined && !existsSync(path)
    writeFileSync(path, data, ...rest)
    if (own === undefined) return
    note(fresh ? { op: 'create', path: own } : { op: 'truncate', path: own, size: 0 })
    note({ op: 'write', path: own, from: 0 }, Buffer.from(data))
  }
  fs.ftruncateSync = (fd, size = 0) => {
    ftruncateSync(fd, size)
    if (paths.has(fd)) note({ op: 'truncate', path: paths.get(fd), size })
  }
  fs.truncateSync = (path, size = 0) => {
    truncateSync(path, size)
    const own = typeof path === 'number' ? paths.get(path) : inside(path)
    if (own !== undefined) note({ op: 'truncate', path: own, size })
  }
  fs.fsyncSync = fd => {
    fsyncSync(fd)
    if (paths.has(fd)) note({ op: 'sync', path: paths.get(fd) })
  }
  fs.renameSync = (from, to) => {
    renameSync(from, to)
    const [a, b] = [inside(from), inside(to)]
    if (a !== undefined && b !== undefined) note({ op: 'rename', path: a, to: b })
    else if (a !== undefined) note({ op: 'remove', path: a })
  }
  for (const [name, plain] of Object.entries({ unlinkSync, rmdirSync, rmSync }))
    fs[name] = (path, ...rest) => {
      const own = inside(path)
      const there = own !== undefined && existsSync(path)
      plain(path, ...rest)
      if (there) note({ op: 'remove', path: own })
    }
  fs.mkdirSync = (path, ...rest) => {
    const fresh = !existsSync(path)
    const found = mkdirSync(path, ...rest)
    const own = inside(path)
    if (own !== undefined && fresh) note({ op: 'folder', path: own })
    return found
  }
  syncBuiltinESMExports()
}
