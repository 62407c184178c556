import { join } from 'node:path'
import type { UnderstoodTable } from '../../../core/api/intake'
import { type Context, ownContext } from '../../access/context'
import { type Connection, StoreError } from '../../store/records'
import { CopySource } from '../copies/copySource'
import {
  type ChangeWords,
  firstGeneration,
  type KeepingParts,
  keptRecord,
  type KeptRecord,
  type Made,
  nextGeneration,
  placeOf,
} from '../copies/generations'
import { keptSource } from '../copies/keptSource'
import { inThread } from '../inThread'
import type { Said, TakenTable } from './take'
import type { FileTable, GivenFile, TakeAnswer, TakeOrder } from './take.worker'

/** How far the reading of files has come: bytes so far, of all that are read, and the file at hand. */
export type TakingProgress = Pick<TakeAnswer & { kind: 'progress' }, 'done' | 'of' | 'file'>

interface Waiting {
  progress?: (progress: TakingProgress) => void
  signal?: AbortSignal
}

/** Where a table of a source of files came from, and what somebody said of it. */
export interface FileOrigin {
  file: string
  sheet?: string
  said?: Said
}

/** What is kept of a source of files. */
export interface FilesRecord extends KeptRecord {
  tables?: Record<string, FileOrigin>
  /** a folder of this machine whose files are taken in again when they change */
  watch?: string
  /** its files as they were taken in last: their size, and when they were written */
  seen?: Record<string, string>
}

const filesUndone = 'The files could not be read'

/** What the tables of a file hold. @throws StoreError with one sentence */
export async function understood(file: GivenFile, more: Waiting = {}): Promise<UnderstoodTable[]> {
  const order: TakeOrder = { task: 'understand', file }
  const answer = await inThread<TakeAnswer>('take', order, filesUndone, more)
  return (answer as TakeAnswer & { kind: 'understood' }).tables
}

interface MadeOfFiles extends Made {
  taken: FileTable[]
}

/** Makes a generation of files: all of them or nothing. @throws StoreError with one sentence */
async function takeFiles(order: Omit<TakeOrder & { task: 'take' }, 'task'>, more: Waiting): Promise<MadeOfFiles> {
  const answer = await inThread<TakeAnswer>('take', { task: 'take', ...order } satisfies TakeOrder, filesUndone, more)
  const { tables: taken } = answer as TakeAnswer & { kind: 'taken' }
  return { taken, tables: Object.fromEntries(taken.map(({ name, rows }) => [name, { rows }])) }
}

/** Files that are being taken in, by who wants them and the name of the source: how far each is. */
const taking = new Map<string, TakingProgress>()
const takingKey = (context: Context, name: string) => JSON.stringify([context.person, name.trim().toLowerCase()])
/** How far files are that this person is having taken in. */
export const takingProgress = (context: Context, name: string): TakingProgress | undefined => taking.get(takingKey(context, name))

/** Tells how far it is to whoever asks by the name of the source. */
const told = (context: Context, name: string, progress?: (progress: TakingProgress) => void): Waiting => ({
  progress: state => {
    taking.set(takingKey(context, name), state)
    progress?.(state)
  },
  ...(context.signal ? { signal: context.signal } : {}),
})

/** Where tables came from. What was said of single lines is of those lines only, and not kept. */
function originsOf(taken: readonly FileTable[], files: readonly GivenFile[]): Record<string, FileOrigin> {
  return Object.fromEntries(
    taken.map(({ name, file, sheet }): [string, FileOrigin] => {
      const given = files.find(each => each.name === file && (each.sheet === undefined || each.sheet === sheet))
      const { titles, titleLine, forms } = given ?? {}
      const said: Said = {
        ...(titles === undefined ? {} : { titles }),
        ...(titleLine === undefined ? {} : { titleLine }),
        ...(forms && Object.keys(forms).length ? { forms } : {}),
      }
      return [name, { file, ...(sheet === undefined ? {} : { sheet }), ...(Object.keys(said).length ? { said } : {}) }]
    }),
  )
}

