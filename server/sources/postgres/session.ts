import type { Socket } from 'node:net'
import pg, { type ClientConfig } from 'pg'
import { serialize } from 'pg-protocol'
import type { Query } from '../../../core/sql/query'
import type { PackedRows } from '../../../core/value/packed'
import { type DescribedColumn, joined, StatementError, WireReader } from '../reading/wireReader'

/** The server let go of a connection: all that was read through it and not brought to an end is lost. */
export class LostError extends Error {}

/** What the driver keeps of a connection, and does not tell in its types. */
interface Inside {
  connection: {
    stream: Socket
    connect: (port: number | string, host?: string) => void
    once: (event: string, hear: () => void) => void
    cancel: (process: number, secret: number) => void
    end: () => void
  }
  processID: number
  secretKey: number
}

/** Where a transaction goes back to after a statement that failed. */
export const savepoint = 'asked'
const recovery = `rollback to savepoint ${savepoint}`
const cursor = 'declare authored no scroll cursor for'

/**
 * A connection to a server. The driver opens it and proves who we are; from then on its socket is ours, and rows are decoded straight from
 * its bytes into columns. One question at a time.
 */
export class Session {
  private turn: Promise<unknown> = Promise.resolve()
  private waiting: { reader: WireReader; resolve: () => void; reject: (error: Error) => void } | undefined
  private lost: Error | undefined
  private cancelling: Promise<void> | undefined

  private constructor(
    private readonly config: ClientConfig,
    private readonly inside: Inside,
    private readonly stream: Socket,
  ) {
    stream.removeAllListeners('data')
    stream.on('data', data => this.read(data))
    const gone = (error?: Error) => this.fail(new LostError(error?.message ?? 'the server closed the connection'))
    stream.on('error', gone)
    stream.on('close', () => gone())
    stream.resume()
  }

  /** @throws the driver's error; see reachSentence */
  static async open(config: ClientConfig): Promise<Session> {
    const client = new pg.Client(config)
    // unheard, an error of an idle connection would end the process
    client.on('error', () => {})
    try {
      await client.connect()
    } catch (error) {
      void client.end().catch(() => {})
      throw error
    }
    const inside = client as unknown as Inside
    return new Session(config, inside, inside.connection.stream)
  }

  get dead(): boolean {
    return this.lost !== undefined
  }

  /** Runs statements that give no rows, such as `begin`. @throws StatementError, LostError */
  exec(text: string): Promise<void> {
    return this.alone(() => this.say(text), '')
  }

  private async say(text: string): Promise<void> {
    const reader = new WireReader({ text, values: [], columns: [] })
    await this.send(reader, serialize.query(text))
    reader.check()
  }

  /**
   * Runs a statement and hands its rows on in parts, as they come; `question` is what it can be cancelled by. A text of an author's runs
   * only as the query of a cursor: one statement, a SELECT. @returns how many rows there were @throws StatementError, LostError
   */
  rows(query: Query, rowLimit: number, onPart: (rows: PackedRows) => void, question?: object): Promise<number> {
    return this.alone(() => this.run(query, rowLimit, onPart), recovery, question)
  }

  private async run(query: Query, rowLimit: number, onPart: (rows: PackedRows) => void): Promise<number> {
    let total = 0
    let over = false
    let sent = false
    const reader = new WireReader(query, rows => {
      total += rows.count
      if (over) return
      if (total > rowLimit) {
        over = true
        // the rest is not wanted
        void (this.cancelling ??= this.askToCancel())
        return
      }
      sent = true
      onPart(rows)
    })
    const before = query.authored ? cursor.length + 1 : 0
    const values = query.values.map(value => (value === null || value === undefined ? null : String(value)))
    await this.send(
      reader,
      serialize.parse({ text: query.authored ? `${cursor} ${query.text}` : query.text, name: '', types: [] }),
      serialize.bind({ values }),
      serialize.execute({ rows: 0 }),
      ...(query.authored
        ? [
            serialize.parse({ text: 'fetch all from authored', name: '', types: [] }),
            serialize.bind({ values: [] }),
            serialize.execute({ rows: 0 }),
            serialize.parse({ text: 'close authored', name: '', types: [] }),
            serialize.bind({ values: [] }),
            serialize.execute({ rows: 0 }),
          ]
        : []),
      serialize.sync(),
    )
    const refuse = () => {
      throw new StatementError(`The statement gives more than ${rowLimit.toLocaleString('en')} rows; narrow it with a filter.`)
    }
    if (over) refuse()
    reader.check(before)
    const last = reader.take()
    total += last.count
    if (total > rowLimit) refuse()
    if (last.count || !sent) onPart(last)
    return total
  }

