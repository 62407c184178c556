import type { Day } from '../value/date'
import type { Decimal } from '../value/decimal'

/*
 * An invoice as EN 16931-1 means it: names of its terms (BT) and groups (BG) stand at each. Amounts are in the invoice's currency, with two
 * decimals at most; quantities and unit prices may have more. Credit notes have positive amounts: that they credit is said by their kind.
 */

/** 380 commercial invoice, 381 credit note (UNTDID 1001). */
export type InvoiceKind = '380' | '381'

/** BG-5, BG-8, BG-15 */
export interface PostalAddress {
  lineOne?: string
  lineTwo?: string
  city?: string
  postcode?: string
  subdivision?: string
  /** ISO 3166-1 alpha-2 */
  country: string
}

/** BG-4, BG-7 */
export interface Party {
  /** BT-27, BT-44 */
  name: string
  /** BT-29, BT-46: the number by which the other side knows it */
  id?: string
  /** BT-30, BT-47 */
  registration?: string
  /** BT-31, BT-48: with the country's letters before it */
  vatNumber?: string
  /** BT-34, BT-49, with its scheme (EAS): EM is a mail address */
  electronic?: { scheme: string; address: string }
  contact?: { name?: string; phone?: string; mail?: string }
  address: PostalAddress
}

/** UNTDID 5305, those of EN 16931 */
export type TaxCategory = 'S' | 'Z' | 'E' | 'AE' | 'K' | 'G' | 'O'

export interface TaxRate {
  category: TaxCategory
  /** BT-119, BT-152: in percent */
  rate: Decimal
}

/** BG-20, BG-21: an allowance or charge on the whole document */
export interface DocumentCharge extends TaxRate {
  is: 'allowance' | 'charge'
  /** BT-92, BT-99 */
  amount: Decimal
  /** BT-97, BT-104 */
  reason: string
}

/** BG-23: what is taxed in one category at one rate */
export interface TaxBreakdown extends TaxRate {
  /** BT-116 */
  base: Decimal
  /** BT-117 */
  tax: Decimal
  /** BT-120 */
  exemption?: string
}

/** BG-25 */
export interface InvoiceLine extends TaxRate {
  /** BT-126 */
  id: string
  /** BT-127 */
  note?: string
  /** BT-153 */
  name: string
  /** BT-155: the seller's number of the item */
  item?: string
  /** BT-129 */
  quantity: Decimal
  /** BT-130: UN/ECE Recommendation 20 or 21 */
  unit: string
  /** BT-146 */
  price: Decimal
  /** BT-131 */
  amount: Decimal
}

/** BG-16, BG-17 */
export interface PaymentMeans {
  /** BT-81 (UNTDID 4461): 58 is a SEPA credit transfer, 30 another one */
  code: string
  /** BT-84, without spaces */
  iban?: string
  /** BT-85 */
  accountName?: string
  /** BT-86 */
  bic?: string
}

/** BG-22 */
export interface InvoiceTotals {
  /** BT-106 */
  lines: Decimal
  /** BT-107 */
  allowances: Decimal
  /** BT-108 */
  charges: Decimal
  /** BT-109 */
  withoutTax: Decimal
  /** BT-110 */
  tax: Decimal
  /** BT-111: in the currency of BT-6 */
  taxAccounted?: Decimal
  /** BT-112 */
  withTax: Decimal
  /** BT-113 */
  paid?: Decimal
  /** BT-115 */
  due: Decimal
}

export interface EInvoice {
  /** BT-1 */
  number: string
  /** BT-2 */
  issued: Day
  /** BT-3 */
  kind: InvoiceKind
  /** BT-5, ISO 4217 */
  currency: string
  /** BT-6 */
  taxCurrency?: string
  /** BT-9 */
  due?: Day
  /** BT-10 */
  buyerReference?: string
  /** BT-13 */
  orderNumber?: string
  /** BT-20 */
  terms?: string
  /** BT-22 */
  notes: string[]
  /** BT-25, BT-26 */
  before?: { number: string; issued?: Day }
  seller: Party
  buyer: Party
  /** BT-72, BG-15 */
  delivery?: { on?: Day; address?: PostalAddress }
  /** BT-83 */
  paymentReference?: string
  payment?: PaymentMeans
  charges: DocumentCharge[]
  taxes: TaxBreakdown[]
  totals: InvoiceTotals
  lines: InvoiceLine[]
}
