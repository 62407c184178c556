import { readPack } from '../../../core/pack/definition'

/** The next times at which a pack would be due, as it is said now. */
export default route(async (_context, event, app) => {
  const { definition } = await bodyOf(event, 'packNext')
  const next = await app.schedule.next({ definition: readPack(definition) }, nextShown)
  return { next: next.map(at => new Date(at).toISOString()) }
})
