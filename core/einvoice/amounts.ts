import { add, compareDecimals, decimalText, type Decimal, trim, zero } from '../value/decimal'

/** Does an amount have two decimals at most (BR-DEC)? */
export const isAmount = (amount: Decimal): boolean => trim(amount).scale <= 2

/** An amount with its two decimals. @throws RangeError where it has more: it is never rounded here */
export function amountText(amount: Decimal): string {
  const plain = trim(amount)
  if (plain.scale > 2) throw new RangeError(`The amount ${decimalText(plain)} has more than two decimals.`)
  return decimalText(add(plain, { units: 0, scale: 2 }))
}

export const sumOf = (amounts: readonly Decimal[]): Decimal => amounts.reduce(add, zero)

export const same = (one: Decimal, other: Decimal): boolean => compareDecimals(one, other) === 0
