/** A run of a pack with all its parts and what goes out of it; with `wait` the answer comes when there is news. */
export default route(async (context, event, app) => {
  const run = await packRunOf(context, event, app)
  const grows = run.state === 'waiting' || run.state === 'running' || run.state === 'sending'
  if (askedOf(event).wait === '1' && grows) {
    await Promise.race([app.packs.news, new Promise(resolve => setTimeout(resolve, 5000))])
    return packRunDetail(context, app, await packRunOf(context, event, app))
  }
  return packRunDetail(context, app, run)
})
