import { newPack, type PackDefinition, type PackReport } from '../core/pack/definition'
import type { TieFigure } from '../core/definition/tieOuts'

/** A report of the library in a pack, called by its name. */
const report = (name: string, answers: PackReport['answers'], more: Partial<PackReport> = {}): PackReport => ({
  id: name.toLowerCase().replace(/\W+/g, '_'),
  report: name,
  name,
  answers,
  ...more,
})
const period: PackReport['answers'] = { period: { is: 'parameter', name: 'period' } }
const atItsEnd: PackReport['answers'] = { asOf: { is: 'formula', formula: 'periodEnd(param.period)' } }
const line = (id: string, column: string): TieFigure => ({ is: 'line', statement: 'statement', line: id, column })

/** All that the finance team reads at a month's end, of one moment, held where the reports do not agree with each other. */
function monthEnd(): PackDefinition {
  return {
    ...newPack(),
    parameters: [{ name: 'period', label: 'Period', kind: 'period', required: true, default: 'addPeriods(period(today()), -1)' }],
    reports: [
      report('Income statement', period),
      report('Balance sheet', period),
      report('Trial balance', period),
      report('Customer ageing', atItsEnd),
      report('Supplier ageing', atItsEnd),
      report('Budget variance', period),
      report('Income statement', period, { id: 'income_of_branch', each: { parameter: 'branches' } }),
    ],
    ties: [
      {
        id: 'result',
        name: 'The year’s result is the same against the budget',
        left: { report: 'income_statement', figure: line('result', 'toDate') },
        right: { report: 'budget_variance', figure: line('result', 'actualYear') },
        tolerance: '0',
      },
      {
        id: 'branches',
        name: 'The branches’ results add up to the company’s',
        left: { report: 'income_of_branch', figure: line('result', 'toDate') },
        right: { report: 'income_statement', figure: line('result', 'toDate') },
        tolerance: '0',
      },
    ],
    out: { name: 'Month end {{ param.period }}', pdf: true, cover: true, numbered: true, zip: true },
    to: [
      {
        is: 'mail',
        id: 'board',
        to: ['finance@caisvelho.example', 'board@caisvelho.example'],
        subject: 'Month end {{ param.period }}',
        body:
          'Good morning,\n\nthe statements of {{ param.period }} are attached. All figures are of one moment, and what has to tie out ' +
          'is listed on the cover.\n\nCais Velho, finance',
        files: ['pdf'],
      },
      { is: 'folder', id: 'archive', folder: 'Month end', files: ['pdf', 'zip'], replace: true },
    ],
  }
}

/** Packs that the library is offered. */
export const demoPacks = (): { name: string; definition: PackDefinition }[] => [{ name: 'Month end', definition: monthEnd() }]
