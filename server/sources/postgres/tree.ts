/** A node of a statement as PostgreSQL's own parser takes it apart. */
export type Node = Record<string, unknown>

/** Every node of a tree with its kind: the key under which it stands. */
export function visit(value: unknown, see: (kind: string, node: Node) => void, kind = ''): void {
  const waiting: [string, unknown][] = [[kind, value]]
  while (waiting.length) {
    const [at, each] = waiting.pop()!
    if (Array.isArray(each)) for (const item of each) waiting.push([at, item])
    else if (typeof each === 'object' && each !== null) {
      see(at, each as Node)
      for (const [key, inner] of Object.entries(each)) waiting.push([key, inner])
    }
  }
}

/** The texts in a list of nodes: the parts of a name. */
export const namesOf = (list: unknown): string[] =>
  (Array.isArray(list) ? list : []).flatMap((each: { String?: { sval?: string } }) => (each.String ? [each.String.sval ?? ''] : []))
