/** How many records of a table a team sees by some guards, kept or not. */
export default route(async (context, event, app) => {
  const { guards, team, table } = await bodyOf(event, 'countGuarded')
  return countGuarded(context, app, partOf(event, 'source'), { guards, team, table })
})
