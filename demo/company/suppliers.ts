import { ibanOf } from './iban'
import { dayOf, dayText, type Day } from '../../core/value/date'
import {
  countryOf,
  bookedRate,
  clock,
  firstDay,
  givenNames,
  mailbox,
  type Masters,
  rateUnit,
  streets,
  surnames,
  termDays,
  towns,
} from './masters'
import { type Chance, fixed, money, share, type TableText } from './random'

export interface Supplier {
  id: number
  name: string
  currency: string
  terms: string | null
  buyer: number
  lead: number
  punctual: number
}
/** How an item is bought from a supplier. Prices are cents of the supplier's currency, quantities thousandths. */
export interface Offer {
  supplier: Supplier
  number: string
  price: number
  pack: number
  minimum: number
  lead: number
  preferred: boolean
  from: Day
  to: Day | null
}
export interface Buying {
  suppliers: Supplier[]
  buyers: number[]
  offers: Map<number, Offer[]>
}

const makers = [
  'Cordoaria',
  'Chandlery',
  'Foundry',
  'Paintworks',
  'Lampworks',
  'Weavers',
  'Instruments',
  'Timber Yard',
  'Canvas Loft',
  'Metalúrgica',
  'Provisions',
  'Chart Printers',
]
const places = [
  'Atlântica',
  'of Grey Point',
  'Nordvåg',
  'Ribeira & Filhos',
  'da Barra',
  'Sundøya',
  'Almada',
  'Three Anchors',
  'Velas',
  'Outer Mole',
]
const oddNames = [
  'Ferragens do Cais',
  'Ferragens do Cais',
  'Ηλιοπούλου Σχοινιά',
  'Bjørnstad & Søn',
  '"Quality" Shackles <Wholesale>',
  'O’Neill Rope & Twine',
  'Завод «Якорь»',
]

/**
 * Writes buyers, suppliers and what they supply. Some items have no preferred supplier, some none, some prices have run out: traps that
 * real tables have.
 */
export function writeSuppliers(chance: Chance, scale: number, masters: Masters, table: (name: string) => TableText): Buying {
  const buyers = Array.from({ length: 5 }, (_, index) => index + 1)
  buyers.forEach(id =>
    table('buyers').add(
      id,
      `${givenNames[(id * 5) % givenNames.length]} ${surnames[(id * 7) % surnames.length]}`,
      ((id - 1) % 3) + 1,
      `buying${id}@caisvelho.example`,
      money([250000, 250000, 500000, 1000000, 5000000][id - 1]!),
    ),
  )
  const suppliers = Array.from({ length: 60 + Math.round((scale - 1) * 12) }, (_, index): Supplier => {
    const id = index + 1
    const round = Math.floor(index / (makers.length * places.length))
    const plain = `${makers[index % makers.length]} ${places[Math.floor(index / makers.length) % places.length]}`
    const town = index === 2 ? 13 : (index % towns.length) + 1
    const currency = town === 9 || town === 10 ? 'GBP' : town === 11 || town === 12 ? 'NOK' : 'EUR'
    const supplier: Supplier = {
      id,
      name: oddNames[index] ?? (round ? `${plain} ${round + 1}` : plain),
      currency,
      terms: index % 23 === 11 ? null : chance.one(Object.keys(termDays)),
      buyer: chance.one(buyers),
      lead: chance.whole(3, 35),
      punctual: chance.next(),
    }
    // two digits of it stand for nothing any more
    const account = (at: number) =>
      ibanOf(countryOf(at), (chance.whole(10, 99), `${chance.whole(1000, 9999)}${chance.whole(1000, 9999)}${chance.whole(1000, 9999)}`))
    table('suppliers').add(
      id,
      `V-${String(id).padStart(3, '0')}`,
      supplier.name,
      `${chance.whole(1, 90)} ${chance.one(streets)}`,
      town,
      chance.chance(0.9) ? `Y${chance.whole(100000000, 999999999)}` : null,
      supplier.terms,
      supplier.buyer,
      currency,
      account(town),
      id % 13 === 4 ? null : mailbox('orders', `v${id}`, supplier.name),
    )
    return supplier
  })
  const offers = new Map<number, Offer[]>()
  for (const item of masters.items) {
    const own: Offer[] = []
    offers.set(item.id, own)
    if (item.id % 211 === 7) continue
    const taken = new Set<number>()
    const count = chance.whole(1, 3)
    const unloved = item.id % 53 === 11
    for (let index = 0; index < count; index++) {
      // a few suppliers have most of the trade
      const supplier = suppliers[Math.floor(chance.next() ** 2.4 * suppliers.length)]!
      if (taken.has(supplier.id)) continue
      taken.add(supplier.id)
      const length = item.unit === 'm'
      const offer: Offer = {
        supplier,
        number: `${item.code.slice(0, 1)}${chance.whole(10000, 99999)}`,
        price: 0,
        lead: supplier.lead + chance.whole(0, 5),
        pack: length ? chance.one([10000, 25000, 50000]) : chance.one([1000, 1000, 5000, 6000, 10000, 12000]),
        minimum: 0,
        preferred: taken.size === 1 && !unloved,
        from: dayOf(2024, 1, 1),
        to: null,
      }
      offer.minimum = offer.pack * chance.one([1, 1, 1, 2, 4])
      const priceOn = (day: Day, percent: number) =>
        Math.max(1, Math.round((share(item.cost, percent, 100) * rateUnit) / bookedRate(supplier.currency, day)))
      offer.price = priceOn(firstDay, chance.whole(90, 112))
      // a price that was raised in the course of the books, or that has run out
      const lot = chance.next()
      const put = (each: Offer) => {
        own.push(each)
        table('item_suppliers').add(
          item.id,
          supplier.id,
          dayText(each.from),
          each.to === null ? null : dayText(each.to),
          each.number,
          money(each.price),
          supplier.currency,
          money(share(each.price, bookedRate(supplier.currency, clock), rateUnit)),
          fixed(each.pack, 3),
          fixed(each.minimum, 3),
          each.lead,
          each.preferred,
        )
      }
      if (lot < 0.25) {
        put({ ...offer, to: dayOf(2025, 12, 31) })
        put({ ...offer, from: dayOf(2026, 1, 1), price: offer.price + Math.ceil(offer.price / 20) })
      } else put(lot < 0.31 && taken.size > 1 ? { ...offer, to: dayOf(2026, 6, 30) } : offer)
    }
  }
  return { suppliers, buyers, offers }
}

/** What an item is bought for on a day: from the preferred supplier, else at the lowest price then valid. */
export function offerOn(offers: readonly Offer[], day: Day): Offer | undefined {
  const valid = offers.filter(offer => offer.from <= day && (offer.to === null || offer.to >= day))
  const inBase = (offer: Offer) => share(offer.price, bookedRate(offer.supplier.currency, day), rateUnit)
  return valid.find(offer => offer.preferred) ?? [...valid].sort((a, b) => inBase(a) - inBase(b) || a.supplier.id - b.supplier.id)[0]
}
