import { makeDraft } from '../runs/draft'

/** A report drafted from a table: its definition, which nobody has saved yet, and the kind of draft that it is. */
export default route(async (context, event, app) => {
  const order = await bodyOf(event, 'draft')
  return makeDraft(context, app, order)
})
