import { assembleReport, usedFields } from '../../../../core/compose/assemble'
import { packLevel, rowsFromCsv, rowsFromJson, RowsError, unpackLevel, type PackedLevel } from '../../../../core/read/pinned'
import { columnOf } from '../../../../core/value/columns'
import { readDefinition } from '../../../../core/definition/schema'
import { StoreError } from '../../../store/store'
import { isAnswers } from '../../../utils/app'

interface Body {
  definition: unknown
  answers: Record<string, string>
  format: 'json' | 'csv'
  level?: string
  text: string
}

/** Takes in rows from a file as the pinned rows: all levels from JSON, or one level from CSV. */
export default route(async (event, app) => {
  const id = getRouterParam(event, 'id')!
  const { definition, answers, format, level, text } = await jsonBody<Body>(
    event,
    body =>
      isAnswers(body.answers) &&
      typeof body.text === 'string' &&
      (body.format === 'json' || (body.format === 'csv' && typeof body.level === 'string')),
  )
  const report = assembleReport(readDefinition(definition), await app.catalog())
  const { levels } = report.tree
  try {
    const before = await app.store.pinned(id)
    const held = before && (JSON.parse(new TextDecoder().decode(before.rows)) as { levels: PackedLevel[] }).levels.map(unpackLevel)
    const records =
      format === 'json'
        ? rowsFromJson(text, levels)
        : rowsFromCsv(
            text,
            levels,
            level!,
            held?.length === levels.length
              ? { levels: held }
              : { levels: levels.map(() => ({ count: 0, starts: new Int32Array(1), columns: {} })) },
          )
    // what the pages use and the file does not hold is empty
    usedFields(report, false).forEach((paths, at) => {
      const own = records.levels[at]!
      for (const path of paths) own.columns[path] ??= columnOf(levels[at]!.fields.get(path)!.type, new Array<null>(own.count).fill(null))
    })
    const rows = { levels: records.levels.map(packLevel), total: records.levels[0]!.count, sql: [], ms: 0, fromFile: true }
    const pinnedAt = await app.store.pin(id, answers, new TextEncoder().encode(JSON.stringify(rows)))
    return { answers, pinnedAt: pinnedAt.toISOString(), rows }
  } catch (error) {
    if (error instanceof RowsError) throw new StoreError(error.message, 422)
    throw error
  }
})
