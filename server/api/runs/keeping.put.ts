/** How long runs are kept from now on. */
export default route(async (context, event, app) => {
  const { runs, days, basedOn } = await bodyOf(event, 'keeping')
  const version = await app.store.saveKeeping(context, { runs, days }, basedOn)
  await writeDown(context, event, app, 'keeping changed', { runs, days })
  void app.runs.sweep()
  return { version }
})
