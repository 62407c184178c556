import { join } from 'node:path'
import type { Context } from '../access/context'
import { StoreError } from '../store/records'
import type { Store } from '../store/store'
import { keptRecord, removeGenerations } from './copies/generations'
import { plainId } from './namedSource'
import { reportsOver } from './reportsOver'
import type { Sources } from './sources'

/** Names that are said of reports which keep a source from going. */
const mostNamed = 3

/**
 * Puts a source away that somebody has added, with its tables. One that reports read stays. @throws StoreError with one sentence
 */
export async function putSourceAway(
  context: Context,
  { store, sources, folder }: { store: Store; sources: Sources; folder: string },
  id: string,
): Promise<void> {
  const source = sources.get(id)
  const connection = (await store.connections(context)).find(each => each.id === source.id)
  if (!connection) throw new StoreError(`“${source.name}” belongs to the program and cannot be put away.`, 422)
  const using = (await reportsOver(context, store, source.id)).map(each => `“${each.name}”`)
  const [are, them] = using.length === 1 ? ['reads', 'that report'] : ['read', 'those reports']
  const named = `${using.slice(0, mostNamed).join(', ')}${using.length > mostNamed ? ` and ${using.length - mostNamed} more` : ''}`
  if (using.length) throw new StoreError(`${named} ${are} “${source.name}”; put ${them} away first.`, 409)
  for (const { id: named } of await store.connections(context)) if (plainId(named) === source.id) await store.disconnect(context, named)
  await sources.remove(source.id)
  const kept = 'generation' in connection.options ? keptRecord(connection.options).generations : []
  await removeGenerations(join(folder, source.id), source.id, kept)
}
