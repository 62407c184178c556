import { compareDecimals, type Decimal, toNumber } from '../../value/decimal'
import type { Value } from '../../value/value'

/** The lightest and the darkest shade: told apart in grey print, and by whoever sees no colours; ink stays readable on both. */
const [light, dark] = [
  [0xff, 0xff, 0xff],
  [0x8f, 0xb9, 0xc4],
] as const

/** Shades of figures between the smallest and the largest of them. */
export interface Shades {
  least: Decimal
  most: Decimal
  /** the colour behind a figure, as `#rrggbb`; nothing where there is no figure */
  of: (value: Value) => string | undefined
}

/** A scale of shades for figures; nothing where there are fewer than two different ones. */
export function shadesOf(values: Iterable<Value>): Shades | undefined {
  let [least, most]: (Decimal | undefined)[] = []
  for (const value of values) {
    if (typeof value !== 'object' || value === null) continue
    if (!least || compareDecimals(value, least) < 0) least = value
    if (!most || compareDecimals(value, most) > 0) most = value
  }
  if (!least || !most || compareDecimals(least, most) === 0) return undefined
  const [from, to] = [toNumber(least), toNumber(most)]
  return {
    least,
    most,
    of: value => {
      if (typeof value !== 'object' || value === null) return undefined
      const share = Math.max(0, Math.min(1, (toNumber(value) - from) / (to - from)))
      const part = (at: number) => Math.round(light[at]! + (dark[at]! - light[at]!) * share)
      return `#${[0, 1, 2].map(at => part(at).toString(16).padStart(2, '0')).join('')}`
    },
  }
}
