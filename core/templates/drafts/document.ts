import { ownCurrencyWords } from '../../catalog/roleWords'
import { singular } from '../../catalog/relations'
import { wordsOf } from '../../catalog/roles'
import type { Block } from '../../definition/blocks/block'
import type { PanelBlock } from '../../definition/blocks/panel'
import type { TableBlock } from '../../definition/blocks/table'
import { type PlainColumn, plainTable } from '../../definition/upgrade'
import { pathText } from '../../formula/syntax'
import type { LevelInfo } from '../../formula/typed'
import { captionOf, type DraftField, draftColumns, draftFields, fitting, inOrder, spread } from './fields'
import { labelColumn, pairs, text } from './parts'
import type { Tables } from './tables'

const value = (path: string) => `{{ ${pathText(path)} }}`
const idOf = (path: string) => path.replace(/[^\p{L}\p{N}_]+/gu, '_')

/** What an amount at the end of a document is, in the order in which they lead to what is due. */
const totalOrder: readonly (readonly string[])[] = [
  ['net', 'lines', 'subtotal', 'netto', 'neto', 'items', 'goods', 'nettobetrag', 'base', 'subtotals', 'ht', 'warenwert'],
  ['freight', 'shipping', 'fracht', 'flete', 'portes', 'porte', 'frete', 'handling', 'fee', 'charges', 'versand'],
  ['discount', 'rabatt', 'skonto', 'descuento', 'desconto', 'remise', 'disc'],
  ['tax', 'vat', 'steuer', 'mwst', 'iva', 'impuesto', 'impuestos', 'tva', 'imposto', 'igv', 'ust'],
]
const afterwards = 'paid open balance outstanding bezahlt pagado saldo offen'.split(' ')

function stepOf({ field }: DraftField): number {
  const words = wordsOf(field.path)
  const total = words.some(word =>
    /^(total|tot|gross|brutto|bruto|grand|gesamt\w*|amount|amt|betrag|importe|summe|rechnungsbetrag)$/.test(word),
  )
  const step = totalOrder.findIndex(known =>
    words.some(word => known.includes(word) || known.some(own => own.length > 5 && word.endsWith(own))),
  )
  // after what is due: what has been paid of it, what is open, and the same in our own currency
  if (words.some(word => afterwards.includes(word)) || (total && step < 1 && words.some(word => ownCurrencyWords.includes(word)))) return 6
  return step >= 0 ? step : total ? 5 : 2
}

/** Columns of the lines of a document: as many as fit, the description takes the rest. */
function partTable(tables: Tables, level: LevelInfo, id: string, width: number, more: { ends: boolean; whole: boolean }): TableBlock {
  const { table } = level.definition
  const known = draftFields(tables, level)
  // what a line comes to in the company's currency is told beside no amount of the document's own
  const all = known.filter(
    ({ field, role, worth }) => worth >= 35 && !(role === 'amount' && tables.isOwnCurrency(table, field.path) && field.path !== 'base'),
  )
  const totalled = ({ field, role }: DraftField) => role === 'amount' && !field.record
  const fields = fitting(tables, all, width, totalled)
  const { columns, width: own } = spread(draftColumns(tables, fields, totalled), fields, width, more.whole)
  // what a line comes to is carried over the page: the last amount of it
  const carried = [...fields].reverse().find(each => totalled(each))
  const sides = tables.sides(table)
  const ends = (each: DraftField) => totalled(each) && (more.ends || (sides && [sides.debit, sides.credit].includes(each.field.path)))
  const plain = columns.map((column, at): PlainColumn => ({
    ...column,
    ...(fields[at] === carried && columns.length > 1 ? { carry: true } : {}),
    ...(ends(fields[at]!) ? { end: `{{ sum(${pathText(fields[at]!.field.path)}) }}` } : {}),
  }))
  const label = labelColumn(plain, column => !!column.end)
  const closed = plain.some(column => column.end)
  return plainTable(id, level.name, closed && label ? plain.map(each => (each === label ? { ...each, end: 'Total' } : each)) : plain, {
    after: 14,
    ...(own ? { width: own } : {}),
    ...(carried && more.whole ? { carried: { forward: 'Carried forward', brought: 'Brought forward' } } : {}),
  })
}

