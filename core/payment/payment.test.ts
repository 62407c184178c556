import fc from 'fast-check'
import { generate, validate } from 'node-iso11649'
import generateCode from 'sepa-payment-qr-code'
import { describe, expect, it } from 'vitest'
import { decimal } from '../value/decimal'
import { paymentCode } from './code'
import { creditorReference, isCreditorReference } from './reference'
import { decimalsIn, toPayFaults } from './rules'
import type { ToPay } from './transfer'

const letters = fc.string({ unit: fc.constantFrom(...'0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ'), minLength: 1, maxLength: 21 })

describe('a creditor reference', () => {
  it('is the one that another program makes, and is taken for valid by both', () => {
    fc.assert(
      fc.property(letters, number => {
        const reference = creditorReference(number)!
        expect(reference).toBe(generate(number).replaceAll(' ', ''))
        expect([isCreditorReference(reference), validate(reference)]).toEqual([true, true])
      }),
    )
  })

  it('is none where one sign is another, or two have changed places', () => {
    fc.assert(
      fc.property(letters, fc.nat(), fc.constantFrom(...'0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ'), (number, place, sign) => {
        const reference = creditorReference(number)!
        const at = 2 + (place % (reference.length - 2))
        const changed = reference.slice(0, at) + sign + reference.slice(at + 1)
        expect(isCreditorReference(changed)).toBe(changed === reference || validate(changed))
        const turned = reference.slice(0, at) + (reference[at + 1] ?? '') + reference[at]! + reference.slice(at + 2)
        expect(isCreditorReference(turned)).toBe(turned === reference || validate(turned))
      }),
    )
  })

  it('leaves other signs out; nothing comes of none, or of too many', () => {
    expect(creditorReference('inv-2026/0042')).toBe(creditorReference('INV20260042'))
    expect([creditorReference('—'), creditorReference('A'.repeat(22)), isCreditorReference('RF18 5390 0754 7034')]).toEqual([
      undefined,
      undefined,
      false,
    ])
    // the example of the standard
    expect(creditorReference('539007547034')).toBe('RF18539007547034')
  })
})

const plain: ToPay = { payee: 'Cais Velho, Lda.', payeeAccount: 'PT50000201231234567890154', amount: decimal(12_345, 2), currency: 'EUR' }

describe('the code of a payment', () => {
  it('holds what another program writes for the same', () => {
    const names = fc.string({ minLength: 1, maxLength: 60 }).filter(name => name.trim() === name && name !== '')
    fc.assert(
      fc.property(names, fc.integer({ min: 1, max: 99_999_999_999 }), fc.boolean(), (name, cents, structured) => {
        const reference = structured ? { reference: 'RF18539007547034' } : { about: name }
        const own = paymentCode({ ...plain, payee: name, payeeBank: 'CGDIPTPL', amount: decimal(cents, 2), ...reference })
        const other = generateCode({
          name,
          iban: plain.payeeAccount,
          bic: 'CGDIPTPL',
          amount: cents / 100,
          ...(structured ? { structuredReference: 'RF18539007547034' } : { unstructuredReference: name }),
        })
        const parts = (text: string) =>
          text
            .replace(/\n+$/, '')
            .split('\n')
            .map((part, at) => (at === 7 ? Number(part.slice(3)) : part))
        expect(parts(own)).toEqual(parts(other))
      }),
    )
  })

  it('has its amount with two decimals, however it is kept', () => {
    const amount = (units: number, scale: number) => paymentCode({ ...plain, amount: decimal(units, scale) }).split('\n')[7]
    expect([amount(5, 0), amount(5, 1), amount(50_000, 4), amount(99_999_999_999, 2)]).toEqual([
      'EUR5.00',
      'EUR0.50',
      'EUR5.00',
      'EUR999999999.99',
    ])
  })

  it.each([
    [{ currency: 'GBP' }, /a payment QR is for EUR only/],
    [{ currency: 'euro' }, /no code of a currency/],
    [{ payeeAccount: 'PT50000201231234567890155' }, /no IBAN/],
    [{ payeeBank: 'CGD' }, /no BIC/],
    [{ amount: decimal(0, 0) }, /only amounts above zero/],
    [{ amount: decimal(1, 3) }, /more decimals than its currency/],
    [{ amount: decimal(100_000_000_000, 2) }, /more than one payment can be/],
    [{ payee: 'x'.repeat(71) }, /more than 70 characters/],
    [{ about: 'x'.repeat(141) }, /more than 140 characters/],
    [{ about: 'two\nlines' }, /line break/],
    [{ about: '字'.repeat(100) }, /more text than a payment QR can hold/],
    [{ reference: 'RF00539007547034' }, /none of ISO 11649/],
  ] satisfies [Partial<ToPay>, RegExp][])('is refused for %j', (change, sentence) => {
    expect(() => paymentCode({ ...plain, ...change })).toThrow(sentence)
  })

  it('knows currencies of no decimals, and of three', () => {
    expect(['EUR', 'JPY', 'KWD'].map(decimalsIn)).toEqual([2, 0, 3])
    expect(toPayFaults({ ...plain, currency: 'JPY', amount: decimal(15, 1) }).map(each => each.rule)).toEqual(['decimals'])
    expect(toPayFaults({ ...plain, currency: 'KWD', amount: decimal(1_234, 3) })).toEqual([])
  })
})
