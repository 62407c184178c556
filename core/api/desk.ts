/** A journal entry as somebody writes it at the company desk. Amounts are numbers as text, in the company's currency. */
export interface DeskEntry {
  date: string
  description: string
  document?: string
  lines: DeskLine[]
}
export interface DeskLine {
  account: string
  branch: string
  department?: string
  debit?: string
  credit?: string
}

/**
 * An invoice as somebody writes it at the desk: lines of items, or of work on an account of income. Quantities, prices and amounts are
 * numbers as text in the customer's currency, before tax.
 */
export interface DeskInvoice {
  date: string
  customer: string
  branch: string
  lines: DeskInvoiceLine[]
  freight?: string
  discount?: string
  note?: string
}
export interface DeskInvoiceLine {
  item?: string
  account?: string
  description?: string
  quantity: string
  /** the item's own where nothing is said */ price?: string
}
/** Money from a customer, and the invoices that it pays; what is left stays on the customer's account. */
export interface DeskReceipt {
  date: string
  customer: string
  branch: string
  amount: string
  pays: { invoice: string; amount: string }[]
}
/** A supplier's bill: what was bought, by account, before tax. */
export interface DeskBill {
  date: string
  supplier: string
  branch: string
  supplierNumber: string
  lines: { account: string; department?: string; description: string; amount: string }[]
}

/** A fiscal period that is over, to be closed; as the books number it within its year. */
export interface DeskClosing {
  year: string
  number: string
  /** the day on which it is closed; none to open it again */
  date?: string
}

export type DeskDocument =
  | { kind: 'entry'; entry: DeskEntry }
  | { kind: 'invoice'; invoice: DeskInvoice }
  | { kind: 'receipt'; receipt: DeskReceipt }
  | { kind: 'bill'; bill: DeskBill }
  | { kind: 'closing'; closing: DeskClosing }

export interface DeskNamed {
  code: string
  name: string
}
export interface DeskPeriod {
  year: string
  number: string
  name: string
  end: string
}
/** What the desk of a source offers. */
export interface DeskOffer {
  accounts: (DeskNamed & { type: string })[]
  branches: DeskNamed[]
  departments: DeskNamed[]
  customers: (DeskNamed & { currency: string; branch: string })[]
  suppliers: (DeskNamed & { currency: string })[]
  items: (DeskNamed & { price: string; unit: string })[]
  /** periods that are not closed, the earliest first */
  periods: DeskPeriod[]
  /** the period that was closed last, which may be opened again */
  closed?: DeskPeriod
  entries: { number: string; date: string; description: string; document: string; amount: string }[]
}
