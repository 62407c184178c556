import type { Day } from '../../core/value/date'
import { clock, firstDay, type Item } from './masters'
import { Chance, share } from './random'
import type { Shipment } from './sales'
import { type Offer, offerOn } from './suppliers'

/** A purchase order line in the making, with what came of it. Quantities are thousandths. */
export interface Wanted {
  item: Item
  warehouse: number
  offer: Offer
  ordered: Day
  quantity: number
  expected: Day
  received: { day: Day; quantity: number }[]
  closed: boolean
}
export interface Movement {
  item: Item
  warehouse: number
  day: Day
  kind: 'opening' | 'receipt' | 'shipment' | 'return'
  quantity: number
  amount: number
  number: string | null
  wanted?: Wanted
}
export interface Stock {
  movements: Movement[]
  wanted: Wanted[]
  onHand: number
  onOrder: number
  point: number
  upTo: number
}

/** Rounded up to whole packs, and to the least quantity that is sold. */
export const inPacks = (quantity: number, offer: Offer) =>
  Math.max(Math.ceil(quantity / offer.pack) * offer.pack, Math.ceil(offer.minimum / offer.pack) * offer.pack)

/** A supplier gets an order every third week: what is wanted until then stands on it. */
const orderDay = (day: Day, supplier: number) => Math.ceil((day - supplier) / 21) * 21 + supplier

/**
 * What happens to one item in one warehouse: it begins with stock, goes down with each shipment, and is ordered again in time. What is
 * short on the day of a shipment is bought
 * and received that very day. Everything is valued at standard cost.
 */
export function stockOf(item: Item, warehouse: number, shipments: readonly Shipment[], offers: readonly Offer[]): Stock {
  const chance = new Chance(item.id * 7919 + warehouse * 104729)
  const all = shipments.reduce((sum, each) => sum + Math.max(0, each.quantity), 0)
  const whole = (quantity: number) => Math.max(1000, Math.round(quantity / 1000) * 1000)
  const upTo = whole(all * 0.7 + chance.whole(2, 24) * 1000)
  const point = whole(upTo * (0.35 + chance.next() * 0.2))
  const stock: Stock = { movements: [], wanted: [], onHand: 0, onOrder: 0, point, upTo }
  const move = (day: Day, kind: Movement['kind'], quantity: number, number: string | null, wanted?: Wanted) => {
    stock.onHand += quantity
    stock.movements.push({
      item,
      warehouse,
      day,
      kind,
      quantity,
      amount: share(quantity, item.cost, 1000),
      number,
      ...(wanted ? { wanted } : {}),
    })
  }
  move(
    firstDay,
    'opening',
    whole(shipments.length ? upTo : chance.whole(0, 14) ? point + (upTo - point) * chance.next() : point * 0.6),
    null,
  )
  const coming: { day: Day; quantity: number; wanted: Wanted }[] = []
  const take = (until: Day) => {
    coming.sort((a, b) => a.day - b.day)
    while (coming.length && coming[0]!.day <= until) {
      const { day, quantity, wanted } = coming.shift()!
      wanted.received.push({ day, quantity })
      move(day, 'receipt', quantity, null, wanted)
    }
  }
  const order = (day: Day, least: number, rush: boolean) => {
    const offer = offerOn(offers, day)
    if (!offer) return false
    const ordered = rush ? day : orderDay(day, offer.supplier.id)
    // the next order is still to be written: the reorder list asks for it
    if (ordered > clock) return true
    const quantity = inPacks(Math.max(least, rush ? 0 : upTo - stock.onHand - coming.reduce((sum, each) => sum + each.quantity, 0)), offer)
    const wanted: Wanted = {
      item,
      warehouse,
      offer,
      ordered,
      quantity,
      expected: ordered + (rush ? 0 : offer.lead),
      received: [],
      closed: false,
    }
    stock.wanted.push(wanted)
    // all lines of an order come together, as late as the supplier was with it
    const late = new Chance(offer.supplier.id * 31 + ordered * 7 + warehouse)
    const delay = rush ? 0 : late.next() < offer.supplier.punctual ? late.whole(-2, 1) : late.whole(2, 25)
    const day1 = Math.max(ordered, wanted.expected + delay)
    const part = !rush && quantity > offer.pack && chance.chance(0.12) ? Math.ceil((quantity * 0.6) / offer.pack) * offer.pack : quantity
    coming.push({ day: day1, quantity: part, wanted })
    if (part < quantity) {
      if (chance.chance(0.3)) wanted.closed = true
      else coming.push({ day: day1 + 14, quantity: quantity - part, wanted })
    }
    return true
  }
  for (const shipment of shipments) {
    take(shipment.day)
    const short = shipment.quantity - stock.onHand
    if (short > 0) {
      if (order(shipment.day, short, true)) take(shipment.day)
      // no one supplies it: it was found in a corner of the store and counted as opening stock
      else {
        const [opening] = stock.movements
        opening!.quantity += short
        opening!.amount = share(opening!.quantity, item.cost, 1000)
        stock.onHand += short
      }
    }
    move(shipment.day, shipment.quantity < 0 ? 'return' : 'shipment', -shipment.quantity, shipment.number)
    if (stock.onHand + coming.reduce((sum, each) => sum + each.quantity, 0) < point && chance.chance(0.97))
      order(shipment.day + chance.whole(0, 6), 0, false)
  }
  take(clock)
  for (const wanted of stock.wanted) {
    const left = wanted.quantity - wanted.received.reduce((sum, each) => sum + each.quantity, 0)
    if (wanted.closed && !wanted.received.length) wanted.closed = false
    if (left > 0 && !wanted.closed) stock.onOrder += left
  }
  return stock
}
