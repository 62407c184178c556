import type { Decimal } from '../value/decimal'
import { Told, type TermValues } from './told'
import type { DocumentCharge, EInvoice, InvoiceLine, PostalAddress, TaxBreakdown, TaxCategory } from './invoice'

/** What a term is: a text, a code of a list, a day, or a number. */
export type TermType = 'text' | 'code' | 'date' | 'number'

/** Groups of terms that stand once for each of several records: allowances, charges, taxes, lines. */
export const termGroups = {
  'BG-20': 'Allowances on the whole document',
  'BG-21': 'Charges on the whole document',
  'BG-23': 'Taxes',
  'BG-25': 'Lines',
} as const
export type TermGroup = keyof typeof termGroups

/** A business term of EN 16931-1: its number, what it is called, and where it belongs. */
export interface Term {
  id: string
  name: string
  type: TermType
  /** the group that it is told in; none of the document itself */
  group?: TermGroup
  /** an invoice cannot be without it (section 6.3) */
  must?: true
}

const document = (id: string, name: string, type: TermType = 'text', must?: true): Term => ({ id, name, type, ...(must && { must }) })
const within =
  (group: TermGroup) =>
  (id: string, name: string, type: TermType = 'text', must?: true): Term => ({ ...document(id, name, type, must), group })
const [allowance, charge, tax, line] = [within('BG-20'), within('BG-21'), within('BG-23'), within('BG-25')]

/** The terms that can be mapped, in the order of the standard; totals are those of the paper, held against the parts. */
export const terms: readonly Term[] = [
  document('BT-1', 'Invoice number', 'text', true),
  document('BT-2', 'Date of issue', 'date', true),
  document('BT-3', 'Kind: 380 invoice, 381 credit note', 'code', true),
  document('BT-5', 'Currency', 'code', true),
  document('BT-6', 'Currency that tax is accounted in', 'code'),
  document('BT-9', 'Due date', 'date'),
  document('BT-10', 'Reference of the buyer'),
  document('BT-13', 'Number of the order'),
  document('BT-20', 'Terms of payment'),
  document('BT-22', 'Note'),
  document('BT-25', 'Number of the invoice before'),
  document('BT-26', 'Date of the invoice before', 'date'),
  document('BT-27', 'Name of the seller', 'text', true),
  document('BT-29', 'Number of the seller with the buyer'),
  document('BT-30', 'Registration number of the seller'),
  document('BT-31', 'VAT number of the seller'),
  document('BT-34', 'Electronic address of the seller (mail)'),
  document('BT-35', 'Street of the seller'),
  document('BT-37', 'Town of the seller'),
  document('BT-38', 'Postcode of the seller'),
  document('BT-40', 'Country of the seller', 'code', true),
  document('BT-41', 'Contact of the seller'),
  document('BT-42', 'Telephone of the seller'),
  document('BT-43', 'Mail address of the seller'),
  document('BT-44', 'Name of the buyer', 'text', true),
  document('BT-46', 'Number of the buyer'),
  document('BT-47', 'Registration number of the buyer'),
  document('BT-48', 'VAT number of the buyer'),
  document('BT-49', 'Electronic address of the buyer (mail)'),
  document('BT-50', 'Street of the buyer'),
  document('BT-51', 'Street of the buyer, second line'),
  document('BT-52', 'Town of the buyer'),
  document('BT-53', 'Postcode of the buyer'),
  document('BT-54', 'Region of the buyer'),
  document('BT-55', 'Country of the buyer', 'code', true),
  document('BT-72', 'Day of delivery', 'date'),
  document('BT-81', 'Means of payment: 30 transfer, 58 SEPA transfer', 'code'),
  document('BT-83', 'Reference of the payment'),
  document('BT-84', 'Account that is paid to (IBAN)'),
  document('BT-85', 'Name of the account'),
  document('BT-86', 'Bank of the account (BIC)'),
  document('BT-106', 'Sum of the lines', 'number', true),
  document('BT-107', 'Sum of allowances', 'number'),
  document('BT-108', 'Sum of charges', 'number'),
  document('BT-109', 'Total without tax', 'number', true),
  document('BT-110', 'Total tax', 'number'),
  document('BT-111', 'Total tax in the currency of its accounting', 'number'),
  document('BT-112', 'Total with tax', 'number', true),
  document('BT-113', 'Paid already', 'number'),
  document('BT-115', 'Amount due', 'number', true),
  allowance('BT-92', 'Amount', 'number', true),
  allowance('BT-95', 'Category of tax', 'code', true),
  allowance('BT-96', 'Rate of tax, %', 'number'),
  allowance('BT-97', 'Reason', 'text', true),
  charge('BT-99', 'Amount', 'number', true),
  charge('BT-102', 'Category of tax', 'code', true),
  charge('BT-103', 'Rate of tax, %', 'number'),
  charge('BT-104', 'Reason', 'text', true),
  tax('BT-116', 'Base', 'number', true),
  tax('BT-117', 'Tax', 'number', true),
  tax('BT-118', 'Category of tax', 'code', true),
  tax('BT-119', 'Rate of tax, %', 'number'),
  tax('BT-120', 'Reason of an exemption'),
  line('BT-126', 'Number of the line', 'text', true),
  line('BT-127', 'Note'),
  line('BT-129', 'Quantity', 'number', true),
  line('BT-130', 'Unit: a code of UN/ECE Recommendation 20', 'code', true),
  line('BT-131', 'Amount', 'number', true),
  line('BT-146', 'Price of a unit', 'number', true),
  line('BT-151', 'Category of tax', 'code', true),
  line('BT-152', 'Rate of tax, %', 'number'),
  line('BT-153', 'Name of the item', 'text', true),
  line('BT-155', 'Number of the item'),
]

