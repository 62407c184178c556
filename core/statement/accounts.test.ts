import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type Account, AccountsError, readAccounts } from './accounts'

const account = (code: string, more: Partial<Account> = {}): Account => ({
  code,
  name: code,
  nature: 'expense',
  class: 'Operating expenses',
  ...more,
})
const taken = (text: string, ...codes: string[]) => codes.filter(code => readAccounts(text)(account(code)))

describe('a choice of accounts', () => {
  it('takes codes, ranges with longer codes that begin like their end, and patterns', () => {
    expect(taken('6110', '6110', '61100', '6111')).toEqual(['6110'])
    expect(taken('6110..6120', '6109', '6110', '6115', '6120', '61205', '6121')).toEqual(['6110', '6115', '6120', '61205'])
    expect(taken('61*', '6', '61', '6110', '7110')).toEqual(['61', '6110'])
    expect(taken('6110, 70*  8000..8999', '6110', '7001', '8500', '9000')).toEqual(['6110', '7001', '8500'])
  })
  it('takes classes, whatever their case, types, and all; what comes after except is taken out', () => {
    const sales = account('4010', { nature: 'income', class: 'Sales "net"' })
    expect(readAccounts('class "sales ""net"""')(sales)).toBe(true)
    expect(readAccounts('class Sales')(sales)).toBe(false)
    expect([readAccounts('type income')(sales), readAccounts('type asset')(sales), readAccounts('all')(sales)]).toEqual([true, false, true])
    expect([readAccounts('type income except 4010')(sales), readAccounts('all except type expense, 5*')(sales)]).toEqual([false, true])
  })
  it('is the union of its items without those taken out, for any codes', () => {
    const code = fc.stringMatching(/^[0-9]{1,5}$/)
    fc.assert(
      fc.property(
        fc.array(code, { minLength: 1, maxLength: 4 }),
        fc.tuple(code, code),
        fc.array(code, { maxLength: 3 }),
        code,
        (singles, [a, b], out, asked) => {
          const [from, to] = a <= b ? [a, b] : [b, a]
          const text = `${singles.join(', ')}, ${from}..${to}${out.length ? ` except ${out.join(' ')}` : ''}`
          const inside = singles.includes(asked) || (asked >= from && (asked <= to || asked.startsWith(to)))
          expect(readAccounts(text)(account(asked))).toBe(inside && !out.includes(asked))
        },
      ),
    )
  })
  it.each([
    ['', 'Say which accounts', 0, 0],
    ['4000..', 'A range has a code at its end too', 6, 6],
    ['..4000', 'A range has a code before', 0, 2],
    ['4500..4000', 'A range begins with the lower code: 4000..4500.', 0, 4],
    ['type money', 'There is no type “money”', 5, 10],
    ['class', 'A class follows', 5, 5],
    ['4000 except', 'After “except”', 11, 11],
    ['except 4000', 'Before “except”', 0, 6],
    ['1 except 2 except 3', '“except” stands once', 11, 17],
    ['class "Sales', 'This cannot be read as accounts', 5, 12],
  ])('“%s” is told where it is wrong', (text, sentence, from, to) => {
    try {
      readAccounts(text)
      expect.unreachable()
    } catch (error) {
      expect(error).toBeInstanceOf(AccountsError)
      expect((error as Error).message).toContain(sentence)
      expect([(error as AccountsError).from, (error as AccountsError).to]).toEqual([from, to])
    }
  })
})
