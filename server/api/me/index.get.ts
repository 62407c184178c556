import type { Me } from '../../../core/api/people'

/** Who asks, and whether anybody can sign in. */
export default route(async (context, event, app): Promise<Me> => {
  const people = await app.people.any()
  return {
    people,
    ...(people || app.comesWithDemo ? {} : { closed: true }),
    ...(context.signedIn
      ? { person: context.signedIn }
      : people && app.demoPeople && fromThisMachine(event)
        ? { demo: await app.demoPeople.list() }
        : {}),
  }
})
