/**
 * An exact decimal: `units` × 10^−`scale`. Units are a safe integer wherever they fit and a bigint beyond it,
 * so that ordinary money adds at the speed of plain numbers and nothing is ever rounded by the way.
 */
export interface Decimal {
  readonly units: number | bigint
  /** digits after the decimal mark, 0 or more */
  readonly scale: number
}

const powers: number[] = []
for (let i = 0; i <= 15; i++) powers.push(Number(`1e${i}`))

/** 10^n as a number where that is exact, else as a bigint. */
function power(n: number): number | bigint {
  return n <= 15 ? powers[n]! : 10n ** BigInt(n)
}

/** A decimal of the given units, stored in its smallest form (number where safe). */
export function decimal(units: number | bigint, scale = 0): Decimal {
  if (typeof units === 'bigint' && units >= -9007199254740991n && units <= 9007199254740991n) return { units: Number(units), scale }
  if (typeof units === 'number' && !Number.isSafeInteger(units)) throw new RangeError('Units of a decimal must be a safe integer.')
  return { units: units === 0 ? 0 : units, scale }
}

export const zero: Decimal = { units: 0, scale: 0 }

const pattern = /^([+-]?)(\d*)(?:\.(\d*))?(?:[eE]([+-]?\d{1,4}))?$/

/** Reads plain or scientific notation ("-12.50", "1e3"); undefined where the text is no number. */
export function parseDecimal(text: string): Decimal | undefined {
  const match = pattern.exec(text.trim())
  if (!match || !(match[2] || match[3])) return undefined
  const fraction = match[3] ?? ''
  const digits = match[2]! + fraction
  const exponent = Number(match[4] ?? 0)
  if (Math.abs(exponent) > 1000) return undefined
  let scale = fraction.length - exponent
  let units: number | bigint = digits.length <= 15 ? Number(digits) : BigInt(digits)
  if (scale < 0) {
    units = BigInt(units) * 10n ** BigInt(-scale)
    scale = 0
  }
  if (match[1] === '-') units = typeof units === 'number' ? -units : -units
  return decimal(units, scale)
}

/** Units of `a` at a larger or equal scale. */
function at(a: Decimal, scale: number): number | bigint {
  if (a.scale === scale) return a.units
  const factor = power(scale - a.scale)
  if (typeof a.units === 'number' && typeof factor === 'number') {
    const product = a.units * factor
    if (Number.isSafeInteger(product)) return product
  }
  return BigInt(a.units) * BigInt(factor)
}

/** Exact sum; its scale is the larger of the two. */
export function add(a: Decimal, b: Decimal): Decimal {
  const scale = a.scale > b.scale ? a.scale : b.scale
  const x = at(a, scale)
  const y = at(b, scale)
  if (typeof x === 'number' && typeof y === 'number') {
    const sum = x + y
    if (Number.isSafeInteger(sum)) return { units: sum, scale }
  }
  return decimal(BigInt(x) + BigInt(y), scale)
}

export function negate(a: Decimal): Decimal {
  return { units: a.units === 0 ? 0 : -a.units, scale: a.scale }
}

export function subtract(a: Decimal, b: Decimal): Decimal {
  return add(a, negate(b))
}

/** Exact product; all digits are kept. */
export function multiply(a: Decimal, b: Decimal): Decimal {
  const scale = a.scale + b.scale
  if (typeof a.units === 'number' && typeof b.units === 'number') {
    const product = a.units * b.units
    if (Number.isSafeInteger(product)) return { units: product === 0 ? 0 : product, scale }
  }
  return decimal(BigInt(a.units) * BigInt(b.units), scale)
}

/** Digits after the mark that a division keeps (see docs/decisions.md, "Division"). */
export const divisionScale = 12

