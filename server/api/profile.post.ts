import { PlanError } from '../../core/sql/query'
import { profileQuery, readProfile } from '../../core/sql/profile'
import { planningOf, readyRun, RunError } from '../runs/execute'
import { type Asked, askedInput, isAsked } from '../utils/asked'

interface Body extends Asked {
  level: string
  path: string
  search?: string
}

/** What a field really holds, whatever the filters are. */
export default route(async (event, app) => {
  const body = await jsonBody<Body>(event, each => isAsked(each) && typeof each.level === 'string' && typeof each.path === 'string')
  const ready = readyRun(await askedInput(app, body), true)
  const { levels } = ready.report.tree
  const level = levels.find(each => each.name === body.level)
  const field = level?.fields.get(body.path)
  if (!level || !field) throw new RunError([`There is no field “${body.path}” on level “${body.level}”.`])
  if (field.inSql === false)
    throw new RunError([`“${field.caption}” is worked out after reading; its profile is that of the fields it is made from.`])
  const stop = new AbortController()
  event.node.res.on('close', () => stop.abort(new Error('The reader went away.')))
  try {
    return readProfile(
      field.type,
      await app.engine.query(profileQuery({ levels, used: [], ...planningOf(ready) }, level.index, body.path, body.search), {
        client: 'profile',
        timeLimit: 30_000,
        signal: stop.signal,
      }),
    )
  } catch (error) {
    if (error instanceof PlanError) throw new RunError([error.message])
    throw error
  }
})
