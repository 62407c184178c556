import { mayBe } from '../../access/need'

/** All teams; authors are told their names only, to publish to them. */
export default route(async (context, _event, app) => {
  const teams = await app.store.teams.list(context)
  return mayBe(context, 'administrator') ? teams : teams.map(({ id, name }) => ({ id, name, attributes: {}, people: [] }))
})
