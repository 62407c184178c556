import { type Day, dayText } from '../value/date'
import { decimalText } from '../value/decimal'
import type { DocumentCharge, EInvoice, InvoiceLine, Party, PostalAddress, TaxBreakdown } from './invoice'
import { amountText } from './amounts'
import { said, some, type Xml, xml, xmlText } from './xml'

/** The profile of Factur-X and ZUGFeRD that is EN 16931 and nothing else (BT-24). */
export const guideline = 'urn:cen.eu:en16931:2017'

/** A date as format 102 of UNTDID 2379: YYYYMMDD. */
const date = (name: string, day: Day | undefined, prefix = 'udt'): Xml | undefined =>
  day === undefined ? undefined : xml(name, [xml(`${prefix}:DateTimeString`, dayText(day).replaceAll('-', ''), { format: '102' })])

const address = ({ lineOne, lineTwo, city, postcode, subdivision, country }: PostalAddress): Xml =>
  xml('ram:PostalTradeAddress', [
    said('ram:PostcodeCode', postcode),
    said('ram:LineOne', lineOne),
    said('ram:LineTwo', lineTwo),
    said('ram:CityName', city),
    xml('ram:CountryID', country),
    said('ram:CountrySubDivisionName', subdivision),
  ])

const party = (name: string, { id, registration, vatNumber, electronic, contact, ...own }: Party): Xml =>
  xml(name, [
    said('ram:ID', id),
    xml('ram:Name', own.name),
    some('ram:SpecifiedLegalOrganization', [said('ram:ID', registration)]),
    some('ram:DefinedTradeContact', [
      said('ram:PersonName', contact?.name),
      some('ram:TelephoneUniversalCommunication', [said('ram:CompleteNumber', contact?.phone)]),
      some('ram:EmailURIUniversalCommunication', [said('ram:URIID', contact?.mail)]),
    ]),
    address(own.address),
    electronic && xml('ram:URIUniversalCommunication', [xml('ram:URIID', electronic.address, { schemeID: electronic.scheme })]),
    vatNumber === undefined ? undefined : xml('ram:SpecifiedTaxRegistration', [xml('ram:ID', vatNumber, { schemeID: 'VA' })]),
  ])

const line = ({ id, note, name, item, quantity, unit, price, amount, category, rate }: InvoiceLine): Xml =>
  xml('ram:IncludedSupplyChainTradeLineItem', [
    xml('ram:AssociatedDocumentLineDocument', [xml('ram:LineID', id), some('ram:IncludedNote', [said('ram:Content', note)])]),
    xml('ram:SpecifiedTradeProduct', [said('ram:SellerAssignedID', item), xml('ram:Name', name)]),
    xml('ram:SpecifiedLineTradeAgreement', [xml('ram:NetPriceProductTradePrice', [xml('ram:ChargeAmount', decimalText(price))])]),
    xml('ram:SpecifiedLineTradeDelivery', [xml('ram:BilledQuantity', decimalText(quantity), { unitCode: unit })]),
    xml('ram:SpecifiedLineTradeSettlement', [
      xml('ram:ApplicableTradeTax', [
        xml('ram:TypeCode', 'VAT'),
        xml('ram:CategoryCode', category),
        // what is not subject to tax has no rate (BR-O-05)
        category === 'O' ? undefined : xml('ram:RateApplicablePercent', decimalText(rate)),
      ]),
      xml('ram:SpecifiedTradeSettlementLineMonetarySummation', [xml('ram:LineTotalAmount', amountText(amount))]),
    ]),
  ])

const tax = ({ category, rate, base, tax: amount, exemption }: TaxBreakdown): Xml =>
  xml('ram:ApplicableTradeTax', [
    xml('ram:CalculatedAmount', amountText(amount)),
    xml('ram:TypeCode', 'VAT'),
    said('ram:ExemptionReason', exemption),
    xml('ram:BasisAmount', amountText(base)),
    xml('ram:CategoryCode', category),
    category === 'O' ? undefined : xml('ram:RateApplicablePercent', decimalText(rate)),
  ])

const charge = ({ is, amount, reason, category, rate }: DocumentCharge): Xml =>
  xml('ram:SpecifiedTradeAllowanceCharge', [
    xml('ram:ChargeIndicator', [xml('udt:Indicator', String(is === 'charge'))]),
    xml('ram:ActualAmount', amountText(amount)),
    said('ram:Reason', reason),
    xml('ram:CategoryTradeTax', [
      xml('ram:TypeCode', 'VAT'),
      xml('ram:CategoryCode', category),
      category === 'O' ? undefined : xml('ram:RateApplicablePercent', decimalText(rate)),
    ]),
  ])

