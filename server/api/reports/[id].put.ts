import type { ReportDefinition } from '../../../core/definition/report'

interface Body {
  basedOn: number
  definition: ReportDefinition
}

/** Saves a draft that names the version it is based on. */
export default route(async (event, app) => {
  const { basedOn, definition } = await jsonBody<Body>(event, body => Number.isInteger(body.basedOn))
  return { version: await app.store.save(getRouterParam(event, 'id')!, basedOn, definition) }
})
