import { askSource, wholeAt } from '../runs/ask'

/** How many roots a definition gives. */
export default route(async (context, event, app) => {
  const { rows } = await askSource(context, app, await askedInput(context, app, await bodyOf(event, 'asked')), { kind: 'count' })
  return { count: wholeAt(rows, 0) }
})
