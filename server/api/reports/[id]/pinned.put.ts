import { assembleReport, usedFields } from '../../../../core/compose/assemble'
import { packEnvelope, withHead } from '../../../../core/value/envelope'
import { pinnedRecords } from '../../../runs/pinned'
import { rowsFromCsv, rowsFromJson, RowsError } from '../../../../core/read/pinned'
import { columnOf } from '../../../../core/value/columns'
import { readDefinition } from '../../../../core/definition/schema'
import { StoreError } from '../../../store/store'

/** Takes in rows from a file as the pinned rows: all levels from JSON, or one level from CSV. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const { definition: edited, answers, format, level, text } = await bodyOf(event, 'importRows')
  const definition = readDefinition(edited)
  const report = assembleReport(definition, (await app.sources.catalog(definition.dataSets[0]!.source)).catalog)
  const { levels } = report.tree
  try {
    const before = await app.store.pinned(context, id)
    const held = before && pinnedRecords(before.rows).levels
    const records =
      format === 'json'
        ? rowsFromJson(text, levels)
        : rowsFromCsv(
            text,
            levels,
            level ?? '',
            held?.length === levels.length
              ? { levels: held }
              : { levels: levels.map(() => ({ count: 0, starts: new Int32Array(1), columns: {} })) },
          )
    // what the pages use and the file does not hold is empty
    usedFields(report, false).forEach((paths, at) => {
      const own = records.levels[at]!
      for (const path of paths) own.columns[path] ??= columnOf(levels[at]!.fields.get(path)!.type, new Array<null>(own.count).fill(null))
    })
    const head = { total: records.levels[0]!.count, sql: [], ms: 0, fromFile: true }
    const rows = packEnvelope(head, records.levels)
    const pinnedAt = await app.store.pin(context, id, answers, rows)
    setResponseHeader(event, 'content-type', 'application/octet-stream')
    return Buffer.from(withHead(rows, { answers, pinnedAt: pinnedAt.toISOString() }))
  } catch (error) {
    if (error instanceof RowsError) throw new StoreError(error.message, 422)
    throw error
  }
})
