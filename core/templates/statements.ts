import type { StatementBlock, StatementColumn, StatementLine } from '../definition/blocks/statement'
import type { LedgerMap } from '../books/ledger'

/** What ready statements are made from: the classes of accounts of a source. */
export type Chart = Pick<LedgerMap, 'classes' | 'cash' | 'retainedEarnings'>

type NewLine = Omit<StatementLine, 'id'> & { id: string }
const quoted = (name: string) => `class "${name.replaceAll('"', '""')}"`
const id = (caption: string) => {
  const words = caption
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
  return (
    words.map((each, index) => (index ? each.charAt(0).toUpperCase() + each.slice(1).toLowerCase() : each.toLowerCase())).join('') || 'line'
  )
}
const classLine = (name: string, more: Partial<StatementLine> = {}): NewLine => ({
  id: id(name),
  kind: 'accounts',
  caption: name,
  accounts: quoted(name),
  indent: 1,
  hideZero: true,
  ...more,
})
const blank = (name: string): NewLine => ({ id: name, kind: 'blank' })
const strong = { bold: true } as const
const total = { ...strong, above: 'thin' as const }
const last = { ...total, below: 'double' as const }

/** Income, cost of sales, running costs, financial results and tax, each with its classes, down to the result. */
export function incomeLines({ classes = [] }: Chart, expand = false): StatementLine[] {
  const financial = classes.filter(
    each => (each.nature === 'result' || each.nature === 'income' || each.nature === 'expense') && /financ|interest/i.test(each.name),
  )
  const rest = classes.filter(each => !financial.includes(each))
  const income = rest.filter(each => each.nature === 'income')
  const expenses = rest.filter(each => each.nature === 'expense')
  const tax = expenses.filter(each => /income tax|tax(es)? on (income|profit)/i.test(each.name))
  const costs = expenses.filter(each => !tax.includes(each) && /cost of|purchases/i.test(each.name))
  const running = expenses.filter(each => !tax.includes(each) && !costs.includes(each))
  if (!income.length && !expenses.length) {
    return [
      { id: 'income', kind: 'accounts', caption: 'Income', accounts: 'type income', expand: true },
      { id: 'expenses', kind: 'accounts', caption: 'Expenses', accounts: 'type expense', expand: true },
      { id: 'result', kind: 'formula', caption: 'Result', formula: 'income - expenses', style: last },
    ]
  }
  const own = (each: { name: string }) => classLine(each.name, expand ? { expand } : {})
  const minus = (list: readonly { name: string }[]) => list.map(each => ` - ${id(each.name)}`).join('')
  const lines: NewLine[] = [
    ...income.map(own),
    {
      id: 'totalIncome',
      kind: 'sum',
      caption: 'Income',
      style: total,
      ...(income[0] ? { from: id(income[0].name), to: id(income.at(-1)!.name) } : {}),
    },
  ]
  let result = 'totalIncome'
  const formula = (name: string, caption: string, text: string, style: StatementLine['style'] = total) => {
    lines.push({ id: name, kind: 'formula', caption, formula: text, style })
    result = name
  }
  if (costs.length) {
    lines.push(...costs.map(own))
    formula('grossProfit', 'Gross profit', `totalIncome${minus(costs)}`)
    lines.push(
      {
        id: 'margin',
        kind: 'formula',
        caption: 'of income',
        formula: 'grossProfit / totalIncome',
        format: '0.0 %',
        indent: 1,
        style: { italic: true, bold: false, above: 'none' },
      },
      blank('afterMargin'),
    )
  }
  if (running.length) {
    lines.push(...running.map(own), {
      id: 'runningCosts',
      kind: 'sum',
      caption: 'Running costs',
      style: total,
      from: id(running[0]!.name),
      to: id(running.at(-1)!.name),
    })
    formula('operatingResult', 'Operating result', `${result} - runningCosts`)
  }
  if (financial.length) {
    lines.push(...financial.map(each => ({ ...own(each), sign: 'credit' as const })))
    formula('beforeTax', 'Result before tax', `${result}${financial.map(each => ` + ${id(each.name)}`).join('')}`)
  }
  if (tax.length) {
    lines.push(...tax.map(own))
    formula('result', 'Result', `${result}${minus(tax)}`)
  }
  return lines.map((line, index) => (index === lines.length - 1 ? { ...line, style: last } : line))
}

