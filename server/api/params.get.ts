import { listParameters } from '../runs/choices'

/** The parameters of a report as readers answer them, with their kinds and first choices. */
export default route(async (context, event, app) => {
  const { name, definition } = await app.store.report(context, askedOf(event).report ?? '', 'published')
  return listParameters(context, app, await app.input(context, name, definition, {}))
})
