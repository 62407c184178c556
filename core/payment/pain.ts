import { said, some, xml, type Xml, xmlText } from '../einvoice/xml'
import { dayText } from '../value/date'
import { add, decimal, type Decimal, decimalText, trim, zero } from '../value/decimal'
import { decimalsIn } from './rules'
import type { Transfer } from './transfer'

/** Versions of pain.001.001: 09 is of 2019, 03 of 2009 and still asked for by some banks. */
export const painVersions = ['09', '03'] as const
export type PainVersion = (typeof painVersions)[number]

/** What is told of a file of payments beside them. */
export interface PainFile {
  version: PainVersion
  /** tells this file from all others, by which banks know one that comes twice; 35 characters at most */
  id: string
  /** when it was made: a date and time of ISO 8601 */
  made: string
  /** who gives it to the bank */
  initiator: string
}

const amountText = (amount: Decimal, currency: string): string => decimalText(add(trim(amount), decimal(0, decimalsIn(currency))))
const sumOf = (transfers: readonly Transfer[]): string => decimalText(trim(transfers.reduce((sum, { amount }) => add(sum, amount), zero)))

/**
 * Transfers as a file for a bank (ISO 20022, pain.001.001, customer credit transfer initiation). Those from one account in one currency on
 * one day stand together; euros are paid as SEPA transfers (EPC132-08). The transfers are without faults: see faultsOf.
 */
export function painText(transfers: readonly Transfer[], { version, id, made, initiator }: PainFile): string {
  const space = `urn:iso:std:iso:20022:tech:xsd:pain.001.001.${version}`
  const bank = (bic: string | undefined): Xml | undefined => said(version === '03' ? 'BIC' : 'BICFI', bic)
  const account = (name: string, iban: string): Xml => xml(name, [xml('Id', [xml('IBAN', iban)])])
  const batches = new Map<string, Transfer[]>()
  for (const transfer of transfers) {
    const key = [transfer.payerAccount, transfer.currency, transfer.on, transfer.payer, transfer.payerBank].join('\n')
    batches.set(key, [...(batches.get(key) ?? []), transfer])
  }
  let count = 0
  const single = (transfer: Transfer): Xml => {
    const { currency, reference, about } = transfer
    count++
    return xml('CdtTrfTxInf', [
      xml('PmtId', [xml('EndToEndId', transfer.id ?? `${id.slice(0, 26)}-${count}`)]),
      xml('Amt', [xml('InstdAmt', amountText(transfer.amount, currency), { Ccy: currency })]),
      transfer.payeeBank === undefined ? undefined : xml('CdtrAgt', [xml('FinInstnId', [bank(transfer.payeeBank)])]),
      xml('Cdtr', [xml('Nm', transfer.payee)]),
      account('CdtrAcct', transfer.payeeAccount),
      some('RmtInf', [
        reference === undefined ? said('Ustrd', about) : undefined,
        reference === undefined
          ? undefined
          : xml('Strd', [xml('CdtrRefInf', [xml('Tp', [xml('CdOrPrtry', [xml('Cd', 'SCOR')])]), xml('Ref', reference)])]),
      ]),
    ])
  }
  const batch = (own: readonly Transfer[], at: number): Xml => {
    const { payer, payerAccount, payerBank, currency, on } = own[0]!
    const sepa = currency === 'EUR'
    const day = dayText(on)
    return xml('PmtInf', [
      xml('PmtInfId', `${id.slice(0, 29)}-${at + 1}`),
      xml('PmtMtd', 'TRF'),
      xml('NbOfTxs', String(own.length)),
      xml('CtrlSum', sumOf(own)),
      sepa ? xml('PmtTpInf', [xml('SvcLvl', [xml('Cd', 'SEPA')])]) : undefined,
      xml('ReqdExctnDt', version === '03' ? day : [xml('Dt', day)]),
      xml('Dbtr', [xml('Nm', payer)]),
      account('DbtrAcct', payerAccount),
      xml('DbtrAgt', [xml('FinInstnId', [payerBank === undefined ? xml('Othr', [xml('Id', 'NOTPROVIDED')]) : bank(payerBank)])]),
      xml('ChrgBr', sepa ? 'SLEV' : 'SHAR'),
      ...own.map(single),
    ])
  }
  return xmlText(
    xml(
      'Document',
      [
        xml('CstmrCdtTrfInitn', [
          xml('GrpHdr', [
            xml('MsgId', id),
            xml('CreDtTm', made),
            xml('NbOfTxs', String(transfers.length)),
            xml('CtrlSum', sumOf(transfers)),
            xml('InitgPty', [xml('Nm', initiator)]),
          ]),
          ...[...batches.values()].map(batch),
        ]),
      ],
      { xmlns: space },
    ),
  )
}
