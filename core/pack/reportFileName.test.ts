import { describe, expect, it } from 'vitest'
import type { ReportDefinition } from '../definition/report'
import { parseDay } from '../value/date'
import { setFileName, setFormats } from '../definition/edits/deliver'
import { reportFileName } from './reportFileName'

const report = { format: 2, language: 'en-GB', parameters: [], dataSets: [], layouts: [] } as ReportDefinition
const parameters = [{ name: 'asOf', label: 'As of', kind: 'date' as const, required: true, default: 'today()' }]
const around = { today: parseDay('2026-10-31')! }
const named = (pattern: string, answers: Record<string, string> = {}, language = 'en-GB') =>
  reportFileName('Ageing', { parameters, language, ...(pattern ? { fileName: pattern } : {}) }, answers, around)

describe('the name of a report’s file', () => {
  it('is its pattern, with the answers in it, in the language of the report', () => {
    expect(named('Ageing {{ param.asOf | yyyy-MM-dd }}')).toBe('Ageing 2026-10-31')
    expect(named('Ageing {{ param.asOf | d MMMM y }}', { asOf: '2026-03-01' })).toBe('Ageing 1 March 2026')
    expect(named('Ageing {{ param.asOf | d MMMM y }}', { asOf: '2026-03-01' }, 'pt')).toBe('Ageing 1 março 2026')
  })

  it('is clean, whatever an answer holds', () => {
    expect(named('../{{ param.asOf | yyyy/MM/dd }}\u0000')).toBe('2026 10 31')
  })

  it('is its name and answers where there is no pattern, or none that can be printed', () => {
    expect(named('', { asOf: '2026-03-01' })).toBe('Ageing 2026-03-01')
    for (const wrong of ['{{ param.gone }}', '{{ page.number }}', '{{ 1 + }}']) expect(named(wrong)).toBe('Ageing')
    expect(named('{{ param.asOf }}', { asOf: 'tomorrow' })).toBe('Ageing tomorrow')
  })
})

describe('what a report says of its files', () => {
  it('is kept where it says something, and left out where it does not', () => {
    const called = setFileName(report, 'Register')
    expect(called.fileName).toBe('Register')
    expect(setFileName(called, ' ')).toEqual(report)
    expect(setFileName(called, 'Register')).toBe(called)
    const some = setFormats(report, ['json', 'pdf', 'gone'], ['pdf', 'csv', 'json'])
    expect(some.formats).toEqual(['pdf', 'json'])
    expect(setFormats(some, ['csv', 'json', 'pdf'], ['pdf', 'csv', 'json'])).toEqual(report)
  })
})
