import type { CopyState } from '../../../core/api/intake'
import type { Context } from '../../access/context'
import { StoreError } from '../../store/records'
import { refreshProgress } from './addCopy'
import { CopySource } from './copySource'
import { keepingAdvice, type KeepingParts, keptRecord, type KeptRecord, useGeneration } from './generations'

/** A source whose tables are made generation by generation, and what is kept of it. @throws StoreError */
export async function keptSource(
  context: Context,
  { store, sources }: KeepingParts,
  id: string,
): Promise<{ source: CopySource; kind: string; record: KeptRecord & Record<string, unknown> }> {
  const source = sources.get(id)
  const connection = (await store.connections(context)).find(each => each.id === source.id)
  if (!(source instanceof CopySource) || !connection)
    throw new StoreError(`“${source.name}” is read in place, so it has no generations.`, 422)
  return { source, kind: connection.kind, record: { ...connection.options, ...keptRecord(connection.options) } }
}

/** Goes to another generation that is still kept. @throws StoreError with one sentence */
export async function goToGeneration(context: Context, parts: KeepingParts, id: string, number: number): Promise<void> {
  await useGeneration(context, parts, await keptSource(context, parts, id), number)
}

/** The generations of a source, and what its last refresh came to. @throws StoreError */
export async function generationsOf(context: Context, parts: KeepingParts, id: string): Promise<CopyState> {
  const { source, kind, record } = await keptSource(context, parts, id)
  const { generation, generations, failed } = record
  const running = refreshProgress(source.id)
  const present = generations.find(each => each.number === generation)
  const advice = present && keepingAdvice(present, kind)
  return {
    generation,
    generations: generations.map(({ number, at, rows, bytes }) => ({ number, at, rows, ...(bytes === undefined ? {} : { bytes }) })),
    ...(failed ? { failed } : {}),
    ...(running ? { running } : {}),
    ...(advice ? { advice } : {}),
  }
}
