import type { AddedServer } from '../../../core/api/intake'
import { saidServer } from '../../utils/said'

/** A new source that is read in place. */
export default route(async (context, event, app): Promise<AddedServer> => {
  const { name, ...said } = await bodyOf(event, 'addServer')
  const { id, tried } = await app.addServer(context, name, saidServer(said))
  await writeDown(context, event, app, 'source added', { source: name.trim(), id })
  const { catalog } = await app.sources.catalog(context, id)
  return { id, name: name.trim(), tried, tables: catalog.tables.length }
})
