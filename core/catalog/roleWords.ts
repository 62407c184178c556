import type { ColumnRole } from './columnRole'

/**
 * Words that names and comments of columns are made of, in the languages of the companies that use this: English, German, Spanish,
 * Portuguese and French, with the short forms of older systems. Without accents, in small letters; a word that stands at the end of a
 * longer one (German) counts from five letters on.
 */
export type RoleWords = readonly [role: ColumnRole, words: readonly string[]][]

const words = (...lines: string[]): readonly string[] => lines.join(' ').split(' ')

/** Said of a number, the most telling first: `unit price` is a price before `unit` could say anything. */
export const numberWords: RoleWords = [
  ['percent', words('percent percentage pct prozent prozentsatz porcentaje percentagem pourcentage perc taux')],
  [
    'position',
    words(
      'lineno linenum linenumber linenr pos posnr position posicion posicao zeile zeilennr renglon',
      'seq sequence sort sortorder ordinal rank step version row rowno laufnr',
    ),
  ],
  [
    'period',
    words(
      'year jahr geschaeftsjahr ejercicio exercicio ano anio annee month monat mes mois',
      'period periode periodo quarter quartal trimestre week woche semana semaine weekday',
    ),
  ],
  [
    'rate',
    words(
      'price preis einzelpreis stueckpreis precio preco prix prc unitcost rate satz kurs',
      'wechselkurs tipo tasa taxa cambio factor faktor fator ratio size weight gewicht peso',
      'poids days tage dias jours share per pro por score temperature height width length',
      'breite hoehe laenge ancho alto largo age alter edad lat lon latitude longitude',
      'average avg durchschnitt promedio media months monate meses years minimum maximum',
    ),
  ],
  ['amount', words('amount amt betrag importe monto montant montante valor wert value total subtotal')],
  [
    'quantity',
    words(
      'quantity qty qtd menge mge anzahl stueck stueckzahl cantidad cant quantidade quantite qte',
      'units pieces pcs hand onhand onorder reserved ordered delivered received shipped stock bestand',
      'lagerbestand existencia existencias estoque hours stunden horas heures count pallets boxes',
      'reservado geliefert bestellt litres liters tonnes kilos kg visits nights guests miles km',
      'point reorder backorder allocated available consumed produced scrap ausschuss kilometer meldebestand',
    ),
  ],
  [
    'amount',
    words(
      'totals tot net gross val sum balance debit credit tax vat base freight discount disc fee fees charge charges',
      'cost costs revenue sales turnover profit margin paid due outstanding open limit salary wage budget actual premium deposit',
      'nettobetrag bruttobetrag summe gesamtsumme gesamt netto brutto warenwert saldo soll haben umsatz kosten gebuehr steuer',
      'mwst ust fracht rabatt skonto erloes lohn miete neto bruto suma debe haber debito credito iva impuesto impuestos',
      'descuento flete porte portes ventas costo coste ingreso ingresos gasto gastos pagado',
      'solde remise taxe ht ttc tva vendas custo imposto desconto frete pago',
    ),
  ],
  ['number', words('number no nr num nummer numero folio belegnr belegnummer rechnungsnr rechnungsnummer')],
  ['code', words('code cod codigo kennung kuerzel ref postcode zip plz barcode ean gtin phone telefon')],
]

/** Numbers that name something by the word that they end with, or (Spanish and Portuguese) begin with. */
export const namingWords = {
  number: words('no nr num number nummer numero folio reference ref'),
  firstNumber: words('numero nro folio'),
  code: words('code cod codigo kennung postcode zip plz barcode ean gtin phone telefon account konto cuenta conta'),
  firstCode: words('codigo cod cuenta conta'),
}

