import { type FileHandle, open } from 'node:fs/promises'
import type { Page } from '../../core/compose/page'

/** Pages of a run kept in a file, one JSON text after another, so that memory holds only where each begins. */
export class PageSpool {
  private readonly offsets: number[] = [0]
  private pending: Buffer[] = []
  private pendingBytes = 0
  private constructor(private readonly file: FileHandle) {}

  static async create(path: string): Promise<PageSpool> {
    return new PageSpool(await open(path, 'w'))
  }

  async add(page: Page): Promise<void> {
    const bytes = Buffer.from(JSON.stringify(page))
    this.offsets.push(this.offsets.at(-1)! + bytes.length)
    this.pending.push(bytes)
    this.pendingBytes += bytes.length
    if (this.pendingBytes > 1 << 20) await this.flush()
  }

  async flush(): Promise<void> {
    if (!this.pendingBytes) return
    await this.file.writev(this.pending)
    this.pending = []
    this.pendingBytes = 0
  }

  /** Where each page begins; the last entry is the end of the file. */
  get places(): readonly number[] {
    return this.offsets
  }

  /** What is still to be written was flushed before. */
  async close(): Promise<void> {
    await this.file.close()
  }
}

/** The JSON texts of a stretch of pages. */
export async function readPages(path: string, places: readonly number[], from: number, to: number): Promise<string[]> {
  const file = await open(path, 'r')
  try {
    const start = places[from]!
    const bytes = Buffer.alloc(places[to]! - start)
    await file.read(bytes, 0, bytes.length, start)
    const texts: string[] = []
    for (let page = from; page < to; page++) texts.push(bytes.toString('utf8', places[page]! - start, places[page + 1]! - start))
    return texts
  } finally {
    await file.close()
  }
}

/** The pages that a run has kept: their file, and where each begins. */
export interface KeptPages {
  pages: string
  places: number[]
}
