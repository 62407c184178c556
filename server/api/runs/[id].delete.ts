/** Cancels a run. */
export default route(async (context, event, app) => {
  await app.runs.cancel(context, (await runOf(context, event, app)).id)
  return { cancelled: true }
})
