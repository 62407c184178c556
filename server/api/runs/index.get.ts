import { runStates, type RunFilter, type RunList } from '../../../core/api/runs'
import { runInfo } from '../../utils/runInfo'

/** Runs that are kept, the newest first, with how far they are; narrowed by report, person, state and day. */
export default route(async (context, event, app): Promise<RunList> => {
  const asked = askedOf(event)
  const state = runStates.find(each => each === asked.state)
  const filter: RunFilter = {
    ...(asked.report ? { report: asked.report } : {}),
    ...(asked.person ? { person: asked.person } : {}),
    ...(state ? { state } : {}),
    ...(asked.day && /^\d{4}-\d\d-\d\d$/.test(asked.day) ? { day: asked.day } : {}),
  }
  const found = await app.runs.list(context, filter)
  const runs = await Promise.all(found.map(each => runInfo(context, app, each)))
  const [all, ofWhom, keeping] = await Promise.all([
    app.store.runs.count(context, filter),
    app.store.runs.ofWhom(context),
    app.store.keeping(),
  ])
  return { runs, more: Math.max(0, all - runs.length), ...ofWhom, keeping }
})
