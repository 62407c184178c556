import { describe, expect, it } from 'vitest'
import { salesInvoice } from '../../demo/reports/invoice'
import { parseDay } from '../value/date'
import { readAnswers } from './answers'
import { emptySentence } from './sentences'

const { parameters } = salesInvoice()
const today = parseDay('2026-10-31')!

describe('answers', () => {
  it('left out take their default, given blank are empty', () => {
    expect(readAnswers(parameters, {}, { today })).toEqual({
      values: { month: parseDay('2026-10-01'), customer: null, 'customer.label': 'all' },
      problems: [],
    })
    expect(readAnswers(parameters, { month: '2025-02', customer: ' ' }, { today }).values).toEqual({
      month: parseDay('2025-02-01'),
      customer: null,
      'customer.label': 'all',
    })
  })
  it.each([
    [{ month: 'October' }, '“October” is no month (written like 2026-10) for Month.'],
    [{ month: '2026-13' }, '“2026-13” is no month (written like 2026-10) for Month.'],
    [{ month: '' }, 'Month needs an answer.'],
    [{ moth: '2026-10' }, 'There is no parameter “moth”; the nearest is “month”.'],
    [{ constructor: 'x' }, 'There is no parameter “constructor”; there are month, customer.'],
  ])('%j: one sentence', (given, sentence) => {
    expect(readAnswers(parameters, given as Record<string, string>, { today }).problems.map(problem => problem.sentence)).toEqual([
      sentence,
    ])
  })
})

it('a run without records says so in words', () => {
  expect(emptySentence(salesInvoice(), readAnswers(parameters, { month: '2020-03' }, { today }).values)).toBe('No invoice in March 2020.')
})
