/** The letterhead that all reports share, and its version. */
export default route(async (context, _event, app) => {
  const { value, version } = await app.store.letterhead(context)
  return { letterhead: value ?? null, version }
})
