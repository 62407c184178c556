import { withHead } from '../../../../core/value/envelope'

/** Takes in rows from a file as the pinned rows: all levels from JSON, or one level from CSV. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const { definition, answers, ...file } = await bodyOf(event, 'importRows')
  const input = await askedInput(context, app, { definition, answers: {} })
  const before = await app.store.beside.pinned(context, id, sightKey(input))
  const rows = await app.pool.pinRows(context, input, file, before?.rows)
  const pinnedAt = await app.store.beside.pin(context, id, answers, rows, sightKey(input))
  setResponseHeader(event, 'content-type', 'application/octet-stream')
  return Buffer.from(withHead(rows, { answers, pinnedAt: pinnedAt.toISOString() }))
})