const byId: ReadonlyMap<string, Term> = new Map(terms.map(term => [term.id, term]))
/** The term of a number. */
export const termOf = (id: string): Term | undefined => byId.get(id)

const nameOf = (id: string): string => `${termOf(id)!.name} (${id})`
const zeroRate: Decimal = { units: 0, scale: 0 }
const categoryCode = /^(S|Z|E|AE|K|G|O)$/
const countryCode = /^[A-Z]{2}$/
const currencyCode = /^[A-Z]{3}$/
const unitCode = /^[A-Z0-9]{2,3}$/

/** What is told of an invoice: the document's own terms, and those of each allowance, charge, tax and line, in their order. */
export interface ToldInvoice {
  document: TermValues
  groups: Readonly<Record<TermGroup, readonly TermValues[]>>
}

/**
 * The invoice that values of terms make. Texts that are missing are empty: the rules say so. Sums of allowances and charges that are not
 * told are zero. @throws TermError where a value is of another type than its term, an amount is missing, or a code is none
 */
export function invoiceOf({ document: own, groups }: ToldInvoice): EInvoice {
  const told = new Told(own, nameOf)
  const optional = <T>(name: string, value: T | undefined) => (value === undefined ? {} : { [name]: value })
  const address = (
    street: string,
    second: string | undefined,
    town: string,
    postcode: string,
    region: string | undefined,
    country: string,
  ) =>
    ({
      ...optional('lineOne', told.text(street)),
      ...optional('lineTwo', second && told.text(second)),
      ...optional('city', told.text(town)),
      ...optional('postcode', told.text(postcode)),
      ...optional('subdivision', region && told.text(region)),
      country: told.code(country, countryCode, ''),
    }) as PostalAddress
  const mail = (id: string) => {
    const found = told.text(id)
    return found === undefined ? {} : { electronic: { scheme: 'EM', address: found } }
  }
  const contact = Object.fromEntries(
    (['BT-41 name', 'BT-42 phone', 'BT-43 mail'] as const).flatMap(each => {
      const [id, name] = each.split(' ') as [string, string]
      const found = told.text(id)
      return found === undefined ? [] : [[name, found]]
    }),
  )
  const before = told.text('BT-25')
  const means = told.text('BT-81')
  const delivered = told.day('BT-72')
  const note = told.text('BT-22')
  return {
    number: told.words('BT-1'),
    issued: told.day('BT-2') ?? told.empty('BT-2'),
    kind: told.kind<EInvoice['kind']>('BT-3', /^38[01]$/),
    currency: told.code('BT-5', currencyCode, ''),
    ...optional('taxCurrency', told.text('BT-6') && told.code('BT-6', currencyCode, '')),
    ...optional('due', told.day('BT-9')),
    ...optional('buyerReference', told.text('BT-10')),
    ...optional('orderNumber', told.text('BT-13')),
    ...optional('terms', told.text('BT-20')),
    notes: note === undefined ? [] : [note],
    ...(before === undefined ? {} : { before: { number: before, ...optional('issued', told.day('BT-26')) } }),
    seller: {
      name: told.words('BT-27'),
      ...optional('id', told.text('BT-29')),
      ...optional('registration', told.text('BT-30')),
      ...optional('vatNumber', told.text('BT-31')),
      ...mail('BT-34'),
      ...(Object.keys(contact).length ? { contact } : {}),
      address: address('BT-35', undefined, 'BT-37', 'BT-38', undefined, 'BT-40'),
    },
    buyer: {
      name: told.words('BT-44'),
      ...optional('id', told.text('BT-46')),
      ...optional('registration', told.text('BT-47')),
      ...optional('vatNumber', told.text('BT-48')),
      ...mail('BT-49'),
      address: address('BT-50', 'BT-51', 'BT-52', 'BT-53', 'BT-54', 'BT-55'),
    },
    ...(delivered === undefined ? {} : { delivery: { on: delivered } }),
    ...optional('paymentReference', told.text('BT-83')),
    ...(means === undefined
      ? {}
      : {
          payment: {
            code: told.code('BT-81', /^\d{1,2}$/, ''),
            ...optional('iban', told.text('BT-84')?.replaceAll(' ', '')),
            ...optional('accountName', told.text('BT-85')),
            ...optional('bic', told.text('BT-86')),
          },
        }),
    charges: [
      ...groups['BG-20'].map(each => chargeOf('allowance', each, ['BT-92', 'BT-95', 'BT-96', 'BT-97'])),
      ...groups['BG-21'].map(each => chargeOf('charge', each, ['BT-99', 'BT-102', 'BT-103', 'BT-104'])),
    ],
    taxes: groups['BG-23'].map(taxOf),
    totals: {
      lines: told.amount('BT-106'),
      allowances: told.number('BT-107') ?? zeroRate,
      charges: told.number('BT-108') ?? zeroRate,
      withoutTax: told.amount('BT-109'),
      tax: told.number('BT-110') ?? zeroRate,
      ...optional('taxAccounted', told.number('BT-111')),
      withTax: told.amount('BT-112'),
      ...optional('paid', told.number('BT-113')),
      due: told.amount('BT-115'),
    },
    lines: groups['BG-25'].map(lineOf),
  }
}

