import type { LedgerMap, UnitTable } from '../../../../core/books/ledger'

/** What is kept with a source, and its version; for people with guards without what was read from rows that they may not see. */
export default route(async (context, event, app) => {
  const { id } = app.sources.get(partOf(event, 'source'))
  const { value, version } = await app.store.settings(context, id)
  const { key } = await app.sources.sight(context, id)
  return { value: key && value.ledger ? { ...value, ledger: withoutRows(value.ledger) } : value, version }
})

/** Where the books are, without branches, departments and versions by their names: these are read again by whoever asks. */
function withoutRows({ versions: _, branches, departments, ...map }: LedgerMap): LedgerMap {
  const bare = ({ units: __, ...unit }: UnitTable): UnitTable => unit
  return { ...map, ...(branches ? { branches: bare(branches) } : {}), ...(departments ? { departments: bare(departments) } : {}) }
}
