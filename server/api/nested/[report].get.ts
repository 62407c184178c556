import { aboutNested } from '../../runs/nested/about'

/** What a report is where it is nested in another: its parameters, layouts and the totals that it hands out. */
export default route((context, event, app) => {
  const { version, within } = askedOf(event)
  return aboutNested(context, app, partOf(event, 'report'), { version: Number(version) || undefined, within })
})
