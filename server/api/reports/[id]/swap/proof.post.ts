import { proveSame } from '../../../../runs/proof'
import { RunError } from '../../../../runs/input'
import { pointedReady } from '../../../../sources/swap'

/** A report run on its source and on another with the same answers: do both print the same? */
export default route(async (context, event, app) => {
  const { to, names, answers, layout } = await bodyOf(event, 'proveSwap')
  const { id, name, definition } = await app.store.report(context, partOf(event, 'id'))
  const { definition: now, lacks } = await pointedReady(context, app, definition, to, names)
  if (lacks.length) throw new RunError(lacks)
  return proveSame(context, app, { id, name, before: definition, now }, answers, layout)
})
