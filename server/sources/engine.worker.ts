import { parentPort, workerData } from 'node:worker_threads'
import { PGlite } from '@electric-sql/pglite'
import type { Query } from '../../core/sql/query'
import { fillDemo } from '../../demo/fill'
import { columnType, readCatalog } from './introspect'
import { buffersOf } from '../../core/value/packed'
import { DeskError } from '../../demo/desk'
import { type DeskDocument, postAtDesk } from '../../demo/deskDocuments'
import { deskRole, readerRole, secureSource } from './roles'
import { describeStatement, StatementError, streamQuery } from './wire'

/** What the engine's thread is asked. */
export type EngineRequest =
  | { id: number; kind: 'query'; query: Query; rowLimit: number }
  | { id: number; kind: 'catalog' }
  | { id: number; kind: 'describe'; text: string }
  | { id: number; kind: 'post'; document: DeskDocument }

interface Start {
  folder: string
  schema: string
  demo?: { scale: number }
}

const start = workerData as Start
const port = parentPort!

const db = await PGlite.create(start.folder)
if (start.demo) await fillDemo(db, start.schema, start.demo.scale)
await secureSource(db, start.schema)
port.postMessage({ kind: 'open' })

let turn = Promise.resolve()
port.on('message', (request: EngineRequest) => {
  turn = turn.then(() => answer(request))
})

/** A document of the company desk: all of it, or nothing. */
async function post(id: number, document: DeskDocument): Promise<void> {
  try {
    await db.exec(
      `begin transaction isolation level serializable; set local role ${deskRole}; set local search_path to ''; set local datestyle
        to 'ISO'`,
    )
    const number = await postAtDesk(db, start.schema, document)
    await db.exec('commit')
    port.postMessage({ id, kind: 'posted', number })
  } catch (error) {
    await db.exec('rollback').catch(() => {})
    port.postMessage({
      id,
      kind: 'error',
      message: error instanceof Error ? error.message : String(error),
      ...(error instanceof DeskError ? { refused: true } : {}),
    })
  }
}

async function answer(request: EngineRequest): Promise<void> {
  const { id } = request
  if (request.kind === 'post') return post(id, request.document)
  const authored = request.kind === 'describe' || (request.kind === 'query' && request.query.authored === true)
  let outcome: object
  try {
    // authors write the names of tables without their schema
    await db.exec(
      `begin transaction isolation level repeatable read read only; set local role ${readerRole}; set local search_path to
        ${authored ? `"${start.schema.replaceAll('"', '""')}"` : "''"}; set local datestyle to 'ISO'`,
    )
    if (request.kind === 'describe') {
      const described = await describeStatement(db, request.text)
      const types = await db.query<{ name: string }>(
        'select format_type(t.type, t.modifier) as name from unnest($1::oid[], $2::int[]) with ordinality as t(type, modifier, ' +
          'place) order by t.place',
        [described.map(each => each.type), described.map(each => each.modifier)],
      )
      outcome = {
        kind: 'described',
        columns: described.map(({ name }, index) => ({
          name,
          ...columnType(types.rows[index]!.name),
          databaseType: types.rows[index]!.name,
        })),
      }
    } else if (request.kind === 'catalog') {
      outcome = { kind: 'catalog', catalog: await readCatalog(db, start.schema) }
    } else {
      const count = await streamQuery(db, request.query, request.rowLimit, rows =>
        port.postMessage({ id, kind: 'rows', rows }, buffersOf(rows)),
      )
      outcome = { kind: 'done', count }
    }
  } catch (error) {
    outcome = {
      kind: 'error',
      message: error instanceof Error ? error.message : String(error),
      ...(error instanceof StatementError && error.position !== undefined ? { position: error.position } : {}),
    }
  }
  await db.exec('rollback').catch(() => {})
  if (authored && !(await sound()))
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
    const { rows } = await db.query<{ sound: number; user: string; session: string }>(
      'select 1 as sound, current_user as user, session_user as session',
    )
    return rows.length === 1 && rows[0]!.sound === 1 && rows[0]!.user === rows[0]!.session
  } catch {
    return false
  }
}
