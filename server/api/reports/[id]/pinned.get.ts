/** Rows that the report is designed against, as they were pinned. */
export default route(async (event, app) => {
  const pinned = await app.store.pinned(getRouterParam(event, 'id')!)
  return pinned
    ? {
        answers: pinned.answers,
        pinnedAt: pinned.pinnedAt.toISOString(),
        rows: JSON.parse(new TextDecoder().decode(pinned.rows)) as unknown,
      }
    : {}
})
