import { expect, it } from 'vitest'
import { assembleReport } from '../../../core/compose/assemble'
import { isRepeat } from '../../../core/definition/blocks/block'
import { setInvoiceGroup, setInvoices, setTerm, addInvoiceGroup, removeInvoiceGroup } from '../../../core/definition/edits/einvoice'
import { readDefinition } from '../../../core/definition/schema'
import type { ReportDefinition } from '../../../core/definition/report'
import { proposeInvoices } from '../../../core/templates/einvoice'
import { mapping, toldByLaw } from '../../../demo/reports/einvoice'
import { salesInvoice } from '../../../demo/reports/invoice'
import { demoDatabase } from '../../support'

const repeatOf = (definition: ReportDefinition) => definition.layouts[0]!.blocks.find(isRepeat)!
const notices = async (definition: ReportDefinition) => {
  const { catalog } = await demoDatabase()
  const { layout } = assembleReport(definition, catalog)
  return { problems: layout.problems, told: layout.notices.filter(each => each.kind === 'invoice').map(each => each.sentence) }
}

it('what names tell fills every term that the standard wants, as somebody who knows the tables has', async () => {
  const { catalog } = await demoDatabase()
  const law = toldByLaw(salesInvoice(), '380')
  const { tree } = assembleReport(law, catalog)
  const proposed = proposeInvoices(tree.levels, 0)
  const byHand = mapping('380')
  // what needs to know more than names: what a number of days means, who pays in which currency, where an address is one
  const left = new Set(['BT-6', 'BT-20', 'BT-49', 'BT-81', 'BT-111'])
  const differing = Object.entries(byHand.terms).filter(([id, formula]) => !left.has(id) && proposed.terms[id] !== formula)
  expect(differing.map(([id, formula]) => [id, formula, proposed.terms[id]])).toEqual([])
  for (const group of byHand.groups) {
    const own = proposed.groups.find(each => each.group === group.group)!
    expect([group.group, own.level, own.terms]).toEqual([group.group, group.level, group.terms])
  }
  const { problems, told } = await notices(setInvoices(law, 'invoices', proposed))
  expect([problems, told]).toEqual([[], []])
})

it('a term that is missing is noticed with its number, a formula with a fault is a problem at its place', async () => {
  const law = toldByLaw(salesInvoice(), '380')
  const without = setTerm(setTerm(law, 'invoices', 'BT-27', ''), 'invoices', 'BT-130', '', 3)
  expect((await notices(without)).told).toEqual([
    'The e-invoice has no formula for “Name of the seller” (BT-27).',
    'The e-invoice has no formula for “Unit: a code of UN/ECE Recommendation 20” (BT-130) of its lines.',
  ])
  const { problems } = await notices(setTerm(law, 'invoices', 'BT-131', 'amout', 3))
  expect(problems).toEqual([expect.objectContaining({ block: 'invoices', place: 'term', cell: '3 BT-131' })])
  expect((await notices(removeInvoiceGroup(law, 'invoices', 3))).told.length).toBeGreaterThan(6)
})

it('edits of a mapping are definitions that are taken in, and what is not of the standard is not', () => {
  const law = toldByLaw(salesInvoice(), '380')
  let own = addInvoiceGroup(law, 'invoices', 'BG-20')
  own = setInvoiceGroup(own, 'invoices', 4, { level: 'taxes', when: 'rate > 0' })
  own = setTerm(own, 'invoices', 'BT-92', 'base', 4)
  expect(readDefinition(JSON.parse(JSON.stringify(own)))).toEqual(own)
  expect(repeatOf(own).einvoice!.groups[4]).toEqual({ group: 'BG-20', level: 'taxes', when: 'rate > 0', terms: { 'BT-92': 'base' } })
  own = setInvoiceGroup(own, 'invoices', 4, { level: '', when: '' })
  expect(repeatOf(own).einvoice!.groups[4]).toEqual({ group: 'BG-20', terms: { 'BT-92': 'base' } })
  expect(repeatOf(setInvoices(own, 'invoices', undefined))).not.toHaveProperty('einvoice')
  const refused = (terms: object, groups: object[] = []) => {
    const copy = JSON.parse(JSON.stringify(own)) as ReportDefinition
    ;(repeatOf(copy) as { einvoice?: unknown }).einvoice = { terms, groups }
    expect(() => readDefinition(copy)).toThrow(/BT|group|terms/)
  }
  refused({ 'BT-9999': 'number' })
  // a term of lines is none of the document
  refused({ 'BT-131': 'amount' })
  refused({}, [{ group: 'BG-99', terms: {} }])
  refused({}, [{ group: 'BG-25', terms: { 'BT-1': 'number' } }])
})
