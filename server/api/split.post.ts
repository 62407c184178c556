import { askSource, wholeAt } from '../runs/ask'

/**
 * For each column, within how many keys it changes (none, and it belongs to the header), and how many rows have no key: no header would
 * hold them.
 */
export default route(async (context, event, app) => {
  const { table, key, columns, ...asked } = await bodyOf(event, 'split')
  if (!columns.length) return { columns: [], without: 0 }
  const { rows } = await askSource(context, app, await askedInput(context, app, asked), { kind: 'split', table, key, columns })
  return { columns: columns.map((column, index) => ({ column, keys: wholeAt(rows, index) })), without: wholeAt(rows, columns.length) }
})
