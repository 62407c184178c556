import { PassThrough } from 'node:stream'
import { text as readAll } from 'node:stream/consumers'
import { assembleReport } from '../../../../core/compose/assemble'
import { pinnedRecords } from '../../../runs/pinned'
import { StoreError } from '../../../store/store'
import { CsvRows, JsonRows } from '../../../runs/formats/rows'

/** The pinned rows as a file: JSON of all levels, or CSV of one. */
export default route(async (context, event, app) => {
  const report = await app.store.report(context, partOf(event, 'id'))
  const pinned = await app.store.pinned(context, report.id)
  if (!pinned) throw new StoreError(`No rows are pinned for “${report.name}” yet; pin some first.`, 404)
  const { levels } = assembleReport(report.definition, (await app.sources.catalog(report.definition.dataSets[0]!.source)).catalog).tree
  const data = pinnedRecords(pinned.rows)
  const { format, level: name } = askedOf(event)
  const level = levels.find(each => each.name === name)
  if (format === 'csv' && !level) throw new StoreError(`There is no level “${name ?? ''}”.`, 404)
  const missing = levels.length !== data.levels.length
  if (missing) throw new StoreError('The levels have changed since the rows were pinned; pin them again.', 409)
  const out = new PassThrough()
  const whole = readAll(out)
  const writer = format === 'csv' ? new CsvRows(out, level!) : new JsonRows(out, levels)
  await writer.add(data)
  await writer.end()
  out.end()
  const file = `${report.name} ${format === 'csv' ? level!.name : 'rows'}.${format === 'csv' ? 'csv' : 'json'}`
  setResponseHeader(event, 'content-type', format === 'csv' ? 'text/csv; charset=utf-8' : 'application/json')
  setResponseHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(file)}`)
  return whole
})
