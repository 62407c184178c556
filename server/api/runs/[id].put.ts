/** A run stays, whatever is cleaned up, or does not any more. */
export default route(async (context, event, app) => {
  const { pinned } = await bodyOf(event, 'pinned')
  const run = await runOf(context, event, app)
  await app.runs.pin(context, run, pinned)
  return { pinned }
})
