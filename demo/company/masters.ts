import { categoryPicture } from './pictures'
import { dayOf, dayText, addMonths, monthEnd } from '../../core/value/date'
import { clock } from './clock'
import type { Chance, TableText } from './random'
import { fixed, money, share } from './random'

export interface Branch {
  id: number
  code: string
  name: string
}
export interface Item {
  id: number
  code: string
  name: string
  unit: string
  tax: string
  price: number
  /** standard cost of one unit, cents */ cost: number
  account: string
}
export interface Customer {
  id: number
  branch: number
  currency: string
  terms: string | null
  salesperson: number
  reliable: number
}

export { clock }

/** The first day of the company's books. */
export const firstDay = dayOf(2024, 5, 2)

export const termDays: Record<string, number> = { 'NET-0': 0, 'NET-14': 14, 'NET-30': 30, 'NET-60': 60 }

export const rateUnit = 1000000

/** Millionths of the company's currency for one unit, as booked on a day. */
export function bookedRate(currency: string, day: number): number {
  if (currency === 'EUR') return rateUnit
  const swing = Math.round(Math.sin(day / 40) * 20000)
  return currency === 'GBP' ? 1150000 + swing : 86000 + Math.round(swing / 15)
}

const regions = ['Coast', 'Estuary', 'Islands', 'Inland', 'North Shore', 'Far Fjords']
export const towns: [string, string | null, number | null][] = [
  ['Porto Claro', '2750-310', 1],
  ['Vila da Barra', '2755-101', 1],
  ['Praia Mansa', '2760-004', 1],
  ['Foz Velha', '3080-220', 2],
  ['Sapal Novo', '3085-017', 2],
  ['Ilhéu', '9100-050', 3],
  ['Baía Funda', '9105-112', 3],
  ['Monte Seco', '6000-003', 4],
  ['Saltmarsh Quay', 'SQ4 7RB', 5],
  ['Grey Point', 'GP1 2LT', 5],
  ['Nordvåg', '6789', 6],
  ['Sundøya', '6791', 6],
  ['Αλμυρός', '385 00', 3],
  ['Pontão', null, null],
]
const regionCountries = ['PT', 'PT', 'PT', 'PT', 'GB', 'NO']
/** The country of a town by its number; where nothing is said, that of the company. */
export const countryOf = (town: number | null): string => regionCountries[(towns[(town ?? 0) - 1]?.[2] ?? 0) - 1] ?? 'PT'
/** VAT numbers begin with the code of their country, Greek ones with EL (Directive 2006/112/EC, article 215). */
const vatLetters = (country: string): string => (country === 'GR' ? 'EL' : country)

/** Codes of UN/ECE Recommendation 20 (and 21, with an X before it) for the company's units. */
export const unitCodes: Readonly<Record<string, string>> = { pc: 'H87', m: 'MTR', tin: 'XTN', box: 'XBX', h: 'HUR' }
/** Categories of UNTDID 5305: a reduced rate is a standard one too. */
export const taxCategories: Readonly<Record<string, string>> = { S: 'S', R: 'S', Z: 'Z' }
/** The company itself. Its numbers are invented; the check digits of its bank account are right. */
export const company = [
  1,
  'Cais Velho, Fornecimentos Portuários, Lda.',
  'PT500000000',
  '500000000',
  '1 North Quay',
  1,
  'PT',
  'invoices@caisvelho.example',
  '+351 200 000 100',
  'PT50000000010000012345661',
  'CVELPTPLXXX',
  'EUR',
] as const

export const givenNames = [
  'Inês',
  'Rui',
  'Marta',
  'João',
  'Beatriz',
  'Tomás',
  'Lídia',
  'Sven',
  'Ingrid',
  'Alice',
  'Harold',
  'Nuno',
  'Ivo',
  'Clara',
]
export const surnames = [
  'Quaresma',
  'Falcão',
  'Brito',
  'Medeiros',
  'Norheim',
  'Ashdown',
  'Valadares',
  'Teles',
  'Rebelo',
  'Sandvik',
  'Marlow',
  'Couto',
]
const firstWords = [
  'Doca',
  'Marina',
  'Estaleiro',
  'Ferry Lines',
  'Sailing School',
  'Fishing Co-operative',
  'Boatyard',
  'Island Charter',
  'Pilot Station',
  'Oficina Naval',
  'Harbour Diving',
  'Regatta Club',
  'Tug & Tow',
  'Oyster Farm',
  'Net Loft',
]
const secondWords = [
  'Verde',
  'do Norte',
  'Pinto & Irmãos',
  'South',
  'of Grey Point',
  'São Telmo',
  'Nordvåg',
  'Barra Longa',
  'da Foz',
  'Three Gulls',
  'Red Buoy',
  'Baía Funda',
  'Monte Seco',
  'Saltmarsh',
  'Aurora',
  'Leme',
  'Quilha',
  'Stella',
  'Old Mole',
  'Ponta Ruiva',
]
export const streets = [
  'Breakwater Lane',
  'Rua do Cais',
  'Travessa da Âncora',
  'Slipway Road',
  'Largo dos Pescadores',
  'Havnegata',
  'Chandlers’ Row',
  'Avenida da Ria',
]

