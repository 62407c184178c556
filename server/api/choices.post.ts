import { readChoices } from '../runs/choices'
import { type Asked, askedInput, isAsked } from '../utils/asked'

interface Body extends Asked {
  parameter: string
  search?: string
  offset?: number
  values?: string[]
  count?: boolean
}

/** A page of a parameter's choices, narrowed by the answers above it. */
export default route(async (event, app) => {
  const body = await jsonBody<Body>(event, each => isAsked(each) && typeof each.parameter === 'string')
  return readChoices(app.engine, await askedInput(app, body), body.parameter, {
    limit: 100,
    search: body.search,
    offset: Math.max(0, body.offset ?? 0),
    ...(body.values ? { values: body.values } : {}),
    count: body.count,
  })
})