function chargeOf(is: DocumentCharge['is'], values: TermValues, ids: readonly [string, string, string, string]): DocumentCharge {
  const told = new Told(values, nameOf, ` in ${is === 'charge' ? 'a charge' : 'an allowance'}`)
  return {
    is,
    amount: told.amount(ids[0]),
    category: told.kind<TaxCategory>(ids[1], categoryCode),
    rate: told.number(ids[2]) ?? zeroRate,
    reason: told.words(ids[3]),
  }
}

function taxOf(values: TermValues): TaxBreakdown {
  const told = new Told(values, nameOf, ' in a tax')
  const exemption = told.text('BT-120')
  return {
    base: told.amount('BT-116'),
    tax: told.amount('BT-117'),
    category: told.kind<TaxCategory>('BT-118', categoryCode),
    rate: told.number('BT-119') ?? zeroRate,
    ...(exemption === undefined ? {} : { exemption }),
  }
}

function lineOf(values: TermValues, at: number): InvoiceLine {
  const own = new Told(values, nameOf).text('BT-126') ?? ''
  const told = new Told(values, nameOf, ` in line ${own || at + 1}`)
  const [note, item] = [told.text('BT-127'), told.text('BT-155')]
  return {
    id: own,
    ...(note === undefined ? {} : { note }),
    name: told.words('BT-153'),
    ...(item === undefined ? {} : { item }),
    quantity: told.amount('BT-129'),
    unit: told.code('BT-130', unitCode, ''),
    price: told.amount('BT-146'),
    amount: told.amount('BT-131'),
    category: told.kind<TaxCategory>('BT-151', categoryCode),
    rate: told.number('BT-152') ?? zeroRate,
  }
}
