import { formatVersion, type ReportDefinition } from '../../core/definition/report'
import type { ChartBlock } from '../../core/definition/blocks/chart'
import type { StatementBlock } from '../../core/definition/blocks/statement'
import type { TieFigure, TieOut } from '../../core/definition/tieOuts'
import { type Chart, readyNames, type ReadyStatement, readyStatement } from '../../core/templates/statements'
import { by, level, page } from './invoice'

/** The chart of accounts of Cais Velho, as far as statements are made from it. */
export const chart: Chart = {
  retainedEarnings: '3900',
  cash: ['1010', '1020', '1090'],
  classes: [
    { name: 'Current assets', nature: 'asset' },
    { name: 'Fixed assets', nature: 'asset' },
    { name: 'Current liabilities', nature: 'liability' },
    { name: 'Long-term liabilities', nature: 'liability' },
    { name: 'Equity', nature: 'equity' },
    { name: 'Sales', nature: 'income' },
    { name: 'Services', nature: 'income' },
    { name: 'Other income', nature: 'income' },
    { name: 'Cost of sales', nature: 'expense' },
    { name: 'Personnel', nature: 'expense' },
    { name: 'Operating expenses', nature: 'expense' },
    { name: 'Depreciation', nature: 'expense' },
    { name: 'Financial', nature: 'result' },
    { name: 'Income tax', nature: 'expense' },
  ],
}

const underTitle: Record<ReadyStatement, string> = {
  income: '{{ param.period.label }}, EUR',
  balance: 'as of {{ periodEnd(param.period) | d MMMM y }}, EUR',
  cash: '{{ param.period.label }}, EUR',
  trial: '{{ param.period.label }}, EUR',
  months: 'twelve periods to {{ param.period.label }}, EUR',
  quarters: 'five quarters to {{ param.period.label }}, EUR',
  budget: '{{ param.period.label }}, EUR',
  branches: 'year to {{ param.period.label }}, EUR',
  account: 'year to {{ param.period.label }}, EUR',
}
const wide = new Set<ReadyStatement>(['months', 'budget'])
/** statements that ask for the first and last account */
const ranged = new Set<ReadyStatement>(['trial', 'account'])

/** Charts under some of the statements. */
function charts(kind: ReadyStatement): ChartBlock[] {
  const chart = (more: Partial<ChartBlock>): ChartBlock => ({
    kind: 'chart',
    id: 'chart',
    statement: 'statement',
    left: 0,
    width: 0,
    height: 150,
    after: 8,
    form: 'bars',
    series: [],
    legend: true,
    figures: false,
    ...more,
  })
  switch (kind) {
    case 'months':
      return [
        chart({
          height: 126,
          title: 'Income and result, month by month',
          columns: ['month'],
          series: [{ line: 'totalIncome' }, { line: 'result', form: 'lines' }],
        }),
      ]
    case 'branches':
      return [
        chart({
          title: 'What each branch earns',
          columns: ['branch'],
          series: [{ line: 'totalIncome' }, { line: 'grossProfit' }, { line: 'result' }],
          figures: true,
        }),
      ]
    default:
      return []
  }
}