/** A formula that prints a word with a capital: “credit note” → “Credit note”. */
const capital = (path: string) => {
  const own = pathText(path)
  return `{{ upper(left(${own}, 1)) & right(${own}, length(${own}) - 1) }}`
}

/**
 * A document for each record of the root: what it is and its number, whom it is made out to, its facts, its parts, and what it comes to.
 * `width` is that of the page's text, in points; `id` gives ids that are free in the report.
 */
export function documentBlocks(tables: Tables, levels: readonly LevelInfo[], width: number, id: (stem: string) => string): Block[] {
  const [root] = levels as [LevelInfo, ...LevelInfo[]]
  const { table } = root.definition
  const fields = draftFields(tables, root)
  const own = fields.filter(each => each.of === 'own')
  const naming =
    own.find(each => each.role === 'number') ??
    own.find(each => each.role === 'code') ??
    own.find(each => each.role === 'name') ??
    fields[0]
  const kinds = own.find(({ field, role }) => {
    const look = tables.look(table, field.path)
    return (
      role === 'status' && look && look.distinct < 6 && /[a-z]{3}/.test(look.longest) && /^(kind|type|art|tipo|belegart)$/.test(field.path)
    )
  })
  const called = `${kinds ? capital(kinds.field.path) : singular(root.caption)}${naming ? ` ${value(naming.field.path)}` : ''}`
  const partner = tables.partner(table)
  const record = partner && root.definition.related.find(each => each.table === partner.table && each.on[0]?.from === partner.on[0]?.from)
  const isAddress = ({ field, role }: DraftField) =>
    !!record &&
    (field.record === record.name || field.record.startsWith(`${record.name}.`)) &&
    (role === 'name' || role === 'address' || role === 'postcode' || role === 'place' || role === 'country')
  const address = fields.filter(isAddress)
  const partnerName = value(address.find(({ role }) => role === 'name')?.field.path ?? root.key[0]!)
  const amounts = own
    .filter(({ role, field }) => role === 'amount' || (role === undefined && field.type === 'number'))
    .sort((a, b) => stepOf(a) - stepOf(b))
  const notes = own.filter(({ role }) => role === 'note')
  const currency = own.find(({ role }) => role === 'currency')
  const inHead = (each: DraftField) =>
    each !== naming && each !== kinds && !address.includes(each) && !amounts.includes(each) && !notes.includes(each) && each !== currency
  // what few documents have is no fact of all of them
  const filled = ({ field, table: held }: DraftField) => {
    const column = field.record ? undefined : tables.look(held, field.column.name)
    return !column || column.empty < column.rows / 2
  }
  const head = fields.filter(each => inHead(each) && filled(each))
  const facts = inOrder([...head].sort((a, b) => b.worth - a.worth).slice(0, record ? 8 : 10), fields).map(each => ({
    id: idOf(each.field.path),
    label: captionOf(each),
    value: value(each.field.path),
    // a document that has none says nothing of it
    ...(each.of === 'document' ? { when: `${pathText(each.field.path)} != empty` } : {}),
  }))
  const half = record ? 0 : Math.ceil(facts.length / 2)
  const [wideLabel, left] = [82, width - 250]
  const addressLines = addressText(address)
  const heading: PanelBlock = {
    kind: 'panel',
    id: id('heading'),
    height: Math.max(30 + (record ? facts.length : half) * 14, record ? 30 + 14 + addressLines.length * 12 : 0),
    after: 16,
    items: [
      text('documentTitle', 0, 0, width, called, { named: 'title' }),
      ...(record
        ? [
            text('partner', 0, 30, 240, captionFor(record.name), { named: 'label' }),
            text('partnerName', 0, 42, 240, partnerName, { bold: true, size: 10 }),
            ...(addressLines.length ? [text('address', 0, 57, 240, addressLines.join('\n'))] : []),
            ...pairs(facts, { x: left, y: 30, label: wideLabel, value: 250 - wideLabel }),
          ]
        : [
            ...pairs(facts.slice(0, half), { x: 0, y: 30, label: wideLabel, value: 165 }),
            ...pairs(facts.slice(half), { x: left, y: 30, label: wideLabel, value: 250 - wideLabel }),
          ]),
    ],
  }
  const parts = levels.filter(level => level.parent === 0)
  const step = 15
  const totals: PanelBlock | undefined = amounts.length ? totalsPanel(id('totals'), amounts, currency, width, step) : undefined
  return [
    {
      kind: 'repeat',
      id: id('documents'),
      level: root.name,
      newPage: true,
      restartNumbers: true,
      outline: `${naming ? value(naming.field.path) : root.caption}${record ? `  ${partnerName}` : ''}`,
      after: 0,
      blocks: [
        heading,
        ...parts.map((level, at) => partTable(tables, level, id(level.name), width, { ends: !totals, whole: at === 0 })),
        ...(totals ? [totals] : []),
        ...notes.map(({ field }): PanelBlock => ({
          kind: 'panel',
          id: id(idOf(field.path)),
          height: 12,
          after: 6,
          showWhen: `${pathText(field.path)} != empty`,
          items: [text('text', 0, 0, Math.min(width, 360), value(field.path), { named: 'note' })],
        })),
      ],
    },
  ]
}

