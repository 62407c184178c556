import { quotedName as quoted } from '../../../core/sql/statementParts'
import { type MessagePort, parentPort, workerData } from 'node:worker_threads'
import pg from 'pg'
import type { Catalog } from '../../../core/books/catalog'
import type { TableColumn } from '../../../core/definition/tables'
import type { Query, ShownTables } from '../../../core/sql/query'
import { buffersOf, type PackedRows } from '../../../core/value/packed'
import { withBooks } from '../reading/foundBooks'
import { StatementError, ValueError } from '../reading/wireReader'
import { clientConfig, reachSentence, type ServerAddress } from './address'
import { typeOf } from '../../../core/catalog/readAs'
import { guard, type Guarded, readGuarded, tableKey } from './guard'
import { type GuardedText, guardTables } from './guardedText'
import { readServerCatalog, timeInDate } from './serverCatalog'
import { LostError, savepoint, Session } from './session'
import { collationsOf, inWordsOf, liveSchema, type ServerWords } from './words'

/** What the thread of a server is opened with. */
export interface ServerThreadData {
  address: ServerAddress
  password?: string
  schemas: string[]
  /** the schema by which our statements name its tables; without it that of servers that are read in place */
  called?: string
  /** zone in which moments are shown, by its IANA name */
  zone: string
}

/** What it is asked. `snapshot` is the number of a moment that was opened before. */
export type ServerRequest =
  | { id: number; kind: 'begin'; snapshot: number }
  | { id: number; kind: 'query'; snapshot: number; query: Query; rowLimit: number; port?: number }
  | { id: number; kind: 'describe'; snapshot: number; text: string; shown?: ShownTables }
  | { id: number; kind: 'catalog' }
  | { id: number; kind: 'cancel' }
  | { id: number; kind: 'end' }
  | { id: number; kind: 'port'; port: MessagePort }
  | { id: number; kind: 'portClosed' }

/** What it answers. */
export type ServerAnswer =
  | { id: number; kind: 'begun' }
  | { id: number; kind: 'rows'; rows: PackedRows }
  | { id: number; kind: 'done'; count: number; parts: number }
  | { id: number; kind: 'catalog'; catalog: Catalog }
  | { id: number; kind: 'described'; columns: TableColumn[] }
  /** `ours`: the message is a sentence; `unreached`: the server cannot be read at all; `lost`: it broke off */
  | { id: number; kind: 'error'; message: string; position?: number; ours?: boolean; unreached?: boolean; lost?: boolean }

/** A moment of the server: a transaction of its own, and one beside it for texts of authors, which sees the same. */
interface Moment {
  session: Session
  guest?: Promise<Session>
}

/** Connections that wait for the next run. */
const mostIdle = 4
/** Longest that the server works at one statement, and waits for the next of a run, in milliseconds: our own limits are shorter. */
const serverLimit = 150_000
const idleLimit = 3_600_000

/** Names of types by their numbers and modifiers, of domains those under them. */
const typeNames = `
  with recursive t as (
    select type, modifier, place from unnest($1::oid[], $2::int[]) with ordinality as t(type, modifier, place)
    union all
    select d.typbasetype, d.typtypmod, t.place from t join pg_catalog.pg_type d on d.oid = t.type and d.typtype = 'd'
  )
  select pg_catalog.format_type(t.type, t.modifier)
  from t join pg_catalog.pg_type d on d.oid = t.type and d.typtype <> 'd' order by t.place`

/** Places that are told are those of a text as it was given, before other words were put into it. */
async function placed<T>(before: (place: number) => number, asking: Promise<T>): Promise<T> {
  try {
    return await asking
  } catch (error) {
    if (!(error instanceof StatementError) || error.position === undefined) throw error
    const position = before(error.position)
    throw error instanceof ValueError ? new ValueError(error.message, position) : new StatementError(error.message, position)
  }
}

