import { printersOf } from '../../packs/outside'

/** Printers by their names; where they are, for administrators. */
export default route(async (context, _event, app) => {
  const { value, version } = await app.store.company.printers(context)
  const administers = !context.signedIn || context.signedIn.role === 'administrator'
  return { printers: await printersOf(app.store), ...(administers ? { version, own: value } : {}) }
})
