import type { InvoiceGroup, InvoiceMapping, TermFormulas } from '../definition/einvoice'
import type { LevelInfo } from '../formula/typed'
import { fieldFor, filled, type Fields, type Meaning, want } from './spoken'

/** Fields of the document, by the terms that they fill; the first that is found stands. */
const documentFields: Fields = {
  'BT-1': [want(['number'], { own: true, none: ['tax', 'order'] })],
  'BT-2': [
    want(['issued', 'date'], { own: true, type: 'date', none: ['due'] }),
    want(['date'], { own: true, type: 'date', none: ['due', 'delivered'] }),
  ],
  'BT-5': [want(['currency', 'code'], { own: true }), want(['currency'], { own: true, type: 'text' })],
  'BT-9': [want(['due'], { own: true, type: 'date' })],
  'BT-13': [want(['order', 'reference']), want(['order', 'number'], { none: ['line'] })],
  'BT-20': [want(['terms', 'name'], { type: 'text' })],
  'BT-22': [want(['note'], { own: true, type: 'text' })],
  'BT-25': [want(['credited', 'number'])],
  'BT-26': [want(['credited', 'date'], { type: 'date', none: ['due', 'delivered'] })],
  'BT-27': [want(['seller', 'legal', 'name']), want(['seller', 'name'], { none: ['town', 'region', 'country'] })],
  'BT-30': [want(['seller', 'registration'])],
  'BT-31': [want(['seller', 'tax', 'number'])],
  'BT-34': [want(['seller', 'mail'])],
  'BT-35': [want(['seller', 'address'], { none: ['mail'] })],
  'BT-37': [want(['seller', 'town', 'name']), want(['seller', 'town'], { type: 'text', none: ['postcode'] })],
  'BT-38': [want(['seller', 'postcode'])],
  'BT-40': [want(['seller', 'country', 'code'], { none: ['town'] }), want(['seller', 'country'], { type: 'text' })],
  'BT-41': [want(['salesperson', 'name'])],
  'BT-42': [want(['branch', 'phone'])],
  'BT-43': [want(['salesperson', 'mail'])],
  'BT-44': [want(['buyer', 'name'], { none: ['town', 'region', 'country'] })],
  'BT-46': [
    want(['buyer', 'code'], { none: ['country', 'currency', 'terms', 'postcode', 'town'] }),
    want(['buyer', 'number'], { none: ['tax'] }),
  ],
  'BT-48': [want(['buyer', 'tax', 'number']), want(['buyer', 'tax'], { type: 'text' })],
  'BT-49': [want(['buyer', 'mail'])],
  'BT-50': [want(['buyer', 'address'], { none: ['second', 'mail'] })],
  'BT-51': [want(['buyer', 'address', 'second'])],
  'BT-52': [
    want(['buyer', 'town', 'name'], { none: ['region', 'country'] }),
    want(['buyer', 'town'], { type: 'text', none: ['postcode', 'region'] }),
  ],
  'BT-53': [want(['buyer', 'postcode'])],
  'BT-54': [want(['buyer', 'region', 'name'])],
  'BT-55': [want(['buyer', 'country', 'code'], { none: ['town'] }), want(['buyer', 'country'], { type: 'text' })],
  'BT-72': [want(['delivered'], { own: true, type: 'date' })],
  'BT-84': [want(['seller', 'iban']), want(['iban'], { none: ['buyer'] })],
  'BT-85': [want(['seller', 'legal', 'name'])],
  'BT-86': [want(['seller', 'bic'])],
}
const taxFields: Fields = {
  'BT-116': [want(['base'], { own: true, type: 'number', none: ['currency'] })],
  'BT-117': [want(['amount'], { own: true, type: 'number', none: ['base', 'currency'] })],
  'BT-118': [want(['tax', 'category'])],
  'BT-119': [want(['rate'], { own: true, type: 'number' })],
  'BT-120': [want(['tax', 'exemption'])],
}
const lineFields: Fields = {
  'BT-126': [want(['line', 'number'], { own: true }), want(['line'], { own: true })],
  'BT-129': [want(['quantity'], { own: true, type: 'number' })],
  'BT-130': [want(['unit', 'unece']), want(['unit', 'code'], { type: 'text' })],
  'BT-131': [want(['amount'], { own: true, type: 'number', none: ['tax'] })],
  'BT-146': [want(['price'], { own: true, type: 'number' })],
  'BT-151': [want(['tax', 'category'])],
  'BT-152': [want(['tax', 'rate'], { type: 'number' })],
  'BT-153': [want(['description'], { own: true, type: 'text' }), want(['item', 'name'], { none: ['category'] })],
  'BT-155': [want(['item', 'code'], { none: ['unit', 'tax', 'category'] })],
}

