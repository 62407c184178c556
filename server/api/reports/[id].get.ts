/** A report as authors see it, or as readers run it with ?which=published. */
export default route((context, event, app) =>
  app.store.report(context, partOf(event, 'id'), askedOf(event).which === 'published' ? 'published' : 'draft'),
)
