import { type Day, dayText } from '../value/date'
import { decimalText, type Decimal } from '../value/decimal'
import { amountText } from './amounts'
import type { DocumentCharge, EInvoice, InvoiceLine, Party, PostalAddress, TaxBreakdown, TaxRate } from './invoice'
import { said, some, type Xml, xml, xmlText } from './xml'

const date = (name: string, day: Day | undefined): Xml | undefined => (day === undefined ? undefined : xml(name, dayText(day)))
const vat = xml('cac:TaxScheme', [xml('cbc:ID', 'VAT')])

const category = (name: string, { category: id, rate }: TaxRate, exemption?: string): Xml =>
  xml(name, [
    xml('cbc:ID', id),
    // what is not subject to tax has no rate (BR-O-05)
    id === 'O' ? undefined : xml('cbc:Percent', decimalText(rate)),
    said('cbc:TaxExemptionReason', exemption),
    vat,
  ])

const address = (name: string, { lineOne, lineTwo, city, postcode, subdivision, country }: PostalAddress): Xml =>
  xml(name, [
    said('cbc:StreetName', lineOne),
    said('cbc:AdditionalStreetName', lineTwo),
    said('cbc:CityName', city),
    said('cbc:PostalZone', postcode),
    said('cbc:CountrySubentity', subdivision),
    xml('cac:Country', [xml('cbc:IdentificationCode', country)]),
  ])

const party = (name: string, { id, registration, vatNumber, electronic, contact, ...own }: Party): Xml =>
  xml(name, [
    xml('cac:Party', [
      electronic && xml('cbc:EndpointID', electronic.address, { schemeID: electronic.scheme }),
      some('cac:PartyIdentification', [said('cbc:ID', id)]),
      address('cac:PostalAddress', own.address),
      vatNumber === undefined ? undefined : xml('cac:PartyTaxScheme', [xml('cbc:CompanyID', vatNumber), vat]),
      xml('cac:PartyLegalEntity', [xml('cbc:RegistrationName', own.name), said('cbc:CompanyID', registration)]),
      some('cac:Contact', [
        said('cbc:Name', contact?.name),
        said('cbc:Telephone', contact?.phone),
        said('cbc:ElectronicMail', contact?.mail),
      ]),
    ]),
  ])

/** An invoice or credit note of UBL 2.1 (ISO/IEC 19845), bound to EN 16931 by CEN/TS 16931-3-2. */
export function ublText(invoice: EInvoice): string {
  const { currency, totals, taxCurrency, payment, before, delivery } = invoice
  const credit = invoice.kind === '381'
  const money = (name: string, amount: Decimal, of = currency) => xml(name, amountText(amount), { currencyID: of })
  const charge = (each: DocumentCharge): Xml =>
    xml('cac:AllowanceCharge', [
      xml('cbc:ChargeIndicator', String(each.is === 'charge')),
      said('cbc:AllowanceChargeReason', each.reason),
      money('cbc:Amount', each.amount),
      category('cac:TaxCategory', each),
    ])
  const tax = (each: TaxBreakdown): Xml =>
    xml('cac:TaxSubtotal', [
      money('cbc:TaxableAmount', each.base),
      money('cbc:TaxAmount', each.tax),
      category('cac:TaxCategory', each, each.exemption),
    ])
  const line = (each: InvoiceLine): Xml =>
    xml(credit ? 'cac:CreditNoteLine' : 'cac:InvoiceLine', [
      xml('cbc:ID', each.id),
      said('cbc:Note', each.note),
      xml(credit ? 'cbc:CreditedQuantity' : 'cbc:InvoicedQuantity', decimalText(each.quantity), { unitCode: each.unit }),
      money('cbc:LineExtensionAmount', each.amount),
      xml('cac:Item', [
        xml('cbc:Name', each.name),
        some('cac:SellersItemIdentification', [said('cbc:ID', each.item)]),
        category('cac:ClassifiedTaxCategory', each),
      ]),
      xml('cac:Price', [xml('cbc:PriceAmount', decimalText(each.price), { currencyID: currency })]),
    ])
  const own = credit ? 'CreditNote' : 'Invoice'
  return xmlText(
    xml(
      own,
      [
        xml('cbc:CustomizationID', 'urn:cen.eu:en16931:2017'),
        xml('cbc:ID', invoice.number),
        date('cbc:IssueDate', invoice.issued),
        // a credit note says its day with the means of payment
        credit ? undefined : date('cbc:DueDate', invoice.due),
        xml(credit ? 'cbc:CreditNoteTypeCode' : 'cbc:InvoiceTypeCode', invoice.kind),
        ...invoice.notes.map(note => xml('cbc:Note', note)),
        xml('cbc:DocumentCurrencyCode', currency),
        said('cbc:TaxCurrencyCode', taxCurrency),
        said('cbc:BuyerReference', invoice.buyerReference),
        some('cac:OrderReference', [said('cbc:ID', invoice.orderNumber)]),
        before &&
          xml('cac:BillingReference', [
            xml('cac:InvoiceDocumentReference', [xml('cbc:ID', before.number), date('cbc:IssueDate', before.issued)]),
          ]),
        party('cac:AccountingSupplierParty', invoice.seller),
        party('cac:AccountingCustomerParty', invoice.buyer),
        some('cac:Delivery', [
          date('cbc:ActualDeliveryDate', delivery?.on),
          delivery?.address && xml('cac:DeliveryLocation', [address('cac:Address', delivery.address)]),
        ]),
        payment &&
          xml('cac:PaymentMeans', [
            xml('cbc:PaymentMeansCode', payment.code),
            credit ? date('cbc:PaymentDueDate', invoice.due) : undefined,
            said('cbc:PaymentID', invoice.paymentReference),
            payment.iban === undefined
              ? undefined
              : xml('cac:PayeeFinancialAccount', [
                  xml('cbc:ID', payment.iban),
                  said('cbc:Name', payment.accountName),
                  some('cac:FinancialInstitutionBranch', [said('cbc:ID', payment.bic)]),
                ]),
          ]),
        some('cac:PaymentTerms', [said('cbc:Note', invoice.terms)]),
        ...invoice.charges.map(charge),
        xml('cac:TaxTotal', [money('cbc:TaxAmount', totals.tax), ...invoice.taxes.map(tax)]),
        totals.taxAccounted && taxCurrency ? xml('cac:TaxTotal', [money('cbc:TaxAmount', totals.taxAccounted, taxCurrency)]) : undefined,
        xml('cac:LegalMonetaryTotal', [
          money('cbc:LineExtensionAmount', totals.lines),
          money('cbc:TaxExclusiveAmount', totals.withoutTax),
          money('cbc:TaxInclusiveAmount', totals.withTax),
          money('cbc:AllowanceTotalAmount', totals.allowances),
          money('cbc:ChargeTotalAmount', totals.charges),
          totals.paid && money('cbc:PrepaidAmount', totals.paid),
          money('cbc:PayableAmount', totals.due),
        ]),
        ...invoice.lines.map(line),
      ],
      {
        xmlns: `urn:oasis:names:specification:ubl:schema:xsd:${own}-2`,
        'xmlns:cac': 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
        'xmlns:cbc': 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
      },
    ),
  )
}
