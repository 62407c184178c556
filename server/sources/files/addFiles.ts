import { join } from 'node:path'
import type { UnderstoodTable } from '../../../core/api/intake'
import type { Context } from '../../access/context'
import type { Store } from '../../store/store'
import { StoreError } from '../../store/records'
import { copySchema, CopySource, generationFolder, removeCopy } from '../copies/copySource'
import { inThread } from '../inThread'
import { newSource } from '../naming'
import type { Sources } from '../sources'
import type { TakenTable } from './take'
import type { GivenFile, TakeAnswer, TakeOrder } from './take.worker'

/** How far the reading of files has come: bytes so far, of all that are read, and the file at hand. */
export type TakingProgress = Pick<TakeAnswer & { kind: 'progress' }, 'done' | 'of' | 'file'>

interface Waiting {
  progress?: (progress: TakingProgress) => void
  signal?: AbortSignal
}

const filesUndone = 'The files could not be read'

/** What the tables of a file hold. @throws StoreError with one sentence */
export async function understood(file: GivenFile, more: Waiting = {}): Promise<UnderstoodTable[]> {
  const order: TakeOrder = { task: 'understand', file }
  const answer = await inThread<TakeAnswer>('take', order, filesUndone, more)
  return (answer as TakeAnswer & { kind: 'understood' }).tables
}

/** Makes a folder of files: all of them or nothing. @throws StoreError with one sentence */
async function takeFiles(folder: string, files: readonly GivenFile[], more: Waiting): Promise<TakenTable[]> {
  const order: TakeOrder = { task: 'take', folder, schema: copySchema, files: [...files] }
  const answer = await inThread<TakeAnswer>('take', order, filesUndone, more)
  return (answer as TakeAnswer & { kind: 'taken' }).tables
}

/**
 * A new source of files: each becomes a table. The source is there, with all of its tables, or nothing is.
 * @throws StoreError with one sentence
 */
export async function addFiles(
  context: Context,
  { store, sources, folder }: { store: Store; sources: Sources; folder: string },
  name: string,
  files: readonly GivenFile[],
  more: { progress?: (progress: TakingProgress) => void } = {},
): Promise<{ id: string; tables: TakenTable[] }> {
  const { id, name: wanted } = newSource(sources, name)
  if (!files.length) throw new StoreError('There are no files to take in; choose one at least.', 422)
  const own = join(folder, id)
  try {
    const tables = await takeFiles(generationFolder(own, 1), files, { ...more, ...(context.signal ? { signal: context.signal } : {}) })
    const takenAt = new Date()
    const source = new CopySource({ id, name: wanted, kind: 'files', from: 'files', folder: own, generation: 1, asOf: takenAt.getTime() })
    await source.open()
    await store.connect(context, { id, name: wanted, kind: 'files', options: { generation: 1, takenAt: takenAt.toISOString() } })
    sources.add(source)
    return { id, tables }
  } catch (error) {
    removeCopy(own)
    throw error
  }
}