const categories: [number, number | null, string][] = [
  [1, null, 'Rope'],
  [2, 1, 'Braided rope'],
  [3, 1, 'Laid rope'],
  [4, null, 'Chain and anchors'],
  [5, null, 'Paint'],
  [6, 5, 'Antifouling'],
  [7, 5, 'Varnish'],
  [8, null, 'Deck gear'],
  [9, 8, 'Shackles'],
  [10, 8, 'Blocks'],
  [11, 8, 'Fenders'],
  [12, null, 'Lamps'],
  [13, null, 'Safety'],
  [14, 13, 'Life jackets'],
  [15, 13, 'Charts and books'],
  [16, null, 'Provisions'],
]
const colours = ['white', 'navy', 'black', 'red', 'signal orange', 'natural', 'grey']
const millimetres = (from: number, to: number, step = 1) =>
  Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, index) => `${from + index * step} mm`)
const harbours = ['Porto Claro', 'Praia Mansa', 'Foz Velha', 'Baía Funda', 'Grey Point', 'Nordvåg', 'Outer Estuary', 'Sundøya']

interface ItemKind {
  prefix: string
  name: string
  category: number
  unit: string
  tax: string
  account: string
  low: number
  high: number
  sizes: string[]
  variants: string[]
}
/** Prices are cents. */
const itemKinds: ItemKind[] = [
  {
    prefix: 'ROP',
    name: 'Braided rope',
    category: 2,
    unit: 'm',
    tax: 'S',
    account: '4010',
    low: 120,
    high: 900,
    sizes: millimetres(4, 24, 2),
    variants: colours,
  },
  {
    prefix: 'LRP',
    name: 'Laid rope',
    category: 3,
    unit: 'm',
    tax: 'S',
    account: '4010',
    low: 90,
    high: 650,
    sizes: millimetres(6, 40, 2),
    variants: ['natural', 'black', 'white', 'navy'],
  },
  {
    prefix: 'CHN',
    name: 'Galvanised chain',
    category: 4,
    unit: 'm',
    tax: 'S',
    account: '4020',
    low: 350,
    high: 2900,
    sizes: millimetres(6, 22, 2),
    variants: ['short link', 'calibrated', 'long link'],
  },
  {
    prefix: 'ANC',
    name: 'Anchor',
    category: 4,
    unit: 'pc',
    tax: 'S',
    account: '4020',
    low: 4500,
    high: 39000,
    sizes: ['4 kg', '6 kg', '10 kg', '16 kg', '25 kg', '40 kg'],
    variants: ['galvanised', 'folding', 'plough', 'stainless'],
  },
  {
    prefix: 'ANT',
    name: 'Antifouling',
    category: 6,
    unit: 'tin',
    tax: 'S',
    account: '4030',
    low: 2900,
    high: 18900,
    sizes: ['0.75 l', '2.5 l', '5 l', '20 l'],
    variants: ['navy', 'black', 'red', 'off-white', 'green'],
  },
  {
    prefix: 'VAR',
    name: 'Spar varnish',
    category: 7,
    unit: 'tin',
    tax: 'S',
    account: '4030',
    low: 1450,
    high: 6200,
    sizes: ['0.5 l', '1 l', '2.5 l', '5 l'],
    variants: ['gloss', 'satin', 'amber'],
  },
  {
    prefix: 'SHK',
    name: 'Bow shackle',
    category: 9,
    unit: 'pc',
    tax: 'S',
    account: '4020',
    low: 120,
    high: 2400,
    sizes: millimetres(5, 26),
    variants: ['galvanised', 'stainless', 'black'],
  },
  {
    prefix: 'BLK',
    name: 'Single block',
    category: 10,
    unit: 'pc',
    tax: 'S',
    account: '4020',
    low: 850,
    high: 9900,
    sizes: millimetres(40, 100, 10),
    variants: ['with becket', 'swivel', 'fixed eye'],
  },
  {
    prefix: 'FND',
    name: 'Fender',
    category: 11,
    unit: 'pc',
    tax: 'S',
    account: '4020',
    low: 1900,
    high: 12500,
    sizes: ['150 × 500 mm', '200 × 600 mm', '250 × 750 mm', '300 × 900 mm'],
    variants: ['navy', 'white', 'black', 'grey'],
  },
  {
    prefix: 'LMP',
    name: 'Navigation lamp',
    category: 12,
    unit: 'pc',
    tax: 'S',
    account: '4040',
    low: 1800,
    high: 16500,
    sizes: ['12 V', '24 V', 'oil'],
    variants: ['port', 'starboard', 'stern', 'masthead', 'all-round'],
  },
  {
    prefix: 'LFJ',
    name: 'Life jacket',
    category: 14,
    unit: 'pc',
    tax: 'R',
    account: '4050',
    low: 3900,
    high: 21000,
    sizes: ['50 N', '100 N', '150 N', '275 N'],
    variants: ['child', 'small', 'medium', 'large'],
  },
  {
    prefix: 'CHT',
    name: 'Harbour chart',
    category: 15,
    unit: 'pc',
    tax: 'R',
    account: '4050',
    low: 950,
    high: 4200,
    sizes: harbours,
    variants: ['1:10 000', '1:25 000', '1:50 000'],
  },
  {
    prefix: 'PRV',
    name: 'Ship’s biscuit',
    category: 16,
    unit: 'box',
    tax: 'Z',
    account: '4060',
    low: 300,
    high: 1900,
    sizes: ['0.5 kg', '1 kg', '5 kg'],
    variants: ['plain', 'oat', 'rye'],
  },
]

