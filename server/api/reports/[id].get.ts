/** A report as authors see it, or as readers run it with ?which=published. */
export default route((context, event, app) =>
  app.store.report(
    context,
    decodeURIComponent(getRouterParam(event, 'id')!),
    getQuery(event).which === 'published' ? 'published' : 'draft',
  ),
)
