import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { definitionChanges } from '../../../core/compare/definitions'
import type { Block } from '../../../core/definition/blocks/block'
import type { ReportDefinition } from '../../../core/definition/report'
import { demoReports, invoiceRegister } from '../../../demo/reports/reports'

const copy = (definition: ReportDefinition): ReportDefinition => JSON.parse(JSON.stringify(definition)) as ReportDefinition
const changed = (change: (own: ReportDefinition) => void): string[] => {
  const after = copy(invoiceRegister())
  change(after)
  return definitionChanges(invoiceRegister(), after)
}
const root = (own: ReportDefinition) => own.dataSets[0]!.root
const levelName = root(invoiceRegister()).name

describe('what two versions differ in', () => {
  it('is nothing where they are the same, for every report of the demo', () => {
    for (const { definition } of demoReports()) expect(definitionChanges(definition, copy(definition))).toEqual([])
  })

  it.each([
    ['a field more', own => root(own).fields.push('freight'), [`Level “${levelName}”: field “freight” is new.`]],
    [
      'filters',
      own => root(own).filters.push('total > 0', 'kind = "invoice"'),
      [`Level “${levelName}”: filters “total > 0”, “kind = "invoice"” are new.`],
    ],
    ['another order', own => (root(own).sort = [{ field: 'total', descending: true }]), [`Level “${levelName}” is sorted otherwise.`]],
    ['another table', own => (root(own).table = 'orders'), [`Level “${levelName}” reads another table, or finds its records otherwise.`]],
    ['a parameter', own => own.parameters.push({ name: 'own', label: 'Own', kind: 'text', required: false }), ['Parameter “own” is new.']],
    [
      'a parameter that is asked otherwise',
      own => (own.parameters[0]!.label = 'Other'),
      [`Parameter “${invoiceRegister().parameters[0]!.name}” was changed.`],
    ],
    ['a parameter less', own => own.parameters.pop(), [`Parameter “${invoiceRegister().parameters.at(-1)!.name}” is gone.`]],
    [
      'another source',
      own => (own.dataSets[0]!.source = 'other'),
      [`Data set “${invoiceRegister().dataSets[0]!.name}” reads another source.`],
    ],
    ['another language', own => (own.language = 'pt-PT'), [`Its language is “pt-PT” now, and was “${invoiceRegister().language}”.`]],
    [
      'another paper',
      own => (own.layouts[0]!.page = { ...own.layouts[0]!.page, margins: { top: 1, right: 1, bottom: 1, left: 1 } } as never),
      [`Layout “${invoiceRegister().layouts[0]!.name}”: its page, page top or page foot was changed.`],
    ],
    ['a layout more', own => own.layouts.push({ ...copy(own).layouts[0]!, name: 'Second' }), ['Layout “Second” is new.']],
  ] as [string, (own: ReportDefinition) => unknown, string[]][])('is told in sentences: %s', (_, change, sentences) => {
    expect(changed(own => void change(own))).toEqual(sentences)
  })

  it('tells blocks by their kinds, and a block by what it says itself, not by what stands inside it', () => {
    const name = invoiceRegister().layouts[0]!.name
    expect(changed(own => own.layouts[0]!.blocks.push({ kind: 'break', id: 'more', after: 0 } as Block))).toEqual([
      `Layout “${name}”: new is a break.`,
    ])
    expect(changed(own => void own.layouts[0]!.blocks.splice(0, 1))[0]).toMatch(new RegExp(`^Layout “${name}”: gone is `))
    const inside: Block = { kind: 'panel', id: 'inner', height: 10, after: 0, items: [] }
    const around: Block = { kind: 'repeat', id: 'outer', level: 'x', newPage: false, restartNumbers: false, after: 0, blocks: [inside] }
    const before = copy(invoiceRegister())
    before.layouts[0]!.blocks.push(around)
    const after = copy(before)
    ;(after.layouts[0]!.blocks.at(-1) as typeof around & { blocks: { after: number }[] }).blocks[0]!.after = 4
    expect(definitionChanges(before, after)).toEqual([`Layout “${name}”: changed is a panel.`])
  })

  it('is never nothing where they differ, and never more than a screen of sentences', () => {
    const places = fc.array(fc.nat(), { minLength: 1, maxLength: 12 })
    fc.assert(
      fc.property(fc.constantFrom(...demoReports()), places, fc.constantFrom('x', 7, true), ({ definition }, way, value) => {
        const after = copy(definition)
        // somewhere in it something is another value
        let at: Record<string, unknown> = after as never
        for (const step of way) {
          const keys = Object.keys(at)
          if (!keys.length) return
          const key = keys[step % keys.length]!
          const next = at[key]
          if (typeof next === 'object' && next !== null) {
            at = next as Record<string, unknown>
            continue
          }
          // ids and names tell things apart; that something is called as another is no definition
          if (['id', 'name', 'kind', 'format'].includes(key) || next === value) return
          at[key] = value
          const told = definitionChanges(definition, after)
          expect(told.length).toBeGreaterThan(0)
          expect(told.length).toBeLessThanOrEqual(40)
          return
        }
      }),
      { numRuns: 300 },
    )
  })
})
