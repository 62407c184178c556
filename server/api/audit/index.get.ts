import { auditSearchOf } from '../../utils/auditSearch'

/** Entries of the log that are looked for, the newest first; `below` goes on from one. */
export default route((context, event, app) => {
  const asked = askedOf(event)
  const below = asked.below ? wholeOf(asked.below, 'an entry', 0) : undefined
  return app.store.audit.search(context, auditSearchOf(asked), 100, below)
})
