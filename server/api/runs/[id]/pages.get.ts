/** A stretch of pages, as JSON. */
export default route(async (context, event, app) => {
  const { from, to } = askedOf(event)
  const begin = wholeOf(from, 'from', 0)
  const texts = await app.runs.files.pages(
    context,
    await runOf(context, event, app),
    begin,
    Math.min(wholeOf(to, 'to', begin + 20), begin + 20),
  )
  setResponseHeader(event, 'content-type', 'application/json')
  return `[${texts.join(',')}]`
})