/** What the company has, and to whom it belongs; the year's result stands with equity until the year is closed (rule 27). */
export function balanceLines({ classes = [] }: Chart, expand = false): StatementLine[] {
  const of = (nature: string) => classes.filter(each => each.nature === nature)
  const own = (each: { name: string }) => classLine(each.name, expand ? { expand } : {})
  const group = (nature: 'asset' | 'liability' | 'equity', fallback: string) =>
    of(nature).length
      ? of(nature).map(own)
      : [{ id: nature, kind: 'accounts' as const, caption: fallback, accounts: `type ${nature}`, indent: 1, ...(expand ? { expand } : {}) }]
  const [assets, liabilities, equity] = [group('asset', 'Assets'), group('liability', 'Liabilities'), group('equity', 'Equity')]
  return [
    { id: 'assetsHeading', kind: 'heading', caption: 'Assets' },
    ...assets,
    { id: 'totalAssets', kind: 'sum', caption: 'Total assets', style: last, from: assets[0]!.id, to: assets.at(-1)!.id },
    blank('between'),
    { id: 'liabilitiesHeading', kind: 'heading', caption: 'Liabilities' },
    ...liabilities,
    {
      id: 'totalLiabilities',
      kind: 'sum',
      caption: 'Total liabilities',
      style: total,
      from: liabilities[0]!.id,
      to: liabilities.at(-1)!.id,
    },
    { id: 'equityHeading', kind: 'heading', caption: 'Equity' },
    ...equity,
    {
      id: 'resultOfYear',
      kind: 'accounts',
      caption: 'Result of the year',
      accounts: 'type income, type expense',
      sign: 'credit',
      indent: 1,
    },
    { id: 'totalEquity', kind: 'sum', caption: 'Total equity', style: total, from: equity[0]!.id, to: 'resultOfYear' },
    { id: 'totalBoth', kind: 'formula', caption: 'Total liabilities and equity', formula: 'totalLiabilities + totalEquity', style: last },
  ]
}

/**
 * Indirect: the result, what in it moved no money, what customers, stock and suppliers tied up or set free, investments, and loans; it
 * ends with what the bank accounts say.
 */
export function cashLines({ classes = [], cash = [] }: Chart): StatementLine[] {
  const but = cash.length ? ` except ${cash.join(', ')}` : ''
  const find = (nature: string, test: RegExp, not = false) => classes.filter(each => each.nature === nature && test.test(each.name) !== not)
  const [worn, fixed, current] = [
    find('expense', /depreciation/i),
    find('asset', /fixed|non.current/i),
    find('asset', /fixed|non.current/i, true),
  ]
  const [long, short] = [find('liability', /long|non.current/i), find('liability', /long|non.current/i, true)]
  const change = (each: { name: string }, caption: string): NewLine => ({
    id: `change${id(caption).replace(/^./, first => first.toUpperCase())}`,
    kind: 'accounts',
    caption,
    accounts: `${quoted(each.name)}${but}`,
    sign: 'credit',
    indent: 1,
  })
  const depreciation = worn.map(each => ({ ...classLine(each.name), sign: 'debit' as const }))
  const operating: NewLine[] = [
    { id: 'resultOfPeriod', kind: 'accounts', caption: 'Result', accounts: 'type income, type expense', sign: 'credit', indent: 1 },
    ...depreciation,
    ...current.map(each => change(each, each.name)),
    ...short.map(each => change(each, each.name)),
  ]
  const investing = fixed.map(each => change(each, each.name))
  const financing: NewLine[] = [
    ...long.map(each => change(each, each.name)),
    { id: 'changeEquity', kind: 'accounts', caption: 'Equity', accounts: 'type equity', sign: 'credit', indent: 1 },
  ]
  const plus = (list: readonly NewLine[]) => list.map(each => each.id).join(' + ')
  const back = depreciation.length ? ` - ${depreciation.map(each => each.id).join(' - ')}` : ''
  return [
    { id: 'operatingHeading', kind: 'heading', caption: 'Operations' },
    ...operating,
    { id: 'operations', kind: 'formula', caption: 'Cash from operations', formula: plus(operating), style: total },
    { id: 'investingHeading', kind: 'heading', caption: 'Investments' },
    ...investing,
    { id: 'investments', kind: 'formula', caption: 'Cash from investments', formula: `${plus(investing) || '0'}${back}`, style: total },
    { id: 'financingHeading', kind: 'heading', caption: 'Loans and equity' },
    ...financing,
    { id: 'loans', kind: 'formula', caption: 'Cash from loans and equity', formula: plus(financing), style: total },
    { id: 'change', kind: 'formula', caption: 'Change in cash', formula: 'operations + investments + loans', style: last },
    {
      id: 'bank',
      kind: 'accounts',
      caption: 'as the bank and cash accounts say',
      accounts: cash.length ? cash.join(', ') : 'type asset',
      sign: 'debit',
      style: { italic: true },
    },
  ]
}

const span = (
  anchor: string,
  unit: NonNullable<StatementColumn['span']>['unit'],
  more: Partial<NonNullable<StatementColumn['span']>> = {},
) => ({ unit, anchor, ...more })

export const readyStatements = ['income', 'balance', 'cash', 'trial', 'months', 'quarters', 'budget', 'branches', 'account'] as const
export type ReadyStatement = (typeof readyStatements)[number]
export const readyNames: Record<ReadyStatement, string> = {
  income: 'Income statement',
  balance: 'Balance sheet',
  cash: 'Cash flow',
  trial: 'Trial balance',
  months: 'Trend by month',
  quarters: 'Trend by quarter',
  budget: 'Budget variance',
  branches: 'Comparison of branches',
  account: 'Account detail',
}