/** Quotient to 12 digits after the mark, half away from zero; undefined for a zero divisor. */
export function divide(a: Decimal, b: Decimal): Decimal | undefined {
  if (isZero(b)) return undefined
  const raised = BigInt(a.units) * 10n ** BigInt(b.scale + divisionScale)
  const divisor = BigInt(b.units) * 10n ** BigInt(a.scale)
  return trim(decimal(divideHalfAway(raised, divisor), divisionScale))
}

/** Integer quotient, half away from zero. */
function divideHalfAway(a: bigint, b: bigint): bigint {
  const negative = a < 0n !== b < 0n
  const x = a < 0n ? -a : a
  const y = b < 0n ? -b : b
  const quotient = (2n * x + y) / (2n * y)
  return negative ? -quotient : quotient
}

/** Rounds to `scale` digits after the mark (negative: to tens, hundreds …), half away from zero. */
export function round(a: Decimal, scale: number): Decimal {
  if (scale >= a.scale) return a
  // to a place far beyond its first digit nothing is left
  if (scale < -decimalText(a).length) return zero
  const drop = a.scale - scale
  let units: number | bigint
  if (typeof a.units === 'number' && drop <= 15) {
    const factor = powers[drop]!
    const size = Math.abs(a.units)
    const rest = size % factor
    const whole = (size - rest) / factor + (2 * rest >= factor ? 1 : 0)
    units = a.units < 0 ? (whole === 0 ? 0 : -whole) : whole
  } else {
    units = divideHalfAway(BigInt(a.units), 10n ** BigInt(drop))
  }
  if (scale >= 0) return decimal(units, scale)
  return decimal(BigInt(units) * 10n ** BigInt(-scale), 0)
}

/** Largest whole number not above `a`. */
export function floor(a: Decimal): Decimal {
  if (a.scale === 0) return a
  const factor = 10n ** BigInt(a.scale)
  const units = BigInt(a.units)
  const whole = units / factor
  return decimal(units < 0n && whole * factor !== units ? whole - 1n : whole, 0)
}

export function ceiling(a: Decimal): Decimal {
  return negate(floor(negate(a)))
}

export function absolute(a: Decimal): Decimal {
  return a.units < 0 ? negate(a) : a
}

/** Negative, zero or positive as `a` is below, equal to or above `b`. */
export function compareDecimals(a: Decimal, b: Decimal): number {
  const scale = a.scale > b.scale ? a.scale : b.scale
  const x = at(a, scale)
  const y = at(b, scale)
  return x < y ? -1 : x > y ? 1 : 0
}

export function isZero(a: Decimal): boolean {
  return a.units === 0 || a.units === 0n
}

/** The same value without trailing zeros after the mark. */
export function trim(a: Decimal): Decimal {
  let units = a.units
  let scale = a.scale
  if (typeof units === 'number') {
    while (scale > 0 && units % 10 === 0) {
      units /= 10
      scale--
    }
  } else {
    while (scale > 0 && units % 10n === 0n) {
      units /= 10n
      scale--
    }
  }
  return decimal(units, scale)
}

/** Plain notation with all digits of its scale: "-12.50". */
export function decimalText(a: Decimal): string {
  const negative = a.units < 0
  let digits = String(a.units < 0 ? -a.units : a.units)
  if (a.scale > 0) {
    if (digits.length <= a.scale) digits = '0'.repeat(a.scale - digits.length + 1) + digits
    digits = `${digits.slice(0, -a.scale)}.${digits.slice(-a.scale)}`
  }
  return negative ? `-${digits}` : digits
}

/** Powers of ten that a double holds exactly. */
const exactPowers = Array.from({ length: 23 }, (_, power) => Number(`1e${power}`))

/**
 * Nearest double: for geometry, charts and files whose numbers are doubles, never for working with money. One division of two exact
 * doubles is rounded once (IEEE 754, 4.3).
 */
export function toNumber(a: Decimal): number {
  return typeof a.units === 'number' && a.scale < exactPowers.length ? a.units / exactPowers[a.scale]! : Number(decimalText(a))
}
