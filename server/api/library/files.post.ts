import { importLibrary } from '../../library/importing'

/** Takes the files of a folder of texts into the library; answers with what has changed. */
export default route(async (context, event, app) => {
  const { files } = await bodyOf(event, 'folder')
  const done = await importLibrary(context, app, new Map(files.map(({ path, base64 }) => [path, Buffer.from(base64, 'base64')])))
  for (const name of [...done.created, ...done.changed])
    await writeDown(context, event, app, 'report saved', { report: name, by: 'folder' })
  for (const name of done.published) await writeDown(context, event, app, 'report published', { report: name, by: 'folder' })
  for (const source of done.guarded) await writeDown(context, event, app, 'guards changed', { source, by: 'folder' })
  return done
})
