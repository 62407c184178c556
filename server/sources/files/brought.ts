import { randomUUID } from 'node:crypto'
import { createWriteStream, mkdirSync, rmSync, statSync } from 'node:fs'
import { basename, join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import type { Readable } from 'node:stream'
import { isArchive } from '../../../core/intake/endings'
import type { Context } from '../../access/context'
import { needRoom } from '../../engine/files'
import { StoreError } from '../../store/records'
import { FileFault } from './kinds/kind'
import type { BroughtPath } from './take.worker'
import { unpack } from './unpack'

/** Bytes of a file that is brought. */
const mostBytes = 4 * 2 ** 30
/** Files that wait to be taken in, of everybody's; the oldest go. */
const mostWaiting = 1000

/** A file that is kept. */
export interface Received {
  id: string
  size: number
  file: BroughtPath
}

/** Files that people have brought and that are not taken in yet: each belongs to who brought it, and all go with the program. */
export class BroughtFiles {
  private readonly known = new Map<string, { person: string; file: BroughtPath }>()

  constructor(private readonly folder: string) {
    rmSync(folder, { recursive: true, force: true })
    mkdirSync(folder, { recursive: true })
  }

  /** Keeps what comes, of an archive the files that become tables. @throws StoreError where it is too large, FullDiskError */
  async receive(context: Context, name: string, bytes: Readable, length: number): Promise<Received[]> {
    if (length > mostBytes) throw new StoreError(`“${name}” is larger than 4 GB; bring it in parts.`, 413)
    needRoom(this.folder, length + 20 * 2 ** 20)
    const file = { path: join(this.folder, randomUUID()), name: basename(name) }
    let size = 0
    try {
      await pipeline(
        bytes,
        async function* (pieces: AsyncIterable<Buffer>) {
          for await (const piece of pieces) {
            if ((size += piece.length) > mostBytes) throw new StoreError(`“${name}” is larger than 4 GB; bring it in parts.`, 413)
            yield piece
          }
        },
        createWriteStream(file.path),
      )
    } catch (error) {
      rmSync(file.path, { force: true })
      throw error
    }
    if (!isArchive(file.name)) return [this.keep(context, file)]
    try {
      return (await unpack(file.path, file.name, this.folder)).map(each => this.keep(context, each))
    } catch (error) {
      throw error instanceof FileFault ? new StoreError(error.message, 422) : error
    } finally {
      rmSync(file.path, { force: true })
    }
  }

  private keep(context: Context, file: BroughtPath): Received {
    const id = randomUUID()
    this.known.set(id, { person: context.person, file })
    for (const [oldest, { file: old }] of this.known) {
      if (this.known.size <= mostWaiting) break
      this.known.delete(oldest)
      rmSync(old.path, { force: true })
    }
    return { id, size: statSync(file.path).size, file }
  }

  /** A file that this person brought. @throws StoreError */
  get(context: Context, id: string): BroughtPath {
    const found = this.known.get(id)
    if (found?.person !== context.person) throw new StoreError('This file is not here any more; bring it once more.', 404)
    return found.file
  }

  drop(context: Context, id: string): void {
    const file = this.get(context, id)
    this.known.delete(id)
    rmSync(file.path, { force: true })
  }
}
