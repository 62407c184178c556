import type { MessagePort } from 'node:worker_threads'
import type { Fetch } from '../../core/read/read'
import type { TableColumn } from '../../core/definition/tables'
import type { Query } from '../../core/sql/query'
import { buffersOf, joinRows, type PackedRows } from '../../core/value/packed'
import type { QueryOptions, Snapshot } from '../sources/contract'
import type { KeptRows } from './keptRows'

type Ask = { kind: 'begin' } | { kind: 'ask'; id: number; query: Query } | { kind: 'describe'; id: number; text: string }
type Reply =
  | { kind: 'part'; id: number; rows: PackedRows }
  /** `parts` of its rows went by the rows' own port */
  | { kind: 'done'; id: number; parts: number }
  | { kind: 'described'; id: number; columns: TableColumn[] }
  | { kind: 'failed'; id: number; message: string }
  | { kind: 'rows'; port: MessagePort }

/**
 * What a run's thread needs to read: it asks by this port, and is given another when it begins, by which rows come straight from the
 * source's thread.
 */
export interface ReadingPorts {
  asks: MessagePort
  /** of the sources that only nested reports read, by id */
  others: Record<string, MessagePort>
}

/** Lets a run in another thread read a snapshot. Questions go through here; rows do not. `waits` hears of each that begins and ends. */
export function serveSnapshot(
  asks: MessagePort,
  snapshot: Snapshot,
  options: QueryOptions = {},
  waits: (by: 1 | -1) => void = () => {},
): void {
  let number = -1
  asks.on('message', (ask: Ask) => {
    if (ask.kind === 'begin') {
      // not before: a source that is opened anew meanwhile would close it
      const rows = snapshot.port()
      number = rows.number
      asks.postMessage({ kind: 'rows', port: rows.port } satisfies Reply, [rows.port])
      return
    }
    const { id } = ask
    const failed = (error: Error) => asks.postMessage({ kind: 'failed', id, message: error.message } satisfies Reply)
    const served = (work: Promise<Reply>) => {
      waits(1)
      work.then(reply => asks.postMessage(reply), failed).finally(() => waits(-1))
    }
    if (ask.kind === 'describe') served(snapshot.describe(ask.text, options).then(columns => ({ kind: 'described', id, columns })))
    if (ask.kind !== 'ask') return
    const onPart = (rows: PackedRows) => asks.postMessage({ kind: 'part', id, rows } satisfies Reply, buffersOf(rows))
    served(snapshot.queryTo(number, tagged(ask.query, id), { ...options, onPart }).then(({ parts }) => ({ kind: 'done', id, parts })))
  })
}

/** Parts name the question that they answer. */
const tagged = (query: Query, tag: number): Query => ({ ...query, tag })

interface Open {
  parts: PackedRows[]
  direct: number
  awaited: number | undefined
  resolve: (parts: PackedRows[]) => void
  reject: (error: Error) => void
}

/** What the source said against a question: a sentence for whoever asked. */
export class SourceSaid extends Error {}

/** What a run reads through: the answers to statements as they come, and the columns that a statement would give. */
export interface Reading {
  query: (query: Query) => Promise<PackedRows[]>
  describe: (text: string) => Promise<TableColumn[]>
}

/** The other side: questions go through one port, rows come by the other. */
export function remoteReading(asks: MessagePort): Reading & { close: () => void } {
  let last = 0
  const open = new Map<number, Open>()
  const describing = new Map<number, { resolve: (columns: TableColumn[]) => void; reject: (error: Error) => void }>()
  const settle = (id: number, job: Open) => {
    if (job.awaited === undefined || job.direct < job.awaited) return
    open.delete(id)
    job.resolve(job.parts)
  }
  const arrived = ({ tag, rows: part }: { tag: number; rows: PackedRows }) => {
    const job = open.get(tag)
    if (!job) return
    job.parts.push(part)
    job.direct++
    settle(tag, job)
  }
  let rows: MessagePort | undefined
  asks.on('message', (reply: Reply) => {
    if (reply.kind === 'rows') {
      rows = reply.port
      rows.on('message', arrived)
      return
    }
    const described = describing.get(reply.id)
    if (described) {
      describing.delete(reply.id)
      if (reply.kind === 'described') described.resolve(reply.columns)
      else if (reply.kind === 'failed') described.reject(new SourceSaid(reply.message))
      return
    }
    const job = open.get(reply.id)
    if (!job) return
    if (reply.kind === 'part') return void job.parts.push(reply.rows)
    if (reply.kind === 'done') {
      job.awaited = reply.parts
      return settle(reply.id, job)
    }
    open.delete(reply.id)
    if (reply.kind === 'failed') job.reject(new SourceSaid(reply.message))
  })
  asks.postMessage({ kind: 'begin' } satisfies Ask)
  return {
    close: () => rows?.close(),
    query: query =>
      new Promise((resolve, reject) => {
        open.set(++last, { parts: [], direct: 0, awaited: undefined, resolve, reject })
        asks.postMessage({ kind: 'ask', id: last, query } satisfies Ask)
      }),
    describe: text =>
      new Promise((resolve, reject) => {
        describing.set(++last, { resolve, reject })
        asks.postMessage({ kind: 'describe', id: last, text } satisfies Ask)
      }),
  }
}

/** What reports read through: the source of the run, and those of the reports nested in it, by id. */
export interface Readings {
  own: Pick<Reading, 'query'>
  others?: Readonly<Record<string, Pick<Reading, 'query'>>>
}

/** Reads each statement once: its rows are kept, and given again to whoever asks the same of the same source. */
export function keptFetch(readings: Readings | undefined, kept: KeptRows): Fetch {
  return async (query, source) => {
    const known = await kept.find(query, source)
    if (known) return joinRows(known)
    if (!readings) throw new SourceSaid('This run has not kept the rows for that; run the report again.')
    const parts = await readingOf(readings, source).query(query)
    await kept.keep(query, parts, source)
    return joinRows(parts)
  }
}

/** Reads and keeps nothing. */
export const plainFetch =
  (readings: Readings): Fetch =>
  async (query, source) =>
    joinRows(await readingOf(readings, source).query(query))

const readingOf = ({ own, others }: Readings, source: string | undefined) => (source === undefined ? own : others![source]!)