/** The account of income on which an item is sold, by the kind that its code begins with. */
export const salesAccount = (itemCode: string) => itemKinds.find(kind => itemCode.startsWith(`${kind.prefix}-`))?.account ?? '4990'

export interface Masters {
  branches: Branch[]
  items: Item[]
  customers: Customer[]
}

/** Writes the master tables and returns what the documents are made from. */
export function writeMasters(chance: Chance, scale: number, table: (name: string) => TableText): Masters {
  ;[
    ['EUR', 'Euro'],
    ['GBP', 'Pound sterling'],
    ['NOK', 'Norwegian krone'],
  ].forEach(row => table('currencies').add(...row))
  for (let month = addMonths(firstDay, -1); month <= clock; month = addMonths(month, 1)) {
    const end = monthEnd(month)
    table('exchange_rates').add('EUR', dayText(end), '1.000000')
    table('exchange_rates').add('GBP', dayText(end), fixed(bookedRate('GBP', end), 6))
    table('exchange_rates').add('NOK', dayText(end), fixed(bookedRate('NOK', end), 6))
  }
  ;[
    ['PT', 'Portugal'],
    ['GB', 'United Kingdom'],
    ['NO', 'Norway'],
    ['GR', 'Greece'],
  ].forEach(row => table('countries').add(...row))
  regions.forEach((name, index) => table('regions').add(index + 1, name, regionCountries[index]!))
  towns.forEach(([name, postcode, region], index) => table('towns').add(index + 1, name, postcode, region))
  const branches: Branch[] = [
    { id: 1, code: 'NQ', name: 'North Quay' },
    { id: 2, code: 'BR', name: 'Boatyard Road' },
    { id: 3, code: 'ID', name: 'Island Depot' },
  ]
  const branchAddress = ['1 North Quay', '48 Boatyard Road', 'Cais das Ilhas 7']
  table('companies').add(...company)
  branches.forEach((branch, index) =>
    table('branches').add(branch.id, branch.code, branch.name, branchAddress[index]!, [1, 4, 6][index]!, `+351 200 000 ${100 + index}`, 1),
  )
  ;[
    ['SAL', 'Sales'],
    ['WRK', 'Workshop'],
    ['ADM', 'Administration'],
  ].forEach(([code, name], index) => table('departments').add(index + 1, code!, name!))
  ;[
    ['pc', 'piece'],
    ['m', 'metre'],
    ['tin', 'tin'],
    ['box', 'box'],
    ['h', 'hour'],
  ].forEach(([code, name]) => table('units').add(code!, name!, unitCodes[code!]!))
  ;[
    ['S', 'Standard'],
    ['R', 'Reduced'],
    ['Z', 'Zero'],
  ].forEach(([code, name]) => table('tax_codes').add(code!, name!, taxCategories[code!]!, null))
  ;[
    ['S', '2024-01-01', '21.000'],
    ['S', '2025-07-01', '22.000'],
    ['R', '2024-01-01', '9.000'],
    ['Z', '2024-01-01', '0.000'],
  ].forEach(row => table('tax_rates').add(...row))
  Object.entries(termDays).forEach(([code, days]) => table('payment_terms').add(code, days ? `${days} days net` : 'On delivery', days))
  const people = Array.from({ length: 12 }, (_, index) => ({ id: index + 1, branch: (index % 3) + 1 }))
  people.forEach((person, index) =>
    table('salespeople').add(person.id, `${givenNames[index]} ${surnames[index]}`, person.branch, `sales${person.id}@caisvelho.example`),
  )
  branches.forEach(branch => {
    table('warehouses').add(branch.id * 2 - 1, `${branch.code}-A`, `${branch.name} main store`, branch.id)
    table('warehouses').add(branch.id * 2, `${branch.code}-B`, `${branch.name} yard`, branch.id)
  })
  categories.forEach(row => table('item_categories').add(...row, categoryPicture(row[1] ?? row[0])))
  const items = writeItems(chance, 900 + Math.round((scale - 1) * 490), table('items'))
  const customers = writeCustomers(chance, 400 + Math.round((scale - 1) * 2554), table, people)
  return { branches, items, customers }
}

