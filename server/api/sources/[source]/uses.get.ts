import { usesOfSource } from '../../../sources/usesOfSource'

/** Every report that reads a table or a column, and where. */
export default route((context, event, app) => {
  const { table, column } = askedOf(event)
  return usesOfSource(context, app, partOf(event, 'source'), { table: table ?? '', ...(column ? { column } : {}) })
})
