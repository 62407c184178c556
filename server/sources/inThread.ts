import { Worker } from 'node:worker_threads'
import { workerFile } from '../root'
import { StoreError } from '../store/records'

/** What a thread that does one thing tells: how far it has come, one sentence where it fails, or what it came to. */
type Told = { kind: 'progress' } | { kind: 'failed'; sentence: string } | { kind: string }

/**
 * Gives an order to a thread of its own, which ends with it; whoever does not wait any more ends it. `undone` begins the sentence for a
 * thread that broke. @throws StoreError with one sentence, or the signal's reason
 */
export function inThread<Answer extends Told>(
  file: string,
  order: object,
  undone: string,
  more: { progress?: ((progress: Answer & { kind: 'progress' }) => void) | undefined; signal?: AbortSignal | undefined },
): Promise<Exclude<Answer, { kind: 'progress' | 'failed' }>> {
  const { progress, signal } = more
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(signal.reason as Error)
    const worker = new Worker(workerFile(file), { workerData: order })
    const stop = () => void worker.terminate().then(() => reject(signal!.reason as Error))
    signal?.addEventListener('abort', stop, { once: true })
    worker.on('message', (answer: Answer) => {
      if (answer.kind === 'progress') progress?.(answer as Answer & { kind: 'progress' })
      else if (answer.kind === 'failed') reject(new StoreError((answer as { sentence: string }).sentence, 422))
      else resolve(answer as Exclude<Answer, { kind: 'progress' | 'failed' }>)
    })
    worker.on('error', error => reject(new StoreError(`${undone}: ${error.message}`, 422)))
    worker.on('exit', () => {
      signal?.removeEventListener('abort', stop)
      reject(new StoreError(`${undone}: the thread that reads ended.`, 422))
    })
  })
}
