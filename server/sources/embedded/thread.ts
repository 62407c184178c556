import { type MessagePort, parentPort, workerData } from 'node:worker_threads'
import type { PGlite } from '@electric-sql/pglite'
import type { Query } from '../../../core/sql/query'
import { buffersOf } from '../../../core/value/packed'
import { isDead, isMade, makeFolder, openFolder } from '../../engine/durable'
import { needRoom } from '../../engine/files'
import { machineSentence } from '../../failures'
import { guardedRole } from '../../../core/guard/policies'
import { quotedName } from '../../../core/sql/statementParts'
import { typeOf } from '../../../core/catalog/readAs'
import { readCatalog } from './introspect'
import { readerRole, secureSource } from './roles'
import { StatementError, UnansweredError, ValueError } from '../reading/wireReader'
import { describeStatement, streamQuery } from './wire'

/** What the engine's thread is asked. */
type EngineRequest =
  | { id: number; kind: 'query'; query: Query; rowLimit: number; port?: number }
  | { id: number; kind: 'catalog' }
  | { id: number; kind: 'describe'; text: string; guard?: readonly string[] }
  | { id: number; kind: 'write'; command: unknown }
  /** rows of a snapshot go to its port, until it is closed */
  | { id: number; kind: 'port'; port: MessagePort }
  | { id: number; kind: 'portClosed' }

/** What a source of this engine does by itself, in the engine's thread. */
export interface ThreadHooks {
  /** makes what is missing, before anybody reads */
  prepare?: (db: PGlite, schema: string, data: Readonly<Record<string, unknown>>) => Promise<void>
  /** writes under a role of its own, within a transaction of its own: all of it, or nothing */
  write?: (db: PGlite, schema: string, command: unknown) => Promise<string>
  /** is it a sentence for whoever wrote? */
  refused?: (error: unknown) => boolean
}

