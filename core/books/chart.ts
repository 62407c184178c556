import type { AccountNature, LedgerMap } from './ledger'
import { typeWords } from './propose'

/** One account as its table has it. */
export interface ChartRow {
  code: string
  name: string
  type: string | null
  class: string | null
}

/**
 * What only the rows of the accounts tell: the meaning of the words for types, where results are kept, the classes in order, and the bank
 * and cash accounts. What was said before stays.
 */
export function ledgerWords(
  rows: readonly ChartRow[],
  said: Partial<Pick<LedgerMap, 'types' | 'retainedEarnings' | 'cash'>> = {},
): Pick<LedgerMap, 'types' | 'retainedEarnings' | 'classes' | 'cash'> | undefined {
  const types: LedgerMap['types'] = {}
  for (const word of new Set(rows.map(row => row.type))) {
    if (word === null) continue
    const nature = said.types?.[word] ?? Object.entries(typeWords).find(([, test]) => test.test(word))?.[0]
    if (nature) types[word] = nature as AccountNature
  }
  const natureOf = (row: ChartRow) => (row.type === null ? undefined : types[row.type])
  const equity = rows.filter(row => natureOf(row) === 'equity')
  const retained =
    said.retainedEarnings ?? (equity.find(row => /retained|accumulated|brought forward/i.test(row.name)) ?? equity.at(-1))?.code
  if (!Object.keys(types).length || retained === undefined) return undefined
  const classes = new Map<string, AccountNature | 'result'>()
  for (const row of rows) {
    const nature = natureOf(row)
    if (!row.class || !nature) continue
    const known = classes.get(row.class)
    classes.set(row.class, known && known !== nature ? 'result' : nature)
  }
  const cash = said.cash ?? rows.filter(row => natureOf(row) === 'asset' && /\b(bank|cash)\b/i.test(row.name)).map(row => row.code)
  return { types, retainedEarnings: retained, classes: [...classes].map(([name, nature]) => ({ name, nature })), cash }
}
