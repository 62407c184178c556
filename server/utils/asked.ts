import { type Asked, RequestError } from '../../core/api/requests'
import type { Context } from '../access/context'
import { need } from '../access/need'
import type { Estante } from '../estante'
import type { RunInput } from '../runs/input'

/** What a run over a request needs: of a report as readers run it, or of a definition as it is being edited. */
export async function askedInput(context: Context, app: Estante, { report, definition, answers, dataSet }: Asked): Promise<RunInput> {
  const more = dataSet ? { dataSet } : {}
  if (definition !== undefined) {
    need(context, 'author')
    const known = report === undefined ? undefined : await app.store.draft(context, report)
    const own = { ...more, ...(known ? { report: known.id } : {}) }
    return app.input(context, known?.name ?? 'preview', await app.planner.read(context, definition), answers, own)
  }
  if (report === undefined) throw new RequestError('The request is not complete: it names no report and brings no definition.')
  const found = await app.store.report(context, report, 'published')
  return app.input(context, found.name, found.definition, answers, { ...more, version: `${found.id} ${found.version}` })
}
