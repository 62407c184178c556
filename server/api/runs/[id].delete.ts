/** Cancels a run. */
export default route((context, event, app) => {
  app.runs.cancel(context, runOf(context, event, app).id)
  return { cancelled: true }
})