/** An invoice as UN/CEFACT Cross Industry Invoice D16B, bound to EN 16931 by CEN/TS 16931-3-3. */
export function ciiText(invoice: EInvoice): string {
  const { seller, buyer, delivery, payment, totals, before } = invoice
  return xmlText(
    xml(
      'rsm:CrossIndustryInvoice',
      [
        xml('rsm:ExchangedDocumentContext', [xml('ram:GuidelineSpecifiedDocumentContextParameter', [xml('ram:ID', guideline)])]),
        xml('rsm:ExchangedDocument', [
          xml('ram:ID', invoice.number),
          xml('ram:TypeCode', invoice.kind),
          date('ram:IssueDateTime', invoice.issued),
          ...invoice.notes.map(note => xml('ram:IncludedNote', [xml('ram:Content', note)])),
        ]),
        xml('rsm:SupplyChainTradeTransaction', [
          ...invoice.lines.map(line),
          xml('ram:ApplicableHeaderTradeAgreement', [
            said('ram:BuyerReference', invoice.buyerReference),
            party('ram:SellerTradeParty', seller),
            party('ram:BuyerTradeParty', buyer),
            some('ram:BuyerOrderReferencedDocument', [said('ram:IssuerAssignedID', invoice.orderNumber)]),
          ]),
          xml('ram:ApplicableHeaderTradeDelivery', [
            delivery?.address && xml('ram:ShipToTradeParty', [address(delivery.address)]),
            some('ram:ActualDeliverySupplyChainEvent', [date('ram:OccurrenceDateTime', delivery?.on)]),
          ]),
          xml('ram:ApplicableHeaderTradeSettlement', [
            said('ram:PaymentReference', invoice.paymentReference),
            said('ram:TaxCurrencyCode', invoice.taxCurrency),
            xml('ram:InvoiceCurrencyCode', invoice.currency),
            payment &&
              xml('ram:SpecifiedTradeSettlementPaymentMeans', [
                xml('ram:TypeCode', payment.code),
                some('ram:PayeePartyCreditorFinancialAccount', [
                  said('ram:IBANID', payment.iban),
                  said('ram:AccountName', payment.accountName),
                ]),
                some('ram:PayeeSpecifiedCreditorFinancialInstitution', [said('ram:BICID', payment.bic)]),
              ]),
            ...invoice.taxes.map(tax),
            ...invoice.charges.map(charge),
            some('ram:SpecifiedTradePaymentTerms', [said('ram:Description', invoice.terms), date('ram:DueDateDateTime', invoice.due)]),
            xml('ram:SpecifiedTradeSettlementHeaderMonetarySummation', [
              xml('ram:LineTotalAmount', amountText(totals.lines)),
              xml('ram:ChargeTotalAmount', amountText(totals.charges)),
              xml('ram:AllowanceTotalAmount', amountText(totals.allowances)),
              xml('ram:TaxBasisTotalAmount', amountText(totals.withoutTax)),
              xml('ram:TaxTotalAmount', amountText(totals.tax), { currencyID: invoice.currency }),
              totals.taxAccounted && invoice.taxCurrency
                ? xml('ram:TaxTotalAmount', amountText(totals.taxAccounted), { currencyID: invoice.taxCurrency })
                : undefined,
              xml('ram:GrandTotalAmount', amountText(totals.withTax)),
              totals.paid && xml('ram:TotalPrepaidAmount', amountText(totals.paid)),
              xml('ram:DuePayableAmount', amountText(totals.due)),
            ]),
            before &&
              xml('ram:InvoiceReferencedDocument', [
                xml('ram:IssuerAssignedID', before.number),
                date('ram:FormattedIssueDateTime', before.issued, 'qdt'),
              ]),
          ]),
        ]),
      ],
      {
        'xmlns:rsm': 'urn:un:unece:uncefact:data:standard:CrossIndustryInvoice:100',
        'xmlns:qdt': 'urn:un:unece:uncefact:data:standard:QualifiedDataType:100',
        'xmlns:ram': 'urn:un:unece:uncefact:data:standard:ReusableAggregateBusinessInformationEntity:100',
        'xmlns:udt': 'urn:un:unece:uncefact:data:standard:UnqualifiedDataType:100',
      },
    ),
  )
}
