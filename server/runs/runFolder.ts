import { createHash, randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Catalog } from '../../core/books/catalog'
import type { RunInput } from './input'
import type { KeptPlaces } from './keptRows'
import { type SentInput, sentInput } from './tasks'

/** Where things lie in the files of a run that is done. */
export interface RunIndex {
  places: number[]
  outline: { page: number; label: string }[]
  rows: KeptPlaces
  /** what had changed in the source since the report was made, in sentences */
  changed?: string[]
}

/** What a run was asked with, as it lies in its folder: catalogs, which many share, lie beside. */
interface KeptInput {
  input: SentInput
  /** of each run and nested report, by the version that it had then, the name of the file of its catalog */
  catalogs: Record<string, string>
}

const named = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/

/**
 * Files of runs: a folder each, with what it was asked with, its pages, its rows, and files that were made of it. Several Estantes can
 * share the place; it has a name of its own, by which they know that it is the same.
 */
export class RunFolder {
  readonly id: string
  /** catalogs that were written, by themselves: they are the same for many runs */
  private readonly written = new WeakMap<Catalog, string>()

  constructor(private readonly root: string) {
    mkdirSync(join(root, 'catalogs'), { recursive: true })
    const mark = join(root, 'folder-id')
    try {
      writeFileSync(mark, randomUUID(), { flag: 'wx' })
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
    }
    this.id = readFileSync(mark, 'utf8')
  }

  of(run: string): string {
    return join(this.root, run)
  }

  async make(run: string): Promise<void> {
    await mkdir(this.of(run), { recursive: true })
  }

  /** A file that is gone as soon as it is sent. */
  passing(): string {
    return join(this.root, `${randomUUID()}.passing`)
  }

  /** Writes down what a run is asked with: it can be begun once more, and files be made of it, when the program was stopped meanwhile. */
  async keepInput(run: string, input: RunInput): Promise<void> {
    await mkdir(this.of(run), { recursive: true })
    const catalogs: Record<string, string> = {}
    const keep = async ({ catalog, catalogVersion, nested }: RunInput): Promise<void> => {
      catalogs[catalogVersion] = await this.keepCatalog(catalog)
      for (const each of Object.values(nested ?? {})) await keep(each)
    }
    await keep(input)
    await whole(join(this.of(run), 'input.json'), JSON.stringify({ input: sentInput(input), catalogs } satisfies KeptInput))
  }

  private async keepCatalog(catalog: Catalog): Promise<string> {
    const known = this.written.get(catalog)
    if (known !== undefined) return known
    const text = JSON.stringify(catalog)
    const name = createHash('sha256').update(text).digest('hex').slice(0, 32)
    const file = join(this.root, 'catalogs', `${name}.json`)
    if (!existsSync(file)) await whole(file, text)
    this.written.set(catalog, name)
    return name
  }

  /** @throws where it is not there, or cannot be read */
  async input(run: string): Promise<RunInput> {
    const { input, catalogs } = JSON.parse(await readFile(join(this.of(run), 'input.json'), 'utf8')) as KeptInput
    const read = new Map<string, Catalog>()
    const asked = async ({ nested, ...rest }: SentInput): Promise<RunInput> => {
      const name = catalogs[rest.catalogVersion]!
      if (!read.has(name)) read.set(name, JSON.parse(await readFile(join(this.root, 'catalogs', `${name}.json`), 'utf8')) as Catalog)
      const inside = Object.fromEntries(await Promise.all(Object.entries(nested ?? {}).map(async ([at, each]) => [at, await asked(each)])))
      // versions of another process say nothing in this one: what is kept by them must not be taken for this
      const { definitionVersion: _, ...own } = rest
      return { ...own, catalog: read.get(name)!, catalogVersion: `kept ${name}`, ...(nested ? { nested: inside } : {}) }
    }
    return asked(input)
  }

  async keepIndex(run: string, index: RunIndex): Promise<void> {
    await whole(join(this.of(run), 'index.json'), JSON.stringify(index))
  }

  async index(run: string): Promise<RunIndex> {
    return JSON.parse(await readFile(join(this.of(run), 'index.json'), 'utf8')) as RunIndex
  }

  async remove(run: string): Promise<void> {
    await rm(this.of(run), { recursive: true, force: true })
  }

  /** Takes away what is of no run: files of runs that are not written down any more, and files that were on their way. */
  clear(known: ReadonlySet<string>): void {
    for (const name of readdirSync(this.root))
      if ((named.test(name) && !known.has(name)) || name.endsWith('.passing') || isOfBefore(name))
        rmSync(join(this.root, name), { recursive: true, force: true })
  }
}

/** Files as they lay before runs had folders. */
const isOfBefore = (name: string) => named.test(name.slice(0, 36)) && name.length > 36

/** Writes a file so that whoever reads it finds all of it or none. */
async function whole(file: string, text: string): Promise<void> {
  const beside = `${file}.${randomUUID().slice(0, 8)}`
  await writeFile(beside, text)
  await rename(beside, file)
}
