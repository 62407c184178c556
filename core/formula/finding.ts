import type { Scope, FieldInfo, LevelInfo } from './typed'

/**
 * A path is looked up on the level where the formula stands, then on the levels above it, by its own fields and by the detail levels
 * under each.
 */
export function findField(scope: Scope, names: readonly string[]): FieldInfo | undefined {
  for (let at = scope.level; at >= 0; at = scope.levels[at]!.parent) {
    const found = fieldUnder(scope.levels, at, names)
    if (found) return found
    if (scope.levels[at]!.name === names[0]) {
      const named = fieldUnder(scope.levels, at, names.slice(1))
      if (named) return named
    }
  }
  return undefined
}

export function fieldUnder(levels: readonly LevelInfo[], level: number, names: readonly string[]): FieldInfo | undefined {
  const own = levels[level]!.fields.get(names.join('.'))
  if (own) return own
  const child = levels[level]!.children.find(index => levels[index]!.name === names[0])
  return child === undefined ? undefined : fieldUnder(levels, child, names.slice(1))
}

export function findLevel(scope: Scope, names: readonly string[]): LevelInfo | undefined {
  for (let at = scope.level; at >= 0; at = scope.levels[at]!.parent) {
    let level = scope.levels[at]!
    let left = names
    if (level.name === left[0]) left = left.slice(1)
    while (left.length) {
      const child = level.children.find(index => scope.levels[index]!.name === left[0])
      if (child === undefined) break
      level = scope.levels[child]!
      left = left.slice(1)
    }
    if (!left.length) return level
  }
  return undefined
}
