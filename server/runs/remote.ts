import type { MessagePort } from 'node:worker_threads'
import type { Query } from '../../core/sql/query'
import type { Fetch } from '../../core/read/read'
import type { QueryOptions, SourceEngine } from '../sources/engine'
import { buffersOf, joinRows, type PackedRows } from '../../core/value/packed'

interface Ask {
  kind: 'ask'
  id: number
  query: Query
}
type Reply = { kind: 'part'; id: number; rows: PackedRows } | { kind: 'done'; id: number } | { kind: 'failed'; id: number; message: string }

/** Lets a run in another thread ask the engine; rows are handed through without being copied. */
export function serveEngine(port: MessagePort, engine: SourceEngine, options: QueryOptions): void {
  port.on('message', (ask: Ask) => {
    if (ask.kind !== 'ask') return
    engine.query(ask.query, { ...options, onPart: rows => port.postMessage({ kind: 'part', id: ask.id, rows }, buffersOf(rows)) }).then(
      () => port.postMessage({ kind: 'done', id: ask.id }),
      (error: Error) => port.postMessage({ kind: 'failed', id: ask.id, message: error.message }),
    )
  })
}

/** The other side: statements go through the port, rows come back. */
export function remoteFetch(port: MessagePort): Fetch {
  let last = 0
  const open = new Map<
    number,
    { parts: PackedRows[]; resolve: (rows: ReturnType<typeof joinRows>) => void; reject: (error: Error) => void }
  >()
  port.on('message', (reply: Reply) => {
    const job = open.get(reply.id)
    if (!job) return
    if (reply.kind === 'part') return void job.parts.push(reply.rows)
    open.delete(reply.id)
    if (reply.kind === 'done') job.resolve(joinRows(job.parts))
    else job.reject(new Error(reply.message))
  })
  return query =>
    new Promise((resolve, reject) => {
      open.set(++last, { parts: [], resolve, reject })
      port.postMessage({ kind: 'ask', id: last, query } satisfies Ask)
    })
}
