import { editSource } from '../../../sources/editSource'
import { saidCopy, saidServer } from '../../../utils/said'

/** Changes a source that somebody has added; it stays as it was where reports would break. */
export default route(async (context, event, app) => {
  const { name, server, copy, watch, evenSo } = await bodyOf(event, 'editSource')
  await editSource(context, app.keeping, app.within, partOf(event, 'source'), {
    name,
    ...(server ? { server: saidServer(server) } : {}),
    ...(copy ? { copy: saidCopy(copy) } : {}),
    ...(watch === undefined ? {} : { watch }),
    ...(evenSo ? { evenSo } : {}),
  })
  await writeDown(context, event, app, 'source changed', { source: name, id: partOf(event, 'source'), what: 'connection' })
  await app.watches.renew()
  return {}
})
