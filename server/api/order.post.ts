import { need } from '../access/need'
import { readOutput } from '../../core/api/outputs'

/**
 * A whole run into one file, as the command line asks for it; what it counted stands in a header. With a definition it is that of a
 * draft, which nobody has saved, under the name that it is to have.
 */
export default route(async (context, event, app) => {
  const { report: asked, definition, answers, output, layout } = await bodyOf(event, 'order')
  if (definition) need(context, 'author')
  const saved = definition ? undefined : await app.store.report(context, asked, 'published')
  const name = saved?.name ?? asked
  const own = saved?.definition ?? (await app.planner.read(context, definition))
  const more = saved ? { version: `${saved.id} ${saved.version}` } : {}
  const input = await app.checkedInput(context, name, own, answers, { ...more, layout })
  return sendRun(context, event, app, input, readOutput(output), result => {
    setResponseHeader(event, 'x-estante-result', encodeURIComponent(JSON.stringify({ ...result, report: name })))
    setResponseHeader(event, 'content-type', 'application/octet-stream')
  })
})
