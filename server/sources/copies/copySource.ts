import type { Catalog } from '../../../core/books/catalog'
import { type Context, ownContext } from '../../access/context'
import { workerFile } from '../../root'
import { type Snapshot, type Source, type SourceAbout, SourceError, type SourceState } from '../contract'
import { EmbeddedEngine } from '../embedded/engine'
import { ownDay } from '../ownDay'
import { AddressError, readAddress } from '../postgres/address'
import { ServerSource } from '../postgres/serverSource'
import { copySchema, type Kept, type Place } from './place'

/** What a copy is opened with. */
export interface CopyOptions {
  id: string
  name: string
  kind: string
  /** where its rows come from, in a few words */
  from: string
  generation: Kept
  /** where a generation lies */
  place: (generation: Kept) => Place
}

/** What reads the tables of a generation. */
type Reader = Pick<Source, 'open' | 'made' | 'catalog' | 'snapshot' | 'state' | 'close'>

/** A reader over one generation; it is closed when nobody reads it and another has taken its place. */
interface Generation {
  number: number
  /** the moment of its rows */
  at: string
  engine: Reader
  readers: number
}

/**
 * Tables that Estante keeps itself, a generation at a time, each in an embedded engine of its own or in a schema of a server: whoever reads
 * goes on with the generation that was there when it began (rule 42 of the semantics), and the next is put in place at once.
 */
export class CopySource implements Source {
  readonly dialect = 'postgresql'
  readonly schema = copySchema
  readonly clock = ownDay
  readonly id: string
  name: string
  readonly kind: string
  /** where its rows come from, in a few words */
  from: string
  private current: Generation
  private readonly held = new Set<Generation>()

  constructor(private readonly options: CopyOptions) {
    ;({ id: this.id, name: this.name, kind: this.kind, from: this.from } = options)
    this.current = this.generation(options.generation)
  }

  private generation(kept: Kept): Generation {
    const { number, at } = kept
    return { number, at, engine: this.reader(this.options.place(kept)), readers: 0 }
  }

  private reader(place: Place): Reader {
    if (place.kind === 'folder')
      return new EmbeddedEngine({ folder: place.folder, schema: copySchema, thread: workerFile('engine') }) as Reader
    const found = keepingAddress(place.address)
    if (typeof found === 'string') return unreadable(`“${this.name}” ${found}`)
    return new ServerSource({
      id: this.id,
      name: this.name,
      ...found,
      schemas: [place.schema],
      called: copySchema,
      zone: 'UTC',
      clock: ownDay,
    })
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

  guardsTexts(): boolean {
    return this.options.place(this.options.generation).kind === 'folder'
  }

  about(): SourceAbout {
    const asOf = Date.parse(this.current.at)
    return { from: this.from, ...(Number.isNaN(asOf) ? {} : { asOf }) }
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
  async use(kept: Kept, check?: (catalog: Catalog) => Promise<void>): Promise<void> {
    const next = this.generation(kept)
    try {
      await next.engine.open()
      await check?.(await next.engine.catalog(ownContext))
    } catch (error) {
      await next.engine.close()
      throw error
    }
    const before = this.current
    this.current = next
    this.tidy(before)
  }

  /** A reader that nobody reads any more, and that is not the present one, is closed; what it read stays. */
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

/** The server that keeps copies; where it is not named any more, or wrongly, what to do. */
function keepingAddress(address: string): Pick<ConstructorParameters<typeof ServerSource>[0], 'address' | 'password'> | string {
  if (!address) return 'lies on the server that keeps copies; start Estante with ESTANTE_COPIES_URL as before.'
  try {
    const found = readAddress(address)
    return { address: found.address, ...(found.password === undefined ? {} : { password: () => found.password! }) }
  } catch (error) {
    if (!(error instanceof AddressError)) throw error
    return `lies on the server that keeps copies, and ESTANTE_COPIES_URL does not name it. ${error.message}`
  }
}

/** Tables that nobody can read now, and why. */
function unreadable(why: string): Reader {
  const since = Date.now()
  const refuse = () => Promise.reject(new SourceError(why))
  return {
    open: () => Promise.resolve(),
    made: () => true,
    catalog: refuse,
    snapshot: refuse,
    state: () => ({ away: { since, why } }),
    close: () => Promise.resolve(),
  }
}
