/** Reads rows anew and pins them; they come packed. */
export default route(async (context, event, app) => {
  const { limit, ...asked } = await bodyOf(event, 'rows')
  const input = await askedInput(context, app, { ...asked, report: partOf(event, 'id') })
  const bytes = await app.pool.preview(context, input, limit)
  // the rows are on their way before they are put away
  app.store.beside
    .pin(context, partOf(event, 'id'), asked.answers, bytes, sightKey(input))
    .catch((error: unknown) => console.error('Rows were not pinned:', error))
  setResponseHeader(event, 'content-type', 'application/octet-stream')
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
})
