import { renderSVG } from 'uqr'

/** Begins one's second factor: its secret, and a picture of it. */
export default route(async (context, event, app) => {
  const { secret, uri } = await app.people.second.begin(ownPerson(context, event))
  return { secret, picture: renderSVG(uri) }
})
