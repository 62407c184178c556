import { wordsOf } from '../catalog/roles'
import type { FieldInfo, LevelInfo } from '../formula/typed'

/** Words of a path, from the level's record to the column; those of one list are the same thing in several languages. */
const meanings = {
  number: 'number no nr num nummer numero numerus',
  date: 'date datum data fecha',
  issued: 'invoice issue issued document rechnung fatura emissao factura posting',
  due: 'due faellig faelligkeit vencimento vencimiento forfall',
  delivered: 'delivered delivery lieferung entrega shipped',
  currency: 'currency waehrung moeda divisa valuta',
  reference: 'reference referenz referencia',
  order: 'order bestellung auftrag encomenda pedido',
  terms: 'term terms zahlungsbedingung condicao condicoes condiciones',
  note: 'note remark notiz bemerkung nota observacao',
  credited: 'credited original corrected creditado',
  seller: 'company seller firma empresa mandant own',
  buyer: 'customer buyer client debtor kunde cliente',
  supplier: 'supplier vendor creditor lieferant kreditor fornecedor proveedor leverandor payee',
  account: 'account konto conta cuenta',
  bank: 'bank banco bankverbindung',
  open: 'open offen aberto abierto aapen',
  theirs: 'their supplier external fremde deles',
  name: 'name nome nombre bezeichnung navn title',
  legal: 'legal',
  tax: 'tax vat ust mwst iva steuer imposto nif mva',
  registration: 'registration register handelsregister registo',
  mail: 'email mail correio',
  address: 'address street strasse adresse morada rua direccion',
  second: 'line second additional zusatz',
  town: 'town city ort stadt cidade localidade ciudad',
  postcode: 'postcode zip plz postal postnummer',
  region: 'region state county distrito bundesland',
  country: 'country land pais',
  phone: 'phone telephone telefon telefone telefono',
  iban: 'iban',
  bic: 'bic swift',
  code: 'code codigo',
  discount: 'discount rabatt desconto descuento',
  freight: 'freight fracht frete porte shipping transporte',
  base: 'base taxable basis incidencia',
  rate: 'rate percent satz taxa tipo',
  category: 'category kategorie categoria',
  exemption: 'exemption reason isencao motivo',
  amount: 'amount betrag valor importe total net',
  quantity: 'quantity qty menge quantidade cantidad',
  unit: 'unit uom einheit unidade unidad',
  unece: 'unece un rec',
  price: 'price preis preco precio',
  description: 'description text beschreibung descricao descripcion',
  item: 'item article artikel artigo product produto',
  line: 'line position pos linha linea zeile',
  salesperson: 'salesperson seller vendedor verkaeufer contact',
  branch: 'branch filiale filial sucursal company',
} as const
export type Meaning = keyof typeof meanings

/** What a field must speak of, and what it must not. */
export interface Wanted {
  all: readonly Meaning[]
  none?: readonly Meaning[]
  type?: FieldInfo['type']
  /** stands in the level's own table */
  own?: true
}
export const want = (all: readonly Meaning[], more: Omit<Wanted, 'all'> = {}): Wanted => ({ all, ...more })
/** Which fields fill which terms; of each, the first that is found stands. */
export type Fields = Readonly<Record<string, readonly Wanted[]>>

const speaks = (words: readonly string[], meaning: Meaning): boolean => words.some(word => meanings[meaning].split(' ').includes(word))

/** The field of a level that speaks most plainly of what is wanted: with the fewest other words. */
export function fieldFor(level: LevelInfo, list: readonly Wanted[] | undefined): FieldInfo | undefined {
  for (const { all, none = [], type, own } of list ?? []) {
    const found = [...level.fields.values()]
      .filter(field => (!type || field.type === type) && (!own || field.record === '') && !field.total && !field.formula)
      .map(field => ({ field, words: wordsOf(field.path) }))
      .filter(({ words }) => all.every(meaning => speaks(words, meaning)) && !none.some(meaning => speaks(words, meaning)))
      .sort((one, other) => one.words.length - other.words.length)
    if (found[0]) return found[0].field
  }
  return undefined
}

/** The paths of fields that fill terms, by the terms. */
export const filled = (level: LevelInfo, fields: Fields): Record<string, string> =>
  Object.fromEntries(
    Object.entries(fields).flatMap(([id, list]) => {
      const field = fieldFor(level, list)
      return field ? [[id, field.path]] : []
    }),
  )
