import { parentPort, workerData } from 'node:worker_threads'
import { PGlite } from '@electric-sql/pglite'
import type { Query } from '../../core/dataset/plan'
import { fillDemo } from '../../demo/fill'
import { readCatalog } from './introspect'
import { buffersOf } from './packed'
import { readerRole, secureSource } from './roles'
import { streamQuery } from './wire'

/** What the engine's thread is asked. */
export type EngineRequest =
  | { id: number, kind: 'query', query: Query, rowLimit: number }
  | { id: number, kind: 'catalog' }

interface Start { folder: string, schema: string, demo?: { scale: number } }

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

async function answer(request: EngineRequest): Promise<void> {
  try {
    await db.exec(`begin transaction isolation level repeatable read read only; set local role ${readerRole}; set local search_path to ''; set local datestyle to 'ISO'`)
    if (request.kind === 'catalog') {
      port.postMessage({ id: request.id, kind: 'catalog', catalog: await readCatalog(db, start.schema) })
    } else {
      const count = await streamQuery(db, request.query, request.rowLimit, rows => port.postMessage({ id: request.id, kind: 'rows', rows }, buffersOf(rows)))
      port.postMessage({ id: request.id, kind: 'done', count })
    }
  } catch (error) {
    port.postMessage({ id: request.id, kind: 'error', message: error instanceof Error ? error.message : String(error) })
  } finally {
    await db.exec('rollback')
  }
}