/** Lines and columns of a ready statement; `period` is the formula that gives its period. */
export function readyStatement(
  kind: ReadyStatement,
  chart: Chart,
  period: string,
): Pick<StatementBlock, 'lines' | 'columns' | 'scale' | 'decimals' | 'negatives' | 'codes' | 'zeroAccounts'> {
  const base = { scale: 'units' as const, decimals: 2, negatives: 'minus' as const, codes: true, zeroAccounts: false }
  const figure = (
    id: string,
    kind: StatementColumn['kind'],
    own: StatementColumn['span'],
    more: Partial<StatementColumn> = {},
  ): StatementColumn => ({ id, kind, width: 0, ...(own ? { span: own } : {}), ...more })
  switch (kind) {
    case 'income':
      return {
        ...base,
        lines: incomeLines(chart),
        columns: [
          figure('actual', 'activity', span(period, 'period')),
          figure('toDate', 'activity', span(period, 'yearToDate')),
          figure('before', 'activity', span(period, 'yearToDate', { back: 1, backBy: 'year' })),
          figure('difference', 'difference', undefined, { of: ['toDate', 'before'], favourable: true, title: 'Better or worse' }),
          figure('percent', 'percent', undefined, { of: ['toDate', 'before'], favourable: true }),
        ],
      }
    case 'balance':
      return {
        ...base,
        lines: balanceLines(chart),
        columns: [
          figure('now', 'balance', span(period, 'period')),
          figure('before', 'balance', span(period, 'year', { back: 1, backBy: 'year' })),
          figure('difference', 'difference', undefined, { of: ['now', 'before'] }),
        ],
      }
    case 'cash':
      return {
        ...base,
        lines: cashLines(chart),
        columns: [
          figure('actual', 'activity', span(period, 'period')),
          figure('toDate', 'activity', span(period, 'yearToDate')),
          figure('before', 'activity', span(period, 'year', { back: 1, backBy: 'year' })),
        ],
      }
    case 'trial':
      return {
        ...base,
        lines: [{ id: 'accounts', kind: 'accounts', caption: 'All accounts', accounts: 'all', sign: 'debit', expand: true, style: last }],
        columns: [
          figure('opening', 'opening', span(period, 'period'), { title: 'Opening' }),
          figure('debit', 'debit', span(period, 'period'), { title: 'Debit' }),
          figure('credit', 'credit', span(period, 'period'), { title: 'Credit' }),
          figure('closing', 'balance', span(period, 'period'), { title: 'Closing' }),
        ],
      }
    case 'months':
      return {
        ...base,
        decimals: 0,
        lines: incomeLines(chart),
        columns: [
          figure('month', 'activity', span(period, 'period'), { repeat: { over: 'period', count: 12 } }),
          figure('all', 'total', undefined, { of: ['month'] }),
        ],
      }
    case 'quarters':
      return {
        ...base,
        decimals: 0,
        lines: incomeLines(chart),
        columns: [
          figure('quarter', 'activity', span(period, 'quarter'), { repeat: { over: 'quarter', count: 5 } }),
          figure('mean', 'average', undefined, { of: ['quarter'] }),
        ],
      }
    case 'budget':
      return {
        ...base,
        decimals: 0,
        lines: incomeLines(chart),
        columns: [
          figure('actual', 'activity', span(period, 'period'), { title: 'Actual' }),
          figure('budget', 'budget', span(period, 'period'), { title: 'Budget' }),
          figure('variance', 'difference', undefined, { of: ['actual', 'budget'], favourable: true, title: 'Better or worse' }),
          figure('share', 'percent', undefined, { of: ['actual', 'budget'], favourable: true }),
          figure('actualYear', 'activity', span(period, 'yearToDate'), { title: 'Actual, year to date' }),
          figure('budgetYear', 'budget', span(period, 'yearToDate'), { title: 'Budget, year to date' }),
          figure('varianceYear', 'difference', undefined, { of: ['actualYear', 'budgetYear'], favourable: true, title: 'Better or worse' }),
        ],
      }
    case 'branches':
      return {
        ...base,
        decimals: 0,
        lines: incomeLines(chart),
        columns: [
          figure('branch', 'activity', span(period, 'yearToDate'), { repeat: { over: 'branch' } }),
          figure('all', 'activity', span(period, 'yearToDate'), { title: 'All branches' }),
        ],
      }
    case 'account':
      return {
        ...base,
        lines: [
          ...(chart.classes?.length
            ? chart.classes.map(each => classLine(each.name, { expand: true, sign: 'debit' as const, indent: 0 }))
            : [{ id: 'accounts', kind: 'accounts' as const, caption: 'Accounts', accounts: 'all', sign: 'debit' as const, expand: true }]),
        ],
        columns: [
          figure('opening', 'opening', span(period, 'yearToDate'), { title: 'Opening of the year' }),
          figure('debit', 'debit', span(period, 'yearToDate'), { title: 'Debit' }),
          figure('credit', 'credit', span(period, 'yearToDate'), { title: 'Credit' }),
          figure('closing', 'balance', span(period, 'period'), { title: 'Closing' }),
        ],
      }
  }
}
