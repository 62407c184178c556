import { createReadStream } from 'node:fs'
import { finished } from 'node:stream/promises'
import { Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import { outFile, room } from './outFile'

/** A ZIP file that is written entry by entry: memory holds one of them. */
export class ZipFile {
  private readonly out
  private readonly zip

  constructor(path: string) {
    const out = (this.out = outFile(path))
    this.zip = new Zip((error, bytes, last) => {
      if (error) out.destroy(error)
      else {
        out.write(bytes)
        if (last) out.end()
      }
    })
  }

  /** An entry; text is packed, what is packed already (a PDF, a workbook) goes in as it is. */
  async add(name: string, bytes: Uint8Array, packed = true): Promise<void> {
    const entry = packed ? new ZipPassThrough(name) : new ZipDeflate(name, { level: 6 })
    this.zip.add(entry)
    entry.push(bytes, true)
    await room(this.out)
  }

  /** A file as a packed entry, read piece by piece. */
  async addFile(name: string, path: string): Promise<void> {
    const entry = new ZipDeflate(name, { level: 6 })
    this.zip.add(entry)
    for await (const piece of createReadStream(path)) {
      entry.push(piece as Uint8Array)
      await room(this.out)
    }
    entry.push(new Uint8Array(0), true)
    await room(this.out)
  }

  async end(): Promise<void> {
    this.zip.end()
    await finished(this.out)
  }
}