/**
 * How the records of a level may be told as e-invoices, by the names of its fields and of those under it. What nothing speaks of is left
 * out; the notices say what is missing.
 * @param kind 380 for invoices, 381 for credit notes, whose amounts are taken to stand below zero
 */
export function proposeInvoices(levels: readonly LevelInfo[], at: number, kind: '380' | '381' = '380'): InvoiceMapping {
  const level = levels[at]!
  const children = level.children.map(index => levels[index]!)
  const most = (fields: Fields, wanted: string) =>
    children
      .map(child => ({ child, terms: filled(child, fields) }))
      .filter(({ terms }) => terms[wanted])
      .sort((one, other) => Object.keys(other.terms).length - Object.keys(one.terms).length)[0]
  const lines = most(lineFields, 'BT-129')
  const taxes = most(taxFields, 'BT-116')
  const signed = (formula: string) => (kind === '381' ? `-(${formula})` : formula)
  const negated = (terms: Record<string, string>, ids: readonly string[]): TermFormulas =>
    Object.fromEntries(Object.entries(terms).map(([id, formula]) => [id, ids.includes(id) ? signed(formula) : formula]))
  const sum = (child: { child: LevelInfo; terms: Record<string, string> } | undefined, id: string) =>
    child?.terms[id] ? `sum(${child.child.name}.${child.terms[id]})` : undefined
  const [lineSum, taxSum] = [sum(lines, 'BT-131'), sum(taxes, 'BT-117')]
  const discount = fieldFor(level, [want(['discount'], { own: true, type: 'number', none: ['rate'] })])?.path
  const freight = fieldFor(level, [want(['freight'], { own: true, type: 'number', none: ['rate'] })])?.path
  const net = lineSum && `${lineSum}${freight ? ` + ${freight}` : ''}${discount ? ` - ${discount}` : ''}`
  const all = net && `${net}${taxSum ? ` + ${taxSum}` : ''}`
  const groups: InvoiceGroup[] = []
  const rateOf = (own: Meaning): Record<'category' | 'rate', string | undefined> => {
    const category = fieldFor(level, [want([own, 'tax', 'category'])])?.path
    const code = fieldFor(level, [want([own, 'tax', 'code'], { own: true })])?.path
    const taxCode = taxes && fieldFor(taxes.child, [want(['tax', 'code'], { own: true })])?.path
    const [name, rate] = [taxes?.child.name, taxes?.terms['BT-119']]
    return { category, rate: code && taxCode && rate ? `first(${name}.${rate}, where: ${name}.${taxCode} = ${code})` : undefined }
  }
  const onDocument = (
    group: 'BG-20' | 'BG-21',
    field: string,
    own: Meaning,
    ids: readonly [string, string, string, string],
    reason: string,
  ) => {
    const { category, rate } = rateOf(own)
    const terms = { [ids[0]]: field, ...(category && { [ids[1]]: category }), ...(rate && { [ids[2]]: rate }), [ids[3]]: `"${reason}"` }
    groups.push({ group, when: `${field} != 0`, terms })
  }
  if (discount) onDocument('BG-20', discount, 'discount', ['BT-92', 'BT-95', 'BT-96', 'BT-97'], 'Discount')
  if (freight) onDocument('BG-21', freight, 'freight', ['BT-99', 'BT-102', 'BT-103', 'BT-104'], 'Freight')
  if (taxes) groups.push({ group: 'BG-23', level: taxes.child.name, terms: negated(taxes.terms, ['BT-116', 'BT-117']) })
  if (lines) {
    // lines without an amount are remarks
    const amount = lines.terms['BT-131']
    groups.push({
      group: 'BG-25',
      level: lines.child.name,
      ...(amount ? { when: `${amount} != empty` } : {}),
      terms: negated(lines.terms, ['BT-129', 'BT-131']),
    })
  }
  const own = filled(level, documentFields)
  const euro = own['BT-5'] ? `if(${own['BT-5']} = "EUR", "58", "30")` : '"30"'
  return {
    terms: {
      ...own,
      'BT-3': `"${kind}"`,
      ...(own['BT-1'] ? { 'BT-83': `creditorReference(${own['BT-1']})` } : {}),
      ...(own['BT-84'] ? { 'BT-81': euro } : {}),
      ...(lineSum ? { 'BT-106': signed(lineSum) } : {}),
      ...(discount ? { 'BT-107': discount } : {}),
      ...(freight ? { 'BT-108': freight } : {}),
      ...(net ? { 'BT-109': signed(net) } : {}),
      ...(taxSum ? { 'BT-110': signed(taxSum) } : {}),
      ...(all ? { 'BT-112': signed(all), 'BT-115': signed(all) } : {}),
    },
    groups,
  }
}
