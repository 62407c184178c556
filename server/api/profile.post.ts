import { PlanError } from '../../core/sql/query'
import { profileQuery, readProfile } from '../../core/sql/profile'
import { planningOf } from '../runs/execute'
import { readyRun, RunError } from '../runs/input'

/** What a field really holds, whatever the filters are. */
export default route(async (context, event, app) => {
  const body = await bodyOf(event, 'profile')
  const ready = readyRun(await askedInput(context, app, body), true)
  const { levels } = ready.report.tree
  const level = levels.find(each => each.name === body.level)
  const field = level?.fields.get(body.path)
  if (!level || !field) throw new RunError([`There is no field “${body.path}” on level “${body.level}”.`])
  if (field.inSql === false)
    throw new RunError([`“${field.caption}” is worked out after reading; its profile is that of the fields it is made from.`])
  try {
    const query = profileQuery({ levels, used: [], ...planningOf(ready) }, level.index, body.path, body.search)
    return readProfile(
      field.type,
      await app.sources.reading(context, ready.source, snapshot => snapshot.query(query, { timeLimit: 30_000 })),
    )
  } catch (error) {
    if (error instanceof PlanError) throw new RunError([error.message])
    throw error
  }
})
