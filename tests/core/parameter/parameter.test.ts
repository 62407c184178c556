import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { salesInvoice } from '../../../demo/reports/invoice'
import { parseDay } from '../../../core/value/date'
import { joinSeveral, readAnswers, splitSeveral } from '../../../core/parameter/answers'
import { cleanFileName } from '../../../core/parameter/fileName'
import { emptySentence } from '../../../core/parameter/sentences'

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

it('a file’s name is none that a system takes for a device, holds no half of a character, and nothing that hides its end', () => {
  expect(['CON', 'con.pdf', 'Lpt1', 'Control'].map(cleanFileName)).toEqual(['_CON', '_con.pdf', '_Lpt1', 'Control'])
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 200 }), text => {
      const name = cleanFileName(text)
      expect(name.length).toBeLessThanOrEqual(120)
      expect(() => encodeURIComponent(name)).not.toThrow()
      expect(name).not.toMatch(/[\p{Cc}\p{Cf}<>:"/\\|?*]|^[. ]|[. ]$/u)
    }),
  )
})

it('several answers come back as they were joined, and any text is read in one go', () => {
  fc.assert(
    fc.property(fc.array(fc.string({ unit: 'grapheme', minLength: 1 }).filter(each => each.trim() !== '')), values => {
      expect(splitSeveral(joinSeveral(values))).toEqual(values)
    }),
  )
  expect(splitSeveral('"'.repeat(200_000)).length).toBeLessThan(3)
})