/** Reads a PostgreSQL server for whoever asks: a connection a moment, each repeatable and read only. */
export function runServer(): void {
  const { address, password, schemas, zone, called = liveSchema } = workerData as ServerThreadData
  const config = clientConfig(address, password)
  const port = parentPort!
  const moments = new Map<number, Moment>()
  /** moments that were let go of before they had begun */
  const over = new Set<number>()
  const idle: Session[] = []
  const ports = new Map<number, MessagePort>()
  /** questions that can be cancelled, each with the connection that it is asked through */
  const running = new Map<number, { session: Session; question: object }>()
  let told: Promise<{ words: ServerWords; guarded: Guarded; catalog: Catalog }> | undefined

  const literal = (text: string) => `'${text.replaceAll("'", "''")}'`
  const begin = (path: string) =>
    `begin transaction isolation level repeatable read read only; set local search_path to ${path}; set local datestyle to 'ISO, MDY'; ` +
    `set local intervalstyle to 'iso_8601'; set local bytea_output to 'hex'; set local extra_float_digits to 1; ` +
    `set local timezone to ${literal(zone)}; set local jit to off; set local cursor_tuple_fraction to 1; ` +
    `set local standard_conforming_strings to on; ` +
    `set local statement_timeout to ${serverLimit}; set local idle_in_transaction_session_timeout to ${idleLimit}; `

  /** What the server holds, by the driver's own way: it is little, and of many kinds. */
  async function readAll(): Promise<{ words: ServerWords; guarded: Guarded; catalog: Catalog }> {
    const client = new pg.Client(config)
    client.on('error', () => {})
    try {
      await client.connect()
      await client.query(begin("''"))
      const asked = {
        query: <Row>(text: string, values: unknown[] = []) => client.query(text, values) as unknown as Promise<{ rows: Row[] }>,
      }
      const { rows } = await asked.query<{ encoding: string }>(`select current_setting('server_encoding') as encoding`)
      if (rows[0]!.encoding === 'SQL_ASCII')
        throw new ValueError(
          `The database “${address.database}” does not say in which encoding its texts are written (SQL_ASCII), so they cannot be read ` +
            `exactly; have it moved to one in UTF8.`,
        )
      const found = await readServerCatalog(asked, schemas, called)
      const collations = await asked.query<{ name: string }>(
        `select collname::text as name from pg_collation where collencoding in (-1, (select encoding from pg_database where datname =
          current_database()))`,
      )
      const words: ServerWords = { called, tables: found.real, ...collationsOf(new Set(collations.rows.map(row => row.name))) }
      const inWords = { query: <Row>(text: string, values: unknown[] = []) => asked.query<Row>(inWordsOf(words, text), values) }
      const { real, ...tables } = found
      const catalog = await withBooks(inWords, called, tables)
      const places = [...real.values()].flatMap(({ schema, name }) => [tableKey(schema, name), name])
      const guarded = { ...(await readGuarded(asked, schemas)), tables: new Set(places) }
      return { words, guarded, catalog }
    } finally {
      void client.end().catch(() => {})
    }
  }

  const known = () =>
    (told ??= readAll().catch((error: unknown) => {
      told = undefined
      throw error
    }))

  /** A connection in which a moment has begun. */
  async function opened(): Promise<Session> {
    for (;;) {
      const waiting = idle.pop()
      const session = waiting ?? (await Session.open(config))
      try {
        await session.exec(begin("''"))
        await session.exec(`savepoint ${savepoint}`)
        return session
      } catch (error) {
        session.close()
        // a connection that nobody used may be gone without a word
        if (!waiting || !(error instanceof LostError)) throw error
      }
    }
  }

  /** The connection for texts of authors: at the same moment, with the names of the source's schemas, and never used again. */
  const guestOf = (moment: Moment): Promise<Session> =>
    (moment.guest ??= (async () => {
      const name = await moment.session.exportSnapshot()
      const session = await Session.open(config)
      await session.exec(begin(schemas.map(quoted).join(', ')).replace('; set', `; set transaction snapshot ${literal(name)}; set`))
      await session.exec(`savepoint ${savepoint}`)
      return session
    })().catch((error: unknown) => {
      delete moment.guest
      throw error
    }))

  async function end(number: number): Promise<void> {
    const moment = moments.get(number)
    if (!moment) {
      over.add(number)
      return
    }
    moments.delete(number)
    const { session, guest } = moment
    void guest?.then(
      each => each.close(),
      () => {},
    )
    await letGo(session)
  }

  async function letGo(session: Session): Promise<void> {
    try {
      await session.exec('rollback')
    } catch {
      session.close()
    }
    if (session.dead) return
    if (idle.length < mostIdle) idle.push(session)
    else session.close()
  }

  function failure(id: number, error: unknown): ServerAnswer {
    const message = error instanceof Error ? error.message : String(error)
    if (error instanceof ValueError) return { id, kind: 'error', message, ours: true }
    const dated = message.includes(timeInDate) && /"([^"]*)"/.exec(message)?.[1]
    if (dated)
      return {
        id,
        kind: 'error',
        message: `“${dated.replace(timeInDate, '').trim()}” ${timeInDate}; read them again under Sources.`,
        ours: true,
      }
    if (error instanceof LostError) return { id, kind: 'error', message, lost: true }
    if (error instanceof StatementError)
      return { id, kind: 'error', message, ...(error.position === undefined ? {} : { position: error.position }) }
    return { id, kind: 'error', message: reachSentence(error, address), ours: true, unreached: true }
  }

  /**
   * A statement with texts of authors in it in the words of the server, after it was looked at: it does nothing but read, and of guarded
   * tables only what is seen. @throws ValueError, StatementError
   */
  async function forGuest(given: string, values: unknown[], shown: ShownTables | undefined): Promise<GuardedText> {
    const { words, guarded, catalog } = await known()
    const plain = inWordsOf(words, given)
    const longer = plain.length - given.length
    let found: GuardedText = { text: plain, values, placeBefore: place => Math.max(1, place - longer) }
    // what is no statement at all is told of the text as it was given
    await placed(found.placeBefore, guard(plain, guarded))
    if (!shown) return found
    found = await guardTables(given, values, { words, catalog }, shown)
    await placed(found.placeBefore, guard(found.text, guarded))
    return found
  }

  /** One question in its connection, which can be cancelled. */
  async function within<T>(id: number, session: Session, work: (question: object) => Promise<T>): Promise<T> {
    const question = {}
    running.set(id, { session, question })
    try {
      return await work(question)
    } finally {
      running.delete(id)
    }
  }

  async function answer(request: Exclude<ServerRequest, { kind: 'port' | 'portClosed' | 'cancel' }>): Promise<ServerAnswer | undefined> {
    const { id } = request
    switch (request.kind) {
      case 'begin': {
        await known()
        const session = await opened()
        // whoever wanted it may have gone
        if (over.delete(request.snapshot)) {
          await letGo(session)
          return undefined
        }
        moments.set(request.snapshot, { session })
        return { id, kind: 'begun' }
      }
      case 'end':
        await end(id)
        return undefined
      case 'catalog':
        told = undefined
        return { id, kind: 'catalog', catalog: (await known()).catalog }
      case 'describe': {
        const { text, placeBefore } = await forGuest(request.text, [], request.shown)
        const session = await guestOf(moments.get(request.snapshot)!)
        return within(id, session, async question => {
          const described = await placed(placeBefore, session.describe(text, question))
          const names: string[] = []
          await session.rows(
            {
              text: typeNames,
              values: [`{${described.map(each => each.type).join(',')}}`, `{${described.map(each => each.modifier).join(',')}}`],
              columns: [{ path: 'name', type: 'text' }],
            },
            described.length,
            ({ columns: [column] }) => {
              if (column?.kind !== 'text') return
              const all = new TextDecoder().decode(column.bytes)
              column.ends.forEach((to, at) => names.push(all.slice(at ? column.ends[at - 1] : 0, to)))
            },
          )
          const columns = described.map(({ name }, at): TableColumn => ({ name, ...typeOf(names[at]!), databaseType: names[at]! }))
          return { id, kind: 'described', columns }
        })
      }
      case 'query': {
        const { words } = await known()
        const moment = moments.get(request.snapshot)
        if (!moment) throw new LostError('its moment is over')
        const { authored, shown, ...asked } = request.query
        const { text, values } = authored
          ? await forGuest(asked.text, asked.values, shown)
          : { ...asked, text: inWordsOf(words, asked.text) }
        const query = { ...asked, text, values, ...(authored ? { authored } : {}) }
        const session = authored ? await guestOf(moment) : moment.session
        const direct = request.port === undefined ? undefined : ports.get(request.port)
        return within(id, session, async question => {
          let parts = 0
          const onPart = (rows: PackedRows) => {
            parts++
            if (direct) direct.postMessage({ tag: query.tag, rows }, buffersOf(rows))
            else port.postMessage({ id, kind: 'rows', rows }, buffersOf(rows))
          }
          const count = await session.rows(query, request.rowLimit, onPart, question)
          return { id, kind: 'done', count, parts: direct ? parts : 0 }
        })
      }
    }
  }

  port.on('message', (request: ServerRequest) => {
    if (request.kind === 'port') ports.set(request.id, request.port)
    else if (request.kind === 'portClosed') {
      ports.get(request.id)?.close()
      ports.delete(request.id)
    } else if (request.kind === 'cancel') {
      const found = running.get(request.id)
      found?.session.cancel(found.question)
    } else
      void answer(request).then(
        found => found && port.postMessage(found),
        (error: unknown) => port.postMessage(failure(request.id, error)),
      )
  })
}
