import { parentPort, workerData } from 'node:worker_threads'
import { sql } from 'drizzle-orm'
import { machineSentence } from '../../failures'
import type { Place } from './place'
import { KeepingError, makeTables } from './target'

/** What the thread is given: where tables are made, and which are there at the beginning. */
export interface KeepOrder {
  place: Place
  from?: { place: Place; tables: readonly string[] }
}

/** What it is asked, in this order; `table` is a name in SQL. */
export type KeepRequest =
  | { kind: 'run'; id: number; text: string; values: unknown[] }
  | { kind: 'copy'; id: number; table: string; pieces: Uint8Array<ArrayBuffer>[] }
  /** all is there, or nothing is to be */
  | { kind: 'end'; made: boolean }

export type KeepAnswer =
  | { kind: 'done'; id: number; rows: Record<string, unknown>[] }
  /** a statement failed; `code` is that of the database */
  | { kind: 'error'; id: number; message: string; code?: string }
  | { kind: 'made' }
  /** nothing is there; a sentence, or what broke */
  | { kind: 'failed'; message: string; sentence: boolean }

const { place, from } = workerData as KeepOrder
const port = parentPort!
const post = (answer: KeepAnswer) => port.postMessage(answer)

/** Whoever fills the tables has given up. */
class Undone extends Error {}

try {
  await makeTables(
    place,
    target =>
      new Promise<void>((resolve, reject) => {
        let turn: Promise<void> = Promise.resolve()
        const work = async (request: Exclude<KeepRequest, { kind: 'end' }>): Promise<void> => {
          try {
            if (request.kind === 'copy') {
              await target.copy(sql.raw(request.table), request.pieces)
              post({ kind: 'done', id: request.id, rows: [] })
            } else post({ kind: 'done', id: request.id, rows: await target.runText(request.text, request.values) })
          } catch (error) {
            const { message, code } = error as Error & { code?: string }
            post({ kind: 'error', id: request.id, message, ...(code ? { code } : {}) })
          }
        }
        port.on('message', (request: KeepRequest) => {
          turn = turn.then(() => {
            if (request.kind !== 'end') return work(request)
            return request.made ? resolve() : reject(new Undone())
          })
        })
      }),
    from,
  )
  post({ kind: 'made' })
} catch (error) {
  const sentence = error instanceof KeepingError ? error.message : machineSentence(error)
  if (!(error instanceof Undone))
    post({ kind: 'failed', message: sentence ?? (error instanceof Error ? error.message : String(error)), sentence: !!sentence })
  else post({ kind: 'failed', message: '', sentence: false })
}
port.close()
