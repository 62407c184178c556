import { createHash } from 'node:crypto'
import { type FileHandle, open } from 'node:fs/promises'
import type { Query } from '../../core/sql/query'
import type { PackedRows } from '../../core/value/packed'
import { packRows, unpackRows } from '../../core/value/packedRows'

/** Where the answers to a run's statements lie in its file of rows: by statement, from which byte and how many. */
export type KeptPlaces = Record<string, [from: number, length: number]>

/** A run's rows as they were read, in a file: what is made of them later, or once more, sees the same moment (rule 42 of the semantics). */
export interface KeptRead {
  file: string
  places: KeptPlaces
}

/** The file of a run's rows, beside that of its pages. */
export const rowsFile = (pages: string): string => `${pages}.rows`

/** `source` is that of a nested report, where it is another than the run's. */
const keyOf = ({ text, values, columns }: Query, source?: string): string =>
  createHash('sha256')
    .update(JSON.stringify(source === undefined ? [text, values, columns] : [text, values, columns, source]))
    .digest('base64url')

/** Keeps the answers to statements while they come, and gives them again. */
export class KeptRows {
  private end = 0
  private last: Promise<unknown> = Promise.resolve()
  private failed: Error | undefined
  private constructor(
    private readonly handle: FileHandle,
    readonly places: KeptPlaces,
  ) {}

  static async create(file: string): Promise<KeptRows> {
    return new KeptRows(await open(file, 'w+'), {})
  }

  static async open({ file, places }: KeptRead): Promise<KeptRows> {
    return new KeptRows(await open(file, 'r'), places)
  }

  /** Writes the rows behind those before them. @throws what an earlier writing failed of */
  async keep(query: Query, parts: readonly PackedRows[], source?: string): Promise<void> {
    const stretches = packRows(parts)
    const length = stretches.reduce((sum, each) => sum + each.length, 0)
    const from = this.end
    this.end += length
    this.places[keyOf(query, source)] = [from, length]
    // one writing after another: whoever reads on waits for those before
    const before = this.last
    this.last = before.then(() => writeAll(this.handle, stretches, from)).catch((error: Error) => void (this.failed ??= error))
    await before
    if (this.failed) throw this.failed
  }

  async find(query: Query, source?: string): Promise<PackedRows[] | undefined> {
    const place = this.places[keyOf(query, source)]
    if (!place) return undefined
    await this.last
    if (this.failed) throw this.failed
    const bytes = new Uint8Array(place[1])
    for (let at = 0; at < bytes.length;) {
      const { bytesRead } = await this.handle.read(bytes, at, bytes.length - at, place[0] + at)
      if (!bytesRead) throw new Error('The kept rows of this run are cut short; run the report again.')
      at += bytesRead
    }
    return unpackRows(bytes)
  }

  /** All is on its way to the disk when it comes back. */
  async close(): Promise<void> {
    await this.last
    await this.handle.close()
    if (this.failed) throw this.failed
  }
}

/** Buffers that are written at once: a system takes so many. */
const mostAtOnce = 512

async function writeAll(handle: FileHandle, stretches: readonly Uint8Array[], from: number): Promise<void> {
  let at = from
  for (let first = 0; first < stretches.length; first += mostAtOnce) {
    const some = stretches.slice(first, first + mostAtOnce)
    const wanted = some.reduce((sum, each) => sum + each.length, 0)
    const { bytesWritten } = await handle.writev(some, at)
    if (bytesWritten < wanted) await writeRest(handle, some, bytesWritten, at + bytesWritten)
    at += wanted
  }
}

/** What a disk did not take at once. */
async function writeRest(handle: FileHandle, stretches: readonly Uint8Array[], written: number, from: number): Promise<void> {
  let skip = written
  let at = from
  for (const each of stretches) {
    if (skip >= each.length) {
      skip -= each.length
      continue
    }
    for (let own = skip; own < each.length;) {
      const { bytesWritten } = await handle.write(each, own, each.length - own, at)
      own += bytesWritten
      at += bytesWritten
    }
    skip = 0
  }
}
