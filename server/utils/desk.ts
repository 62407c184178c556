import type { H3Event } from 'h3'
import type { Estante } from '../estante'
import type { Desk } from '../sources/contract'
import { StoreError } from '../store/records'

/** The desk of the source that a request names. @throws StoreError */
export function deskOf(event: H3Event, app: Estante): Desk {
  const { desk, name } = app.sources.get(partOf(event, 'source'))
  if (!desk) throw new StoreError(`Nothing can be posted to ${name}: it has no desk.`, 404)
  return desk
}