  /** The name by which another connection sees the same moment (manual, section 9.28.5): not to be had within a savepoint. */
  exportSnapshot(): Promise<string> {
    return this.alone(async () => {
      await this.say(`release savepoint ${savepoint}`)
      let name = ''
      const text = 'select pg_catalog.pg_export_snapshot()'
      await this.run({ text, values: [], columns: [{ path: 'name', type: 'text' }] }, 1, ({ columns: [column] }) => {
        if (column?.kind === 'text') name = new TextDecoder().decode(column.bytes)
      })
      await this.say(`savepoint ${savepoint}`)
      return name
    })
  }

  /** The columns that a statement would give; it is not run. @throws StatementError, LostError */
  describe(text: string, question?: object): Promise<DescribedColumn[]> {
    const work = async () => {
      const reader = new WireReader({ text, values: [], columns: [] })
      await this.send(reader, serialize.parse({ text, name: '', types: [] }), serialize.describe({ type: 'S', name: '' }), serialize.sync())
      reader.check()
      return reader.described
    }
    return this.alone(work, recovery, question)
  }

  /**
   * Nobody waits for a question any more. While it is worked at, the server is asked to break off (PostgreSQL manual, section 54.2.8: by a
   * connection of its own), and the connection stays; one whose turn has not come is not asked at all.
   */
  cancel(question: object): void {
    if (this.asked === question) this.cancelling ??= this.askToCancel()
    else this.unwanted.add(question)
  }
  private asked: object | undefined
  private readonly unwanted = new WeakSet<object>()

  private async askToCancel(): Promise<void> {
    const { host = '', port = 5432, ssl } = this.config
    const asking = new pg.Client(this.config)
    asking.on('error', () => {})
    const { connection } = asking as unknown as Inside
    await new Promise<void>(resolve => {
      setTimeout(resolve, 5000).unref()
      const say = () => {
        connection.cancel(this.inside.processID, this.inside.secretKey)
      }
      connection.stream.once('error', () => resolve())
      // the server closes this connection once it has passed the wish on
      connection.once('end', () => resolve())
      connection.once(ssl ? 'sslconnect' : 'connect', say)
      if (host.startsWith('/')) connection.connect(`${host}/.s.PGSQL.${port}`)
      else connection.connect(port, host)
    })
    connection.stream.destroy()
  }

  close(): void {
    if (this.lost) return
    this.lost = new LostError('the connection was closed')
    this.stream.end(serialize.end())
    setTimeout(() => this.stream.destroy(), 1000).unref()
  }

  /**
   * Work that nothing else comes between. Where it fails, the transaction goes back to where it was, so that what is asked next finds it
   * whole; a cancel that was sent meets nothing that comes after.
   */
  private alone<T>(work: () => Promise<T>, recover = recovery, question?: object): Promise<T> {
    const done = this.turn.then(async () => {
      if (question && this.unwanted.has(question)) throw new StatementError('nobody waits for it any more')
      this.asked = question
      try {
        return await work()
      } catch (error) {
        if (!this.lost && recover) await this.recover(recover)
        throw error
      } finally {
        this.asked = undefined
        if (this.cancelling) {
          await this.cancelling
          this.cancelling = undefined
          if (!this.lost && recover) await this.recover(recover)
        }
      }
    })
    this.turn = done.catch(() => {})
    return done
  }

  /** A cancel that came late may meet the first attempt. */
  private async recover(text: string): Promise<void> {
    for (let left = 3; left > 0 && !this.lost; left--)
      try {
        return await this.say(text)
      } catch {
        // once more
      }
  }

  private send(reader: WireReader, ...messages: Uint8Array[]): Promise<void> {
    return new Promise((resolve, reject) => {
      if (this.lost) return reject(this.lost)
      this.waiting = { reader, resolve, reject }
      this.stream.write(joined(messages))
    })
  }

  private read(data: Uint8Array): void {
    const { waiting } = this
    // what comes unasked are notices, and the farewell of a server that stops
    if (!waiting) return
    try {
      waiting.reader.read(data)
    } catch (error) {
      return this.fail(error as Error)
    }
    if (!waiting.reader.answered) return
    this.waiting = undefined
    waiting.resolve()
  }

  private fail(error: Error): void {
    const { waiting } = this
    // the server says why before it lets go
    const said = waiting?.reader.said
    this.lost ??= said === undefined ? error : new LostError(said)
    this.waiting = undefined
    this.stream.destroy()
    waiting?.reject(this.lost)
  }
}