/** What an item costs, in hundredths of its price. */
const costShare = (id: number) => 48 + ((id * 7) % 29)

function writeItems(chance: Chance, count: number, table: TableText): Item[] {
  return Array.from({ length: count }, (_, index): Item => {
    const kind = itemKinds[index % itemKinds.length]!
    const number = Math.floor(index / itemKinds.length)
    const code = `${kind.prefix}-${String(number + 1).padStart(3, '0')}`
    const name =
      `${kind.name}, ${kind.sizes[number % kind.sizes.length]}, ` +
      `${kind.variants[Math.floor(number / kind.sizes.length) % kind.variants.length]}`
    const item = {
      id: index + 1,
      code,
      name,
      unit: kind.unit,
      tax: kind.tax,
      price: chance.whole(kind.low, kind.high),
      cost: 0,
      account: kind.account,
    }
    item.cost = share(item.price, costShare(item.id), 100)
    // some items have no category: a trap that real tables have
    table.add(
      item.id,
      item.code,
      item.name,
      index % 97 === 41 ? null : kind.category,
      kind.unit,
      kind.tax,
      money(item.price),
      fixed(chance.whole(20, 9000), 3),
      money(item.cost),
    )
    return item
  })
}

const oddNames = [
  'Marina do Sul',
  'Marina do Sul',
  'Ψαράδες Ναυτικά',
  'Речной Порт «Заря»',
  'O’Hara & Sons <Rigging>',
  'Café "Âncora" Lda.',
  'Tångsnes Båtbyggeri',
  'The Most Honourable and Ancient Company of Lightermen, Pilots, Caulkers and Sailmakers of the Outer Estuary and Adjoining Islands',
  '=Stella Ferries',
  'Ærø & Ødegård',
]

/** An address of somebody invented; what cannot stand in one is left out of the name. */
export function mailbox(who: string, otherwise: string, name: string): string {
  const host = name
    .toLowerCase()
    .replaceAll('ø', 'o')
    .replaceAll('æ', 'ae')
    .normalize('NFD')
    .replace(/[^a-z0-9]+/g, '')
  return `${who}@${host.slice(0, 40) || otherwise}.example`
}

function writeCustomers(
  chance: Chance,
  count: number,
  table: (name: string) => TableText,
  people: { id: number; branch: number }[],
): Customer[] {
  return Array.from({ length: count }, (_, index): Customer => {
    const id = index + 1
    const plain = `${firstWords[index % firstWords.length]} ${secondWords[Math.floor(index / firstWords.length) % secondWords.length]}`
    const round = Math.floor(index / (firstWords.length * secondWords.length))
    const name = oddNames[index] ?? (round ? `${plain} ${round + 1}` : plain)
    const town = index === 2 ? 13 : index % 83 === 50 ? null : (index % towns.length) + 1
    const foreign = town === 9 || town === 10 ? 'GBP' : town === 11 || town === 12 ? 'NOK' : 'EUR'
    const salesperson = chance.one(people)
    const terms = index % 61 === 20 ? null : chance.one(Object.keys(termDays))
    const customer: Customer = {
      id,
      branch: salesperson.branch,
      currency: foreign,
      terms,
      salesperson: salesperson.id,
      reliable: chance.next(),
    }
    table('customers').add(
      id,
      `C-${String(id).padStart(4, '0')}`,
      name,
      `${chance.whole(1, 140)} ${chance.one(streets)}`,
      chance.chance(0.2) ? `Unit ${chance.whole(1, 12)}` : null,
      town,
      chance.chance(0.9) ? `${vatLetters(countryOf(town))}${chance.whole(100000000, 999999999)}` : null,
      terms,
      salesperson.id,
      foreign,
      chance.chance(0.8) ? money(chance.whole(5, 200) * 50000) : null,
      foreign === 'EUR' ? 'pt' : foreign === 'NOK' ? 'nb' : 'en',
      // some have never said one, and some get everything by post
      id % 17 === 5 ? null : id % 101 === 7 ? 'by post only' : mailbox('accounts', `c${id}`, name),
      countryOf(town),
    )
    if (index % 7 === 3) table('customer_addresses').add(id, 1, 'delivery', `${chance.whole(1, 60)} ${chance.one(streets)}`, town)
    return customer
  })
}
