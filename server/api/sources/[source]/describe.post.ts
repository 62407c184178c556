import { bound } from '../../../../core/catalog/dialect'
import { parameterTypes } from '../../../../core/definition/parameters'
import { bindNames, placeInText, SqlTextError } from '../../../../core/sql/authored'
import { SourceError } from '../../../sources/contract'
import { unguarded } from '../../../sources/guarded'
import { route, bodyOf, partOf } from '../../../utils/app'

/** The columns that a statement would give, or the place in it that is at fault. */
export default route(async (context, event, app) => {
  const { definition, text } = await bodyOf(event, 'describe')
  const types = parameterTypes((await app.planner.read(context, definition)).parameters)
  const source = app.sources.get(partOf(event, 'source'))
  const { key, released, parsed } = await app.sources.sight(context, source.id)
  // it would tell of columns that are hidden
  if (key && !source.guardsTexts?.() && !parsed && !released.has(text)) return { fault: { message: unguarded, from: 0, to: text.length } }
  try {
    const statement = bound(bindNames(text, types, {}), true)
    return await app.sources.reading(context, source.id, async snapshot => ({
      columns: await snapshot.describe(statement.text, { timeLimit: 10_000 }),
    }))
  } catch (error) {
    if (error instanceof SqlTextError) return { fault: { message: error.message, from: error.from, to: error.to } }
    if (!(error instanceof SourceError)) throw error
    const from = error.position === undefined ? 0 : placeInText(text, types, error.position - 1)
    const length = /^[\w.]+|^./.exec(text.slice(from))?.[0].length ?? 0
    return { fault: { message: error.message.replace(/^The source answered: /, ''), from, to: from + length } }
  }
})
