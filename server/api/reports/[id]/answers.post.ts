/** Keeps answers under a name, or lets them go where none are given. */
export default route(async (context, event, app) => {
  const id = partOf(event, 'id')
  const { name, answers } = await bodyOf(event, 'keepAnswers')
  await app.store.beside.saveAnswers(context, id, name.trim(), answers as Record<string, string> | undefined)
  return app.store.beside.savedAnswers(context, id)
})
