import { listParameters } from '../runs/choices'

/** The parameters of a report as readers answer them, with their kinds and first choices. */
export default route(async (event, app) => {
  const { name, definition } = await app.store.report(String(getQuery(event).report), 'published')
  return listParameters(app.engine, await app.input(name, definition, {}))
})
