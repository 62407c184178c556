import { once } from 'node:events'
import { Worker } from 'node:worker_threads'
import { sql } from 'drizzle-orm'
import { bound } from '../../../core/catalog/dialect'
import { workerFile } from '../../root'
import type { KeepAnswer, KeepOrder, KeepRequest } from './keep.worker'
import { copySchema, type Place } from './place'
import { KeepingError, type Target } from './target'

/** Pieces of rows that are on their way at a time. */
const mostOnTheWay = 2

/** A statement that the tables' engine refused; `code` is that of the database. */
export class FillError extends Error {
  constructor(
    message: string,
    readonly code?: string,
  ) {
    super(message)
  }
}

/**
 * The same as `makeTables`, with the engine in a thread of its own: rows are read and written at once. What `fill` does goes there in its
 * order; a piece of rows is waited for only where more of them are on their way. @throws KeepingError, FillError, or what `fill` throws
 */
export async function makeTablesAside(
  place: Place,
  fill: (target: Target) => Promise<void>,
  from?: { place: Place; tables: readonly string[] },
): Promise<void> {
  const worker = new Worker(workerFile('keep'), { workerData: { place, ...(from ? { from } : {}) } satisfies KeepOrder })
  const waiting = new Map<number, { resolve: (rows: Record<string, unknown>[]) => void; reject: (error: Error) => void }>()
  let broken: Error | undefined
  const made = new Promise<void>((resolve, reject) => {
    const fail = (error: Error) => {
      broken ??= error
      for (const { reject: each } of waiting.values()) each(error)
      waiting.clear()
      reject(error)
    }
    worker.on('message', (answer: KeepAnswer) => {
      if (answer.kind === 'made') resolve()
      else if (answer.kind === 'failed') fail(answer.sentence ? new KeepingError(answer.message) : new FillError(answer.message))
      else {
        const { resolve: done, reject: failed } = waiting.get(answer.id)!
        waiting.delete(answer.id)
        if (answer.kind === 'done') done(answer.rows)
        else failed(new FillError(answer.message, answer.code))
      }
    })
    worker.on('error', fail)
    worker.on('exit', () => fail(new FillError('the thread that writes ended')))
  })
  made.catch(() => {})
  let last = 0
  const ask = (request: KeepRequest & { id: number }, transfer: ArrayBuffer[] = []): Promise<Record<string, unknown>[]> =>
    new Promise((resolve, reject) => {
      if (broken) return reject(broken)
      waiting.set(request.id, { resolve, reject })
      worker.postMessage(request, transfer)
    })
  const copying = new Set<Promise<unknown>>()
  let fault: Error | undefined
  /** rows that were refused on their way are told to whoever asks next, once */
  const refuseFault = () => {
    const told = fault
    fault = undefined
    if (told) throw told
  }
  const runText = async (text: string, values: unknown[]) => {
    // what waits for nothing is asked at once, so that all comes in the order in which it was said
    if (copying.size) await Promise.all(copying)
    refuseFault()
    return ask({ kind: 'run', id: ++last, text, values })
  }
  const target: Target = {
    schema: place.kind === 'folder' ? copySchema : place.schema,
    runText,
    run: statement => {
      const { text, values } = bound(statement)
      return runText(text, values)
    },
    copy: async (table, pieces) => {
      while (copying.size >= mostOnTheWay) await Promise.race(copying)
      refuseFault()
      const sent = ask(
        { kind: 'copy', id: ++last, table: bound(sql`${table}`).text, pieces: [...pieces] },
        pieces.map(each => each.buffer),
      )
        .catch((error: Error) => void (fault ??= error))
        .finally(() => copying.delete(sent))
      copying.add(sent)
    },
  }
  try {
    await fill(target)
    await Promise.all(copying)
    refuseFault()
  } catch (error) {
    worker.postMessage({ kind: 'end', made: false } satisfies KeepRequest)
    await Promise.race([made.catch(() => {}), once(worker, 'exit')])
    // where it could not be made at all, that is why
    throw broken instanceof KeepingError ? broken : error
  }
  worker.postMessage({ kind: 'end', made: true } satisfies KeepRequest)
  await made
}
