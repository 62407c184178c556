import type { Me } from '../../../core/api/people'

/** Who asks, and whether anybody can sign in. */
export default route(async (context, event, app): Promise<Me> => {
  const people = await app.people.any()
  const { value: provider } = await app.store.provider(context)
  return {
    people,
    ...(people || (app.comesWithDemo && !namedOrigin()) ? {} : { closed: true }),
    ...(provider ? { provider: { name: provider.name, only: provider.only } } : {}),
    ...(context.signedIn
      ? { person: context.signedIn, ...(await app.people.account(context.signedIn.id)) }
      : people && app.demoPeople && fromThisMachine(event)
        ? { demo: await app.demoPeople.list() }
        : {}),
  }
})
