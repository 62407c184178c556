/** The first records of a definition as it is being edited, packed, with the statements that read them. */
export default route(async (context, event, app) => {
  const { limit, ...asked } = await bodyOf(event, 'rows')
  const bytes = await app.pool.preview(context, await askedInput(context, app, asked), limit)
  setResponseHeader(event, 'content-type', 'application/octet-stream')
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
})
