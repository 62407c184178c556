/**
 * A value that says what `after` says, made of the parts of `before` wherever they say the same. A definition that comes from elsewhere is
 * thereby the one that is known already, but for what was edited: what was worked out from its parts is found again by their identity.
 */
export function shared<T>(before: unknown, after: T): T {
  if (before === after || typeof before !== 'object' || typeof after !== 'object' || !before || !after) return after
  if (Array.isArray(after)) {
    if (!Array.isArray(before)) return after
    const parts = after.map((each, at) => shared(partner(before, each, at), each) as unknown)
    return before.length === parts.length && parts.every((each, at) => each === before[at]) ? (before as T) : (parts as T)
  }
  if (Array.isArray(before)) return after
  const [old, now] = [before as Record<string, unknown>, after as Record<string, unknown>]
  const keys = Object.keys(now)
  let same = keys.length === Object.keys(old).length
  const parts: Record<string, unknown> = {}
  for (const key of keys) {
    parts[key] = shared(old[key], now[key])
    same &&= Object.hasOwn(old, key) && parts[key] === old[key]
  }
  return same ? (before as T) : (parts as T)
}

/** The member of a list that another stands for: the one of the same id, else the one at its place. */
function partner(list: readonly unknown[], each: unknown, at: number): unknown {
  const id = (each as { id?: unknown } | null)?.id
  if (id === undefined) return list[at]
  if ((list[at] as { id?: unknown } | null | undefined)?.id === id) return list[at]
  return list.find(other => (other as { id?: unknown } | null)?.id === id)
}
