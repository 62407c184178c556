import { applySettings, noSettings, type SourceSettings } from '../../core/books/settings'
import { checkLedger, type LedgerCheck } from '../../core/sql/ledgerChecks'
import type { FiscalPeriod } from '../../core/books/calendar'
import type { FiscalYearRule } from '../../core/books/fiscalYear'
import type { ChartRow } from '../../core/books/chart'
import { ledgerLack, type LedgerMap } from '../../core/books/ledger'
import { chart, type Estante, sourceSchema, withRows } from '../estante'
import { StoreError } from '../store/store'

/** The books of a source: where they are, what was found by itself, the calendar, and what checking against the data says. */
export interface Books {
  ledger?: LedgerMap
  /** what was found by itself, where it is not what is said */
  found?: LedgerMap
  fiscalYear?: FiscalYearRule
  /** does the source have a table of periods? */
  ownPeriods: boolean
  /** the last two years' periods */
  periods: FiscalPeriod[]
  accounts: ChartRow[]
  checks: LedgerCheck[]
}

/**
 * The books under some settings. Those that are `kept` and name what the source does not have any more are set aside, which a check says.
 * @throws StoreError where others name what the source does not have
 */
export async function booksOf(app: Estante, settings: Pick<SourceSettings, 'ledger' | 'fiscalYear'>, kept = false): Promise<Books> {
  const bare = await app.bareCatalog()
  const { fiscalYear } = settings
  const lack = settings.ledger && ledgerLack(settings.ledger, bare)
  const said = lack ? undefined : settings.ledger
  if (lack && !kept) throw new StoreError(`The source does not have ${lack}; choose another.`, 422)
  const { ledger: map, calendar } = applySettings(bare, {
    ...noSettings,
    ...(said ? { ledger: said } : {}),
    ...(fiscalYear ? { fiscalYear } : {}),
  })
  const accounts = map ? await chart(app.engine, map) : []
  const ledger = map && said ? await withRows(app.engine, map) : map
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
      ...(ledger ? await checkLedger(ledger, sourceSchema, query => app.engine.query(query), calendar) : []),
    ],
  }
}