/** Said of a text. */
export const textWords: RoleWords = [
  ['currency', words('currency curr cur ccy waehrung whg moneda divisa moeda devise')],
  ['language', words('language lang sprache idioma lingua langue locale')],
  ['postcode', words('postcode postal zip zipcode plz postleitzahl cp cep')],
  [
    'taxNumber',
    words(
      'taxnumber taxno taxid vatid vatnumber vatno vatreg ustid ustidnr steuernummer steuernr',
      'nif cif rfc nipc cnpj siret siren tvaintra uid',
    ),
  ],
  [
    'contact',
    words(
      'email mail phone fax mobile telephone tel telefon telefono telefone website web url iban',
      'bic swift correo bankaccount kontonummer cuenta bankverbindung',
    ),
  ],
  ['picture', words('picture image photo logo svg bild foto imagen imagem icon')],
  ['address', words('address addr street strasse str adresse anschrift direccion calle domicilio morada endereco rua rue hausnr')],
  ['country', words('country land pais pays landkz')],
  ['place', words('town city ort stadt ciudad poblacion localidad localidade cidade ville municipio place')],
  ['unit', words('unit uom um einheit mengeneinheit unidad unidade unite me measure')],
  [
    'status',
    words(
      'status state kind type art belegart typ estado tipo estatus class klasse clase category',
      'kategorie categoria kategori group gruppe grupo phase stage priority side gender mode source',
      'statut situacao kennzeichen version approval severity',
    ),
  ],
  [
    'note',
    words(
      'note notes remark remarks comment comments memo bemerkung bemerkungen anmerkung notiz hinweis',
      'observacion observaciones observacoes obs nota notas remarque notice body reason',
    ),
  ],
  [
    'number',
    words(
      'number no nr num nummer numero folio belegnr belegnummer rechnungsnr rechnungsnummer',
      'auftragsnr auftragsnummer bestellnr bestellnummer document docno docnum invno voucher reference',
    ),
  ],
  [
    'code',
    words(
      'code cod cd codigo sku ref kennung kuerzel kurz clave matchcode artikelnr artikelnummer',
      'kundennr kundennummer lieferantennr ean gtin isbn barcode symbol abbreviation',
    ),
  ],
  [
    'name',
    words(
      'name names nombre nome nom title titel titulo titre bezeichnung bez benennung firma',
      'razonsocial razon label caption surname lastname firstname vorname nachname apellido cliente kunde',
      'customer client supplier vendor lieferant proveedor fornecedor artikel product producto produto',
    ),
  ],
  ['text', words('description desc descr beschreibung text descripcion descricao libelle detail concepto subject')],
]

/** Said of a number together with a word for a rate: it is a share of a hundred. */
export const taxWords = words('tax taxes vat mwst ust steuer iva igv imposto impuesto tva discount rabatt descuento')

/** Ends of names that say: this is a key of the database. */
export const keyWords = words('id uuid guid oid key pk fk rowid schluessel hash token password')

/** Columns that a system writes for itself. */
export const systemWords = words(
  'created updated modified changed deleted inserted createdby updatedby createdat updatedat erstellt',
  'geaendert angelegt creado modificado actualizado timestamp checksum rowversion sync synced etl imported',
)

/** Dates that a record begins with. */
export const firstDates = words(
  'invoice order document doc bill receipt posting rechnungsdatum belegdatum auftragsdatum bestelldatum',
  'buchungsdatum factura emision pedido emissao inv movement payment entry booked issued issue',
)

/** Words for those whom a document is made out to. */
export const partnerWords = words(
  'customer client cust kunde kunden cliente clientes supplier vendor lieferant lieferanten proveedor proveedores fornecedor',
  'debtor creditor debitor kreditor partner patient paciente pacientes student students alumno alumnos member mitglied tenant mieter',
  'guest owner party contact subscriber fournisseur payer',
)

/** Words for what is our own: no document is made out to a branch or to whom we employ. */
export const ownWords = words(
  'branch branches filiale niederlassung sucursal filial site plant werk warehouse lager almacen employee staff mitarbeiter empleado',
  'salesperson salespeople verkaeufer vendedor buyer buyers einkaeufer department abteilung user users',
)

/** Words for tables of the lines of a document. */
export const lineWords = words(
  'line lines item items position positions positionen posten pos zeile zeilen detail details dtl linea lineas linha linhas',
  'detalle detalles renglones lignes entry entries row rows tax taxes steuern impuestos leistung leistungen treatments rate parts teile',
)

/** Words for accounts of a ledger. */
export const accountWords = words('account accounts acct konto konten sachkonto cuenta cuentas conta contas compte comptes')

/** Words for amounts in the currency of the company, whatever that of a document is. */
export const ownCurrencyWords = words('base local company home domestic functional hauswaehrung hw eur usd mn')
