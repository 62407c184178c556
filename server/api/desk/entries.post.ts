import type { DeskEntry } from '../../../demo/desk'

const texts = (value: object) => Object.values(value).every(each => typeof each === 'string' && each.length <= 500)

/** Posts a journal entry to the demo company. */
export default route(async (event, app) => {
  const entry = await jsonBody<DeskEntry>(event, body => typeof body.date === 'string' && typeof body.description === 'string' && body.description.length <= 500 && (body.document === undefined || typeof body.document === 'string') && Array.isArray(body.lines) && body.lines.length <= 500 && body.lines.every(line => typeof line === 'object' && line !== null && texts(line)))
  return { number: await app.engine.post(entry) }
})
