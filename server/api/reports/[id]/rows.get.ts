import { StoreError } from '../../../store/records'

/** The pinned rows as a file: JSON of all levels, or CSV of one. */
export default route(async (context, event, app) => {
  const report = await app.store.report(context, partOf(event, 'id'))
  const pinned = await app.store.beside.pinned(context, report.id, await pinnedSight(context, app, report.id))
  if (!pinned) throw new StoreError(`No rows are pinned for “${report.name}” yet; pin some first.`, 404)
  const { level, format: asked } = askedOf(event)
  const format = asked === 'csv' ? 'csv' : 'json'
  const input = await app.input(context, report.name, report.definition, {}, { version: `${report.id} ${report.version}` })
  const text = await app.pool.pinnedFile(context, input, pinned.rows, format, level)
  setResponseHeader(event, 'content-type', format === 'csv' ? 'text/csv; charset=utf-8' : 'application/json')
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename*=UTF-8''${encodeURIComponent(`${report.name} ${format === 'csv' ? level : 'rows'}.${format}`)}`,
  )
  return text
})