const captionFor = (name: string) => {
  const words = name.replaceAll('_', ' ')
  return words.charAt(0).toUpperCase() + words.slice(1)
}

/** Lines of an address: streets, town with its postcode before it, country. */
function addressText(address: readonly DraftField[]): string[] {
  const of = (...roles: string[]) => address.filter(({ role }) => roles.includes(role!)).map(({ field }) => value(field.path))
  const record = address.find(({ role }) => role === 'name')?.field.record ?? ''
  const places = address.filter(({ field, role }) => role === 'place' || (role === 'name' && field.record.length > record.length))
  const isCountry = ({ field }: DraftField) => /countr|land|pais|pays/i.test(field.record.split('.').at(-1)!)
  const towns = places.filter(each => !isCountry(each)).map(({ field }) => value(field.path))
  return [
    ...of('address'),
    [...of('postcode').slice(0, 1), ...towns.slice(0, 1)].join(' '),
    ...[...of('country'), ...places.filter(isCountry).map(({ field }) => value(field.path))].slice(0, 1),
  ].filter(Boolean)
}

/** Amounts one under the other at the right, what is due set off by a line and in bold, with its currency. */
function totalsPanel(
  id: string,
  amounts: readonly DraftField[],
  currency: DraftField | undefined,
  width: number,
  step: number,
): PanelBlock {
  const due = amounts.filter(each => stepOf(each) === 5).at(-1) ?? amounts.filter(each => stepOf(each) < 6).at(-1)
  const [label, figure] = [150, 100]
  const x = width - label - figure
  let y = 0
  const items: PanelBlock['items'] = []
  for (const each of amounts) {
    const set = each === due && amounts.length > 1
    if (set) {
      items.push({ kind: 'rule', id: 'totalRule', x: width - figure - 8, y: y + 1, width: figure + 8, thickness: 0.75, colour: '#26221d' })
      y += 6
    }
    const code = currency && each.field.currency === currency.field.path ? `, ${value(currency.field.path)}` : ''
    const style = set ? { bold: true, size: 10 } : {}
    const own = idOf(each.field.path)
    items.push(
      text(`label_${own}`, x, y, label, `${captionOf(each)}${set || amounts.length === 1 ? code : ''}`, set ? style : { named: 'label' }),
    )
    items.push(text(own, x + label, y, figure, value(each.field.path), { ...style, align: 'right' }))
    y += set ? step + 5 : step
  }
  return { kind: 'panel', id, height: y, after: 12, items }
}
