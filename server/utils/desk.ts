import type { H3Event } from 'h3'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { Desk } from '../sources/contract'
import { StoreError } from '../store/records'

/** The desk of the source that a request names. @throws StoreError */
export async function deskOf(context: Context, event: H3Event, app: Estante): Promise<Desk> {
  const { desk, name, id } = app.sources.get(partOf(event, 'source'))
  if (!desk) throw new StoreError(`Nothing can be posted to ${name}: it has no desk.`, 404)
  // what is offered there is read past the guards
  const { key } = await app.sources.sight(context, id)
  if (key) throw new StoreError(`The desk of ${name} shows all of its documents, and guards of your teams hide some of them from you.`, 403)
  return desk
}