/** Opens the database of the thread's data and answers one request at a time, in their order. */
export async function runEngine(hooks: ThreadHooks = {}): Promise<void> {
  const { folder, schema, unwanted, ...data } = workerData as { folder: string; schema: string; unwanted?: Int32Array }
  const port = parentPort!
  if (!isMade(folder)) {
    // what was taken in once cannot be made again from nothing: an empty source in its place would be a wrong answer
    if (!hooks.prepare) throw new Error(`its folder ${folder} is gone; put a backup in its place, or put the source away`)
    await makeFolder(folder, async fresh => hooks.prepare!(fresh, schema, data))
  }
  const { db, note } = await openFolder(folder)
  if (note) console.error(note)
  await hooks.prepare?.(db, schema, data)
  await secureSource(db, schema)
  const ports = new Map<number, MessagePort>()
  let turn = Promise.resolve()
  port.on('message', (request: EngineRequest) => {
    if (request.kind === 'port') ports.set(request.id, request.port)
    else if (request.kind === 'portClosed') {
      ports.get(request.id)?.close()
      ports.delete(request.id)
    } else turn = turn.then(() => answer(request))
  })
  port.postMessage({ kind: 'open' })

  async function write(id: number, command: unknown): Promise<void> {
    try {
      needRoom(folder)
      const outcome = await hooks.write!(db, schema, command)
      port.postMessage({ id, kind: 'written', outcome })
    } catch (error) {
      const dead = isDead(error)
      if (!dead) await db.exec('rollback').catch(() => {})
      const full = machineSentence(error)
      const message = full ?? (error instanceof Error ? error.message : String(error))
      port.postMessage({
        id,
        kind: 'error',
        message,
        ...(full || hooks.refused?.(error) ? { refused: true } : {}),
        ...(dead ? { unsound: true } : {}),
      })
    }
  }

  /**
   * Begins to read. What the source holds is read as its owner; all else under the role that can only read, or, of somebody with guards,
   * under one that sees what they see and that goes with the transaction. Authors write the names of tables without their schema.
   */
  async function begin(who: 'owner' | 'reader' | 'guarded', authored: boolean, guard: readonly string[] = []): Promise<void> {
    const isolation = 'begin transaction isolation level repeatable read'
    const settings = `set local search_path to ${authored ? quotedName(schema) : "''"}; set local datestyle to 'ISO'`
    if (who !== 'guarded')
      return void (await db.exec(`${isolation} read only; ${who === 'owner' ? '' : `set local role ${readerRole};`} ${settings}`))
    await db.exec(isolation)
    // what reads guarded tables as their owner would show all of them
    const views = await db.query<{ name: string; kind: string }>(
      `select c.relname::text as name, c.relkind::text as kind from pg_class c join pg_namespace n on n.oid = c.relnamespace
       where n.nspname = $1 and c.relkind in ('v', 'm')`,
      [schema],
    )
    const place = (name: string) => `${quotedName(schema)}.${quotedName(name)}`
    const closed = views.rows.map(({ name, kind }) =>
      kind === 'v' ? `alter view ${place(name)} set (security_invoker = true)` : `revoke all on ${place(name)} from ${guardedRole}`,
    )
    await db.exec([...guard, ...closed, `set local role ${guardedRole}`, 'set transaction read only', settings].join('; '))
  }

  async function answer(request: Exclude<EngineRequest, { kind: 'port' | 'portClosed' }>): Promise<void> {
    const { id } = request
    if (request.kind === 'write') return write(id, request.command)
    const authored = request.kind === 'describe' || (request.kind === 'query' && request.query.authored === true)
    let outcome: object
    try {
      const guard = request.kind === 'describe' ? request.guard : request.kind === 'query' ? request.query.guard : undefined
      await begin(request.kind === 'catalog' ? 'owner' : guard ? 'guarded' : 'reader', authored, guard)
      if (request.kind === 'describe') {
        const described = await describeStatement(db, request.text)
        // rights are looked at when a statement is begun, not when it is described: columns that are hidden are not there. The text is one
        // statement, or it could not have been described
        if (guard) await db.exec(`explain (generic_plan) ${request.text}`)
        const types = await db.query<{ name: string }>(
          'select format_type(t.type, t.modifier) as name from unnest($1::oid[], $2::int[]) with ordinality as t(type, modifier, ' +
            'place) order by t.place',
          [described.map(each => each.type), described.map(each => each.modifier)],
        )
        outcome = {
          kind: 'described',
          columns: described.map(({ name }, index) => ({
            name,
            ...typeOf(types.rows[index]!.name),
            databaseType: types.rows[index]!.name,
          })),
        }
      } else if (request.kind === 'catalog') {
        outcome = { kind: 'catalog', catalog: await readCatalog(db, schema) }
      } else {
        const direct = request.port === undefined ? undefined : ports.get(request.port)
        let parts = 0
        const count = await streamQuery(db, request.query, request.rowLimit, rows => {
          if (unwanted && Atomics.load(unwanted, 0) === id) throw new StatementError('nobody waits for the rest of it')
          parts++
          if (direct) direct.postMessage({ tag: request.query.tag, rows }, buffersOf(rows))
          else port.postMessage({ id, kind: 'rows', rows }, buffersOf(rows))
        })
        outcome = { kind: 'done', count, parts: direct ? parts : 0 }
      }
    } catch (error) {
      outcome = {
        kind: 'error',
        message: error instanceof Error ? error.message : String(error),
        ...(error instanceof StatementError && error.position !== undefined ? { position: error.position } : {}),
        ...(error instanceof ValueError ? { refused: true } : {}),
        ...(error instanceof UnansweredError || isDead(error) ? { unsound: true } : {}),
      }
    }
    await db.exec('rollback').catch(() => {})
    if (authored && !('unsound' in outcome) && !(await sound()))
      outcome = {
        kind: 'error',
        message: 'the text left the source unable to answer, so it was opened anew; nothing was changed',
        unsound: true,
      }
    port.postMessage({ id, ...outcome })
  }

  /** After a text of an author's the engine must still answer, as itself; one that does not is ended and opened anew by the other side. */
  async function sound(): Promise<boolean> {
    try {
      // locks that a text has taken go with it
      await db.exec('select pg_advisory_unlock_all()')
      const { rows } = await db.query<{ sound: number; user: string; session: string }>(
        'select 1 as sound, current_user as user, session_user as session',
      )
      return rows.length === 1 && rows[0]!.sound === 1 && rows[0]!.user === rows[0]!.session
    } catch {
      return false
    }
  }
}
