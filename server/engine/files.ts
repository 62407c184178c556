import { closeSync, cpSync, existsSync, fsyncSync, openSync, readdirSync, renameSync, rmSync, statfsSync, statSync } from 'node:fs'
import { cp, open, readdir, rm } from 'node:fs/promises'
import { dirname, join } from 'node:path'

/** What must be free before anything is written: the engine's journal grows by files of 16 MB, and it must never find no room for one. */
const reserve = 20 * 2 ** 20

/** A disk that is full, told before anything is begun. */
export class FullDiskError extends Error {
  readonly code = 'ENOSPC'
  constructor(folder: string) {
    super(`The disk of ${folder} is full; free some space and try again.`)
  }
}

/** @throws FullDiskError where a folder's disk has less left than writing may need */
export function needRoom(folder: string, bytes = reserve): void {
  let place = folder
  while (!existsSync(place)) place = dirname(place)
  const { bavail, bsize } = statfsSync(place)
  if (bavail * bsize < bytes) throw new FullDiskError(folder)
}

/** What a file or folder holds is on the disk, and its name too. */
export function syncPath(path: string): void {
  const handle = openSync(path, 'r')
  try {
    fsyncSync(handle)
  } finally {
    closeSync(handle)
  }
}

/** Everything in a folder is on the disk. */
export function syncTree(folder: string): void {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name)
    if (entry.isDirectory()) syncTree(path)
    else if (entry.isFile()) syncPath(path)
  }
  syncPath(folder)
}

/** The same without holding up the thread: what it copies must stay as it is meanwhile. */
export async function copyTreeAside(from: string, to: string): Promise<void> {
  await rm(to, { recursive: true, force: true })
  await cp(from, to, { recursive: true, preserveTimestamps: true })
  const folders = [to]
  for (const entry of await readdir(to, { withFileTypes: true, recursive: true })) {
    const path = join(entry.parentPath, entry.name)
    if (entry.isDirectory()) folders.push(path)
    else if (entry.isFile()) await syncPathAside(path)
  }
  for (const folder of folders) await syncPathAside(folder)
}

async function syncPathAside(path: string): Promise<void> {
  const handle = await open(path, 'r')
  await handle.sync().finally(() => handle.close())
}

/** Gives a folder its name, for good. */
export function putInPlace(from: string, to: string): void {
  renameSync(from, to)
  syncPath(dirname(to))
}

export function copyTree(from: string, to: string): void {
  rmSync(to, { recursive: true, force: true })
  cpSync(from, to, { recursive: true, preserveTimestamps: true })
}

/** Bytes that a folder's files take. */
export function sizeOf(folder: string): number {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter(entry => entry.isFile())
    .reduce((sum, entry) => sum + statSync(join(entry.parentPath, entry.name)).size, 0)
}
