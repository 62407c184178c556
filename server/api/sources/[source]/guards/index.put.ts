/** Keeps the guards of a source, all of them at once. */
export default route(async (context, event, app) => {
  const { basedOn, guards, released, parsed } = await bodyOf(event, 'guards')
  const source = partOf(event, 'source')
  const before = await guardsOf(context, app, source)
  const version = await keepGuards(context, app, source, { guards, released, parsed, basedOn })
  await writeDown(context, event, app, 'guards changed', {
    source: app.sources.get(source).name,
    guards,
    parsed,
    released: released.filter(text => !before.texts.some(each => each.text === text && each.released)).length,
  })
  await app.recheck()
  return { version }
})
