/** “; the nearest is x” where a known name is close. */
export function suggestion(name: string, known: readonly string[]): string {
  if (name.length > longest) return ''
  const close = known
    .filter(each => each.length <= longest)
    .map(each => ({ each, distance: distance(name.toLowerCase(), each.toLowerCase()) }))
    .sort((a, b) => a.distance - b.distance)[0]
  return close && close.distance <= Math.max(2, name.length / 3) ? `; the nearest is “${close.each}”` : ''
}

/** Names of more letters are nobody's slip of the hand. */
const longest = 80

function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i)
  for (let i = 1; i <= a.length; i++) {
    const next = [i]
    for (let j = 1; j <= b.length; j++) next[j] = Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1))
    row = next
  }
  return row[b.length]!
}
