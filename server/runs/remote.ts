import type { MessagePort } from 'node:worker_threads'
import type { Fetch } from '../../core/read/read'
import type { Query } from '../../core/sql/query'
import { buffersOf, joinRows, type PackedRows } from '../../core/value/packed'
import type { QueryOptions, Snapshot } from '../sources/contract'

interface Ask {
  kind: 'ask'
  id: number
  query: Query
}
type Reply =
  | { kind: 'part'; id: number; rows: PackedRows }
  /** `parts` of its rows went by the rows' own port */
  | { kind: 'done'; id: number; parts: number }
  | { kind: 'failed'; id: number; message: string }

/** What a run's thread needs to read: it asks by one port, and rows come by another, straight from the source's thread. */
export interface ReadingPorts {
  asks: MessagePort
  rows: MessagePort
}

/** Lets a run in another thread read a snapshot. Questions go through here; rows do not. */
export function serveSnapshot(asks: MessagePort, snapshot: Snapshot, options: QueryOptions = {}): MessagePort {
  const { number, port } = snapshot.port()
  asks.on('message', (ask: Ask) => {
    if (ask.kind !== 'ask') return
    const { id } = ask
    const onPart = (rows: PackedRows) => asks.postMessage({ kind: 'part', id, rows } satisfies Reply, buffersOf(rows))
    snapshot.queryTo(number, tagged(ask.query, id), { ...options, onPart }).then(
      ({ parts }) => asks.postMessage({ kind: 'done', id, parts } satisfies Reply),
      (error: Error) => asks.postMessage({ kind: 'failed', id, message: error.message } satisfies Reply),
    )
  })
  return port
}

/** Parts name the question that they answer. */
const tagged = (query: Query, tag: number): Query => ({ ...query, tag })

interface Open {
  parts: PackedRows[]
  direct: number
  awaited: number | undefined
  resolve: (rows: ReturnType<typeof joinRows>) => void
  reject: (error: Error) => void
}

/** The other side: questions go through one port, rows come by the other. */
export function remoteFetch({ asks, rows }: ReadingPorts): Fetch {
  let last = 0
  const open = new Map<number, Open>()
  const settle = (id: number, job: Open) => {
    if (job.awaited === undefined || job.direct < job.awaited) return
    open.delete(id)
    job.resolve(joinRows(job.parts))
  }
  rows.on('message', ({ tag, rows: part }: { tag: number; rows: PackedRows }) => {
    const job = open.get(tag)
    if (!job) return
    job.parts.push(part)
    job.direct++
    settle(tag, job)
  })
  asks.on('message', (reply: Reply) => {
    const job = open.get(reply.id)
    if (!job) return
    if (reply.kind === 'part') return void job.parts.push(reply.rows)
    if (reply.kind === 'done') {
      job.awaited = reply.parts
      return settle(reply.id, job)
    }
    open.delete(reply.id)
    job.reject(new Error(reply.message))
  })
  return query =>
    new Promise((resolve, reject) => {
      open.set(++last, { parts: [], direct: 0, awaited: undefined, resolve, reject })
      asks.postMessage({ kind: 'ask', id: last, query } satisfies Ask)
    })
}
