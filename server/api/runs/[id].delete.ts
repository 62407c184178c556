/** Cancels a run. */
export default route((event, app) => {
  app.runs.cancel(runOf(event, app).id)
  return { cancelled: true }
})
