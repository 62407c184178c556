import { checkFolder, testFolder } from '../../library/checking'

/** Checks the files of a folder of texts, or runs the tests among them; nothing of the library changes. */
export default route(async (context, event, app) => {
  const { files, what, answers } = await bodyOf(event, 'check')
  const own = new Map(files.map(({ path, base64 }) => [path, Buffer.from(base64, 'base64')]))
  return { checked: await (what === 'test' ? testFolder(context, app, own) : checkFolder(context, app, own, answers ? { answers } : {})) }
})
