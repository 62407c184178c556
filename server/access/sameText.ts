import { timingSafeEqual } from 'node:crypto'

/** Are two secrets the same? Takes as long wherever they differ. */
export function sameText(a: string, b: string): boolean {
  const [one, other] = [Buffer.from(a), Buffer.from(b)]
  return one.length === other.length && timingSafeEqual(one, other)
}
