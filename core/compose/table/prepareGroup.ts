import type { GroupDefinition } from '../../definition/blocks/table'
import type { LevelInfo, Scope, Typed } from '../../formula/typed'
import type { PreparedGroup } from '../prepared'
import type { PrepareScope } from '../prepareScope'

/**
 * A group of records with its formulas checked; `outer` are the names of the groups around it. Nothing where what it is by cannot be read,
 * which goes to the scope.
 */
export function prepareGroup(
  group: GroupDefinition,
  outer: readonly string[],
  { block, level }: { block: string; level: number },
  scope: PrepareScope,
): PreparedGroup | undefined {
  const at = { block, cell: group.id, place: 'group' as const }
  const by = scope.formula(group.by, scope.at(level), at, false)
  if (!by) return undefined
  const around: Scope = { ...scope.at(level), groups: outer, row: outer.length }
  const total = group.order.by === 'total' ? scope.formula(group.order.total, around, at, false) : undefined
  const topTotal = group.top && scope.formula(group.top.total, around, at, false)
  const having = scope.formula(group.having, around, at)
  const keyed = keyOfGroup(scope.levels, level, by)
  for (const path of [...(Array.isArray(keyed.key) ? keyed.key : []), ...(keyed.code ? [keyed.code] : [])]) scope.use(keyed.level, path)
  return {
    group,
    by,
    ...(keyed.key ? { key: keyed.key } : {}),
    ...(keyed.code ? { code: keyed.code } : {}),
    ...(total ? { total } : {}),
    ...(topTotal ? { topTotal } : {}),
    ...(having ? { having } : {}),
  }
}

const naming = /^(name|title|label|caption|description|code|number)$|_name$/

/** What tells the groups of a field apart: the key of the record that it names, else its value (rule 2 of the semantics). */
function keyOfGroup(levels: readonly LevelInfo[], level: number, by: Typed): { level: number; key?: string[] | 'ancestor'; code?: string } {
  if (by.is !== 'field' || !naming.test(by.field.column.name)) return { level }
  const { record } = by.field
  const owner = levels[by.level]!
  if (!record) return by.level === level ? { level } : { level, key: 'ancestor' }
  let list = owner.definition.related
  let on: readonly { to: string }[] = []
  for (const name of record.split('.')) {
    const found = list.find(each => each.name === name)
    if (!found) return { level: by.level }
    on = found.on
    list = found.related
  }
  const key = on.map(pair => `${record}.${pair.to}`)
  if (!key.every(path => owner.fields.has(path))) return { level: by.level }
  const code = ['code', 'number'].map(name => `${record}.${name}`).find(path => owner.fields.has(path) && path !== by.path) ?? key[0]!
  return { level: by.level, key, code }
}
