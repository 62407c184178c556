import { applySettings, noSettings, type SourceSettings } from '../../core/books/settings'
import { checkLedger } from '../../core/sql/ledgerChecks'
import { ledgerLack } from '../../core/books/ledger'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import { StoreError } from '../store/records'
import type { Books } from '../../core/api/answers'

/**
 * The books under some settings. Those that are `kept` and name what the source does not have any more are set aside, which a check says.
 * @throws StoreError where others name what the source does not have
 */
export async function booksOf(
  context: Context,
  app: Estante,
  id: string,
  settings: Pick<SourceSettings, 'ledger' | 'fiscalYear'>,
  kept = false,
): Promise<Books> {
  const source = app.sources.get(id)
  const bare = await app.sources.bare(context, id)
  const { fiscalYear } = settings
  const lack = settings.ledger && ledgerLack(settings.ledger, bare)
  const said = lack ? undefined : settings.ledger
  if (lack && !kept) throw new StoreError(`The source does not have ${lack}; choose another.`, 422)
  const { ledger: map, calendar } = applySettings(bare, {
    ...noSettings,
    ...(said ? { ledger: said } : {}),
    ...(fiscalYear ? { fiscalYear } : {}),
  })
  const accounts = map ? await app.sources.chart(context, id, map) : []
  const ledger = map && said ? await app.sources.withRows(context, id, map) : map
  return {
    ...(ledger ? { ledger } : {}),
    ...(settings.ledger && bare.ledger ? { found: bare.ledger } : {}),
    ...(fiscalYear ? { fiscalYear } : {}),
    ownPeriods: !!bare.calendar,
    periods: calendar?.periods.slice(-26) ?? [],
    accounts,
    checks: [
      ...(lack
        ? [
            {
              holds: false,
              sentence:
                `What was said about the books names ${lack}, which the source does not have any more; they are taken as ` +
                `they are found.`,
            },
          ]
        : []),
      ...(ledger
        ? await app.sources.reading(context, id, snapshot => checkLedger(ledger, source.schema, query => snapshot.query(query), calendar))
        : []),
    ],
  }
}
