import { statementsOf } from '../../core/model/ledger'

/** Footnotes of the statements of all reports that are theirs to edit but one, to be copied. */
export default route(async (context, event, app) => {
  const { but } = askedOf(event)
  const reports = (await app.store.library(context)).flatMap(shelf => shelf.reports).filter(each => each.id !== but && each.edit !== false)
  const found = await Promise.all(
    reports.map(async ({ id, name }) =>
      statementsOf((await app.store.report(context, id)).definition).flatMap(block =>
        block.footnotes?.length ? [{ report: id, name, statement: block.id, footnotes: block.footnotes }] : [],
      ),
    ),
  )
  return found.flat()
})
