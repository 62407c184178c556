import type { FieldInfo, Typed } from './typed'

/** All fields a typed formula reads, as level and path. */
export function fieldsUsed(
  typed: Typed,
  into: { level: number; path: string; field: FieldInfo }[] = [],
): { level: number; path: string; field: FieldInfo }[] {
  if (typed.is === 'field') into.push({ level: typed.level, path: typed.path, field: typed.field })
  for (const part of partsOf(typed)) fieldsUsed(part, into)
  return into
}

/** The formulas inside a formula. */
export function partsOf(typed: Typed): Typed[] {
  switch (typed.is) {
    case 'binary':
      return [typed.left, typed.right]
    case 'negative':
    case 'not':
    case 'carried':
    case 'rank':
      return [typed.value]
    case 'in':
      return [typed.value, ...typed.list]
    case 'between':
      return [typed.value, typed.low, typed.high]
    case 'call':
    case 'period':
      return typed.arguments
    case 'has':
      return typed.where ? [typed.where] : []
    case 'running':
      return [typed.value, typed.where].filter(part => part !== undefined)
    case 'if':
      return [...typed.cases.flatMap(each => [each.test, each.result]), typed.otherwise]
    case 'ifEmpty':
      return [typed.value, typed.otherwise]
    case 'total':
      return [typed.value, typed.where].filter(part => part !== undefined)
    default:
      return []
  }
}

/** A formula with some of its parts changed: those for which `change` gives something. */
export function mapParts(typed: Typed, change: (part: Typed) => Typed | undefined): Typed {
  const changed = change(typed)
  if (changed) return changed
  const of = (part: Typed) => mapParts(part, change)
  switch (typed.is) {
    case 'binary':
      return { ...typed, left: of(typed.left), right: of(typed.right) }
    case 'negative':
    case 'not':
    case 'carried':
    case 'rank':
      return { ...typed, value: of(typed.value) }
    case 'in':
      return { ...typed, value: of(typed.value), list: typed.list.map(of) }
    case 'between':
      return { ...typed, value: of(typed.value), low: of(typed.low), high: of(typed.high) }
    case 'call':
    case 'period':
      return { ...typed, arguments: typed.arguments.map(of) }
    case 'if':
      return {
        ...typed,
        cases: typed.cases.map(each => ({ test: of(each.test), result: of(each.result) })),
        otherwise: of(typed.otherwise),
      }
    case 'ifEmpty':
      return { ...typed, value: of(typed.value), otherwise: of(typed.otherwise) }
    default:
      return typed
  }
}

/** Does any part of the formula satisfy the test? */
export function somePart(typed: Typed, test: (part: Typed) => boolean): boolean {
  return test(typed) || partsOf(typed).some(part => somePart(part, test))
}