/** A source of files as it was added. */
export function openFiles({ id, name, options }: Connection, folder: string): CopySource {
  const { generation, generations } = keptRecord(options)
  const own = join(folder, id)
  return new CopySource({
    id,
    name,
    kind: 'files',
    from: 'files',
    generation: generations.find(each => each.number === generation) ?? { number: generation, at: '', rows: 0 },
    place: kept => placeOf(own, id, kept),
  })
}

/**
 * A new source of files: each becomes a table. The source is there, with all of its tables, or nothing is.
 * @throws StoreError with one sentence
 */
export async function addFiles(
  context: Context,
  parts: KeepingParts,
  name: string,
  files: readonly GivenFile[],
  more: { progress?: (progress: TakingProgress) => void; watch?: { folder: string; seen: Record<string, string> } } = {},
): Promise<{ id: string; tables: TakenTable[] }> {
  if (!files.length) throw new StoreError('There are no files to take in; choose one at least.', 422)
  const kept = ({ taken }: MadeOfFiles): Omit<FilesRecord, keyof KeptRecord> => ({
    tables: originsOf(taken, files),
    ...(more.watch ? { watch: more.watch.folder, seen: more.watch.seen } : {}),
  })
  try {
    const { id, made } = await firstGeneration(context, parts, { name, kind: 'files', open: openFiles, more: kept }, place =>
      takeFiles({ place, files: [...files] }, told(context, name, more.progress)),
    )
    return { id, tables: made.taken }
  } finally {
    taking.delete(takingKey(context, name))
  }
}

/** What is kept of a source of files. @throws StoreError where it is none */
export async function filesRecord(context: Context, parts: KeepingParts, id: string): Promise<{ source: CopySource; record: FilesRecord }> {
  const { source, kind, record } = await keptSource(context, parts, id)
  if (kind !== 'files') throw new StoreError(`“${source.name}” does not hold files; add them as a source of their own.`, 422)
  return { source, record: record as unknown as FilesRecord }
}

/** Sources of files whose tables are being replaced. */
const replacing = new Set<string>()
/** Are files being taken into a source now? */
export const isReplacing = (id: string): boolean => replacing.has(id)
const againWords: ChangeWords = { undone: 'Nothing was taken in', same: 'take them in' }

/**
 * Takes files into a source that is there: each replaces the table that is called as its own would be, or is one more; all other tables
 * stay. It is put in place as a generation, or not at all. @throws StoreError with one sentence, where reports would break too
 */
export async function takeAgain(
  context: Context,
  parts: KeepingParts,
  id: string,
  files: readonly GivenFile[],
  more: { evenSo?: boolean; progress?: (progress: TakingProgress) => void; seen?: Record<string, string> } = {},
): Promise<{ tables: TakenTable[] }> {
  const { source, record } = await filesRecord(context, parts, id)
  if (!files.length) throw new StoreError('There are no files to take in; choose one at least.', 422)
  if (replacing.has(source.id)) throw new StoreError(`Files are being taken into “${source.name}” already; wait until that is done.`, 409)
  replacing.add(source.id)
  try {
    const { made } = await nextGeneration<FilesRecord, MadeOfFiles>(
      context,
      parts,
      { source, record, evenSo: more.evenSo === true, words: againWords, stays: true },
      async (place, { kept, place: before }) => {
        const known =
          kept.tables ??
          Object.fromEntries((await parts.sources.catalog(ownContext, source.id)).catalog.tables.map(each => [each.name, { rows: 0 }]))
        const from = { place: before, tables: Object.keys(known) }
        const fresh = await takeFiles({ place, files: [...files], from }, told(context, source.name, more.progress))
        return { taken: fresh.taken, tables: { ...known, ...fresh.tables } }
      },
      (own, { taken }) => ({
        ...own,
        tables: { ...own.tables, ...originsOf(taken, files) },
        ...(more.seen ? { seen: { ...own.seen, ...more.seen } } : {}),
      }),
    )
    return { tables: made.taken }
  } finally {
    replacing.delete(source.id)
    taking.delete(takingKey(context, source.name))
  }
}
