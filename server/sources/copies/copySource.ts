import { existsSync, readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import type { Catalog } from '../../../core/books/catalog'
import { type Context, ownContext } from '../../access/context'
import { workerFile } from '../../root'
import type { Snapshot, Source, SourceAbout, SourceState } from '../contract'
import { EmbeddedEngine } from '../embedded/engine'
import { ownDay } from '../ownDay'

/** The schema of a copy's tables. */
export const copySchema = 'data'

/** Folder of a generation of a copy. */
export const generationFolder = (folder: string, generation: number) => join(folder, `g${generation}`)

/** What a copy is opened with. */
export interface CopyOptions {
  id: string
  name: string
  kind: string
  /** where its rows come from, in a few words */
  from: string
  folder: string
  generation: number
  /** the moment of its rows */
  asOf?: number
}

/** An engine over one generation; it is closed when nobody reads it and another has taken its place. */
interface Generation {
  number: number
  engine: EmbeddedEngine
  readers: number
}

/**
 * Tables that Estante keeps itself, a generation at a time in an embedded engine of its own: whoever reads goes on with the generation that
 * was there when it began (rule 42 of the semantics), and the next is put in place at once.
 */
export class CopySource implements Source {
  readonly dialect = 'postgresql'
  readonly schema = copySchema
  readonly clock = ownDay
  readonly id: string
  readonly name: string
  readonly kind: string
  private current: Generation
  private asOf: number | undefined
  private readonly held = new Set<Generation>()

  constructor(private readonly options: CopyOptions) {
    ;({ id: this.id, name: this.name, kind: this.kind, asOf: this.asOf } = options)
    this.current = this.generation(options.generation)
  }

  private generation(number: number): Generation {
    const folder = generationFolder(this.options.folder, number)
    return { number, engine: new EmbeddedEngine({ folder, schema: copySchema, thread: workerFile('engine') }), readers: 0 }
  }

  open(): Promise<void> {
    return this.current.engine.open()
  }

  made(): boolean {
    return this.current.engine.made()
  }

  catalog(context: Context) {
    return this.current.engine.catalog(context)
  }

  state(): SourceState {
    return this.current.engine.state()
  }

  about(): SourceAbout {
    return { from: this.options.from, ...(this.asOf === undefined ? {} : { asOf: this.asOf }) }
  }

  async snapshot(context: Context): Promise<Snapshot> {
    const own = this.current
    own.readers++
    this.held.add(own)
    let open = true
    const leave = () => {
      if (!open) return
      open = false
      own.readers--
      this.tidy(own)
    }
    try {
      const snapshot = await own.engine.snapshot(context)
      return {
        ...snapshot,
        close: () => {
          snapshot.close()
          leave()
        },
      }
    } catch (error) {
      leave()
      throw error
    }
  }

  /**
   * Another generation is read from now on; it opens before anybody has to wait for it. `check` sees its tables first, and keeps the
   * present one by throwing.
   */
  async use(number: number, asOf: number | undefined, check?: (catalog: Catalog) => Promise<void>): Promise<void> {
    const next = this.generation(number)
    try {
      await next.engine.open()
      await check?.(await next.engine.catalog(ownContext))
    } catch (error) {
      await next.engine.close()
      throw error
    }
    const before = this.current
    this.current = next
    this.asOf = asOf
    this.tidy(before)
  }

  /** An engine that nobody reads any more, and that is not the present one, is closed; its folder stays. */
  private tidy(generation: Generation): void {
    if (generation.readers) return
    this.held.delete(generation)
    if (generation !== this.current) void generation.engine.close()
  }

  /** Generations that somebody reads now. */
  read(): number[] {
    return [...this.held].map(each => each.number)
  }

  async close(): Promise<void> {
    await Promise.all([...new Set([this.current, ...this.held])].map(each => each.engine.close()))
  }
}

/** Generations whose folders are there, the newest first. */
export function generationsIn(folder: string): number[] {
  if (!existsSync(folder)) return []
  return readdirSync(folder)
    .flatMap(name => (/^g\d+$/.test(name) ? [Number(name.slice(1))] : []))
    .sort((a, b) => b - a)
}

/** Takes all but some generations off the disk, with what was kept beside their folders. */
export function removeOthers(folder: string, kept: readonly number[]): void {
  for (const name of readdirSync(folder)) {
    const number = Number(/^g(\d+)/.exec(name)?.[1] ?? NaN)
    if (!Number.isNaN(number) && !kept.includes(number)) rmSync(join(folder, name), { recursive: true, force: true })
  }
}

/** The folder of a copy that nobody knows any more. */
export const removeCopy = (folder: string) => rmSync(folder, { recursive: true, force: true })
