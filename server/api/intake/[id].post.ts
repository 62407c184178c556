import { understood } from '../../sources/files/addFiles'
import { saidOf } from '../../utils/said'

/** What a file holds, read as somebody says it is written. */
export default route(async (context, event, app) => {
  const said = await bodyOf(event, 'said')
  const file = app.brought.get(context, partOf(event, 'id'))
  return understood({ ...file, ...saidOf(said) }, context.signal ? { signal: context.signal } : {})
})
