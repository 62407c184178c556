import type { Me } from '../../../core/api/people'

/** Who asks, and whether anybody can sign in. */
export default route(async (context, _event, app): Promise<Me> => ({
  people: await app.people.any(),
  ...(context.signedIn ? { person: context.signedIn } : {}),
}))
