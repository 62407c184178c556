/**
 * Is a number of this name told per one of something, or a factor: a price, a rate, days, the size of a pack? Such numbers are not
 * added up, and what is divided by one of them still is (rule 11 of the semantics).
 */
export function isPerUnit(name: string): boolean {
  return /price|rate|factor|percent|pct|ratio|(^|_)(unit_?|standard_?|average_?)?costs?$|(^|_)(days|size|share|weight)$|(^|_)per_/i.test(
    name,
  )
}
