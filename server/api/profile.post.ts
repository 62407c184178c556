import { readProfile } from '../../core/sql/profile'
import { askSource } from '../runs/ask'

/** What a field really holds, whatever the filters are. */
export default route(async (context, event, app) => {
  const { level, path, search, ...asked } = await bodyOf(event, 'profile')
  const { rows, type } = await askSource(context, app, await askedInput(context, app, asked), { kind: 'profile', level, path, search })
  return readProfile(type!, rows)
})