/** A ready statement over the company's books, for one period and all or some branches. */
export function statement(kind: ReadyStatement, change: (block: StatementBlock) => StatementBlock = block => block): ReportDefinition {
  const ready = readyStatement(kind, chart, 'param.period')
  const block: StatementBlock = {
    kind: 'statement',
    id: 'statement',
    level: 'figures',
    left: 0,
    width: 0,
    after: charts(kind).length ? 14 : 8,
    repeatTitles: true,
    ...ready,
    columns: ready.columns.map(column => (column.kind === 'budget' ? { ...column, versionFrom: 'param.version' } : column)),
  }
  const line = (line: string, column: string): TieFigure => ({ is: 'line', statement: 'statement', line, column })
  const formula = (text: string): TieFigure => ({ is: 'formula', dataSet: 'main', formula: text })
  const trial = (result: string, column: string): TieOut => ({
    id: 'profit',
    name: 'The result is that of the trial balance',
    left: line(result, column),
    right: { is: 'trial', statement: 'statement', column, types: ['income', 'expense'] },
    tolerance: '0',
  })
  const ties: Partial<Record<ReadyStatement, TieOut[]>> = {
    income: [trial('result', 'toDate')],
    budget: [trial('result', 'actualYear')],
    branches: [
      { id: 'branches', name: 'The branches add up to all', left: line('result', 'branch'), right: line('result', 'all'), tolerance: '0' },
      trial('result', 'all'),
    ],
    balance: [
      {
        id: 'balances',
        name: 'The balance sheet balances',
        left: line('totalAssets', 'now'),
        right: line('totalBoth', 'now'),
        tolerance: '0',
      },
    ],
    cash: [
      {
        id: 'bank',
        name: 'Cash changes as the bank accounts say',
        left: line('change', 'toDate'),
        right: line('bank', 'toDate'),
        tolerance: '0',
      },
    ],
    months: [
      {
        id: 'profit',
        name: 'Twelve months of results are the ledger’s',
        left: line('result', 'all'),
        right: formula('sum(credit - debit, where: account_type in ("income", "expense"))'),
        tolerance: '0',
      },
    ],
    trial: [
      { id: 'sides', name: 'Debits equal credits', left: line('accounts', 'debit'), right: line('accounts', 'credit'), tolerance: '0' },
    ],
  }
  return {
    ...(ties[kind] ? { tieOuts: ties[kind] } : {}),
    format: formatVersion,
    language: 'en-GB',
    parameters: [
      { name: 'period', label: 'Period', kind: 'period', required: true, default: 'period(today())' },
      {
        name: 'branches',
        label: 'Branches',
        kind: 'choices',
        required: false,
        choices: { table: 'branches', value: 'code', label: 'name' },
      },
      ...(kind === 'budget'
        ? [
            {
              name: 'version',
              label: 'Budget version',
              kind: 'choice' as const,
              required: false,
              default: '"original"',
              choices: { table: 'budgets', value: 'version', label: 'version' },
            },
          ]
        : []),
      ...(ranged.has(kind)
        ? [
            { name: 'fromAccount', label: 'From account', kind: 'text' as const, required: false },
            { name: 'toAccount', label: 'To account', kind: 'text' as const, required: false },
          ]
        : []),
    ],
    dataSets: [
      {
        name: 'main',
        source: 'caisvelho',
        fields: {},
        root: level('figures', '@books', {
          caption: 'Figures of the books',
          fields: ['account', 'account_name', 'period', 'debit', 'credit'],
          sort: [by('account'), by('period')],
        }),
      },
    ],
    tables: [
      {
        kind: 'ledger',
        name: 'books',
        filters: [
          'branch in (param.branches)',
          ...(ranged.has(kind) ? ['account >= param.fromAccount', 'account <= param.toAccount'] : []),
        ],
      },
    ],
    layouts: page(
      [change(block), ...charts(kind)],
      wide.has(kind) ? 'landscape' : 'portrait',
      readyNames[kind],
      `${underTitle[kind]} · {{ param.branches.label }}`,
    ),
  }
}

/** What led from the budget to the actual running costs: a chart of the budget's statement, which itself is not printed. */
export function budgetSteps(): ReportDefinition {
  const report = statement('budget', block => ({
    ...block,
    showWhen: 'false',
    // the steps lead from the first column to the second
    columns: ['budget', 'actual'].map(id => block.columns.find(column => column.id === id)!),
  }))
  const [layout] = report.layouts
  const [own] = layout!.blocks.filter(block => block.kind === 'statement')
  const lines = own!.kind === 'statement' ? own!.lines : []
  const sum = lines.find(line => line.id === 'runningCosts')
  const [from, to] = sum?.kind === 'sum' ? [sum.from, sum.to].map(id => lines.findIndex(line => line.id === id)) : []
  const steps: ChartBlock = {
    kind: 'chart',
    id: 'steps',
    statement: 'statement',
    title: 'Running costs from budget to actual, {{ param.period.label }}',
    left: 0,
    width: 0,
    height: 212,
    after: 0,
    form: 'steps',
    series: lines.slice(from, to! + 1).map(line => ({ line: line.id })),
    legend: false,
    figures: true,
  }
  const { tieOuts: _, ...rest } = report
  return { ...rest, layouts: [{ ...layout!, blocks: [own!, steps] }] }
}
