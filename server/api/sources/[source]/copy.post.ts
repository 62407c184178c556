import type { CopyState } from '../../../../core/api/intake'

/** Copies a database anew, or goes to a generation that is still kept. */
export default route(async (context, event, app): Promise<CopyState> => {
  const { generation, evenSo } = await bodyOf(event, 'refresh')
  const id = partOf(event, 'source')
  if (generation === undefined) await app.copies.refresh(context, id, { evenSo: evenSo === true })
  else await app.copies.use(context, id, generation)
  await writeDown(context, event, app, 'source changed', { source: app.sources.get(id).name, id, what: 'copy' })
  return app.copies.generations(context, id)
})
