import type { AddedSource } from '../../../../core/api/intake'
import { saidOf } from '../../../utils/said'

/** Takes files that were brought into a source of files that is there. */
export default route(async (context, event, app): Promise<Pick<AddedSource, 'tables'>> => {
  const { files, evenSo } = await bodyOf(event, 'filesAgain')
  const given = files.map(each => ({ ...app.brought.get(context, each.id), ...saidOf(each) }))
  const taken = await app.takeAgain(context, partOf(event, 'source'), given, { evenSo: evenSo === true })
  const source = app.sources.get(partOf(event, 'source'))
  await writeDown(context, event, app, 'source changed', { source: source.name, id: source.id, what: 'files' })
  for (const id of new Set(files.map(each => each.id))) app.brought.drop(context, id)
  return taken
})
