/** A stretch of pages, as JSON. */
export default route(async (context, event, app) => {
  const { from, to } = getQuery(event)
  const texts = await app.runs.pages(context, runOf(context, event, app), Number(from), Math.min(Number(to), Number(from) + 20))
  setResponseHeader(event, 'content-type', 'application/json')
  return `[${texts.join(',')}]`
})
