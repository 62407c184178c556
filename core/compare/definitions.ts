import type { Block } from '../definition/blocks/block'
import type { DataSetDefinition, LevelDefinition, RelatedDefinition } from '../definition/levels'
import type { LayoutDefinition, ReportDefinition } from '../definition/report'
import { blocksInside } from '../definition/walk'

/** Sentences that are told at most. */
const most = 40

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)
const quoted = (names: readonly string[]) => names.map(each => `“${each}”`).join(', ')
const plural = (names: readonly string[], one: string, many: string) => `${names.length === 1 ? one : many} ${quoted(names)}`

/** What is new, gone and different in two lists of things that have names. */
function between<T>(before: readonly T[], after: readonly T[], nameOf: (each: T) => string) {
  const [own, next] = [new Map(before.map(each => [nameOf(each), each])), new Map(after.map(each => [nameOf(each), each]))]
  return {
    added: [...next.keys()].filter(name => !own.has(name)),
    gone: [...own.keys()].filter(name => !next.has(name)),
    changed: [...next].flatMap(([name, each]) => (own.has(name) && !same(own.get(name), each) ? [name] : [])),
  }
}

function listed(found: ReturnType<typeof between>, one: string, many: string, where = ''): string[] {
  const said = (names: readonly string[], what: string) => (names.length ? [`${where}${plural(names, one, many)} ${what}.`] : [])
  return [
    ...said(found.added, found.added.length === 1 ? 'is new' : 'are new'),
    ...said(found.gone, found.gone.length === 1 ? 'is gone' : 'are gone'),
    ...said(found.changed, found.changed.length === 1 ? 'was changed' : 'were changed'),
  ].map(sentence => sentence.charAt(0).toUpperCase() + sentence.slice(1))
}

/** Levels by the way to them: `invoices · lines`. */
function levelsOf(set: DataSetDefinition): Map<string, LevelDefinition> {
  const found = new Map<string, LevelDefinition>()
  const visit = (level: LevelDefinition, above: string) => {
    const way = above ? `${above} · ${level.name}` : level.name
    found.set(way, level)
    level.details.forEach(each => visit(each, way))
  }
  visit(set.root, '')
  return found
}

function levelChanges(way: string, before: LevelDefinition, after: LevelDefinition): string[] {
  const where = `level “${way}”: `
  const names = (list: readonly string[]) => list.map(name => ({ name }))
  const byName = ({ name }: { name: string }) => name
  const relatedOf = (list: readonly RelatedDefinition[]) => list
  return [
    ...(before.table === after.table && same(before.on, after.on)
      ? []
      : [`Level “${way}” reads another table, or finds its records otherwise.`]),
    ...listed(between(names(before.fields), names(after.fields), byName), 'field', 'fields', where),
    ...listed(between(relatedOf(before.related), relatedOf(after.related), byName), 'related record', 'related records', where),
    ...listed(between(names(before.filters), names(after.filters), byName), 'filter', 'filters', where),
    ...listed(between(before.calculated ?? [], after.calculated ?? [], byName), 'calculated field', 'calculated fields', where),
    ...listed(between(before.totals ?? [], after.totals ?? [], byName), 'child total', 'child totals', where),
    ...listed(between(before.ageings ?? [], after.ageings ?? [], byName), 'ageing', 'ageings', where),
    ...(same(before.sort, after.sort) ? [] : [`Level “${way}” is sorted otherwise.`]),
  ]
}

function dataChanges(before: ReportDefinition, after: ReportDefinition): string[] {
  const sets = between(before.dataSets, after.dataSets, each => each.name)
  const found = listed({ ...sets, changed: [] }, 'data set', 'data sets')
  for (const name of sets.changed) {
    const [own, next] = [before, after].map(each => each.dataSets.find(set => set.name === name)!) as [DataSetDefinition, DataSetDefinition]
    if (own.source !== next.source) found.push(`Data set “${name}” reads another source.`)
    const [levels, nextLevels] = [levelsOf(own), levelsOf(next)]
    const shared = [...nextLevels.keys()].filter(way => levels.has(way))
    found.push(
      ...listed(
        {
          added: [...nextLevels.keys()].filter(way => !levels.has(way)),
          gone: [...levels.keys()].filter(way => !shared.includes(way)),
          changed: [],
        },
        'level',
        'levels',
      ),
      ...shared.flatMap(way => levelChanges(way, levels.get(way)!, nextLevels.get(way)!)),
    )
    if (!same(own.fields, next.fields)) found.push(`Captions, formats or currencies of fields of “${name}” were changed.`)
  }
  return found
}

/** All blocks of a layout by their ids, each without those inside it. */
function blocksOfLayout(layout: LayoutDefinition): Map<string, { kind: string; own: string }> {
  const found = new Map<string, { kind: string; own: string }>()
  const visit = (block: Block) => {
    const inside = blocksInside(block)
    const ids = new Set(inside.map(each => each.id))
    const own = JSON.stringify(block, (_, value: unknown) =>
      value !== block && typeof value === 'object' && value !== null && ids.has((value as { id?: string }).id ?? '')
        ? (value as { id: string }).id
        : value,
    )
    found.set(block.id, { kind: block.kind, own })
    inside.forEach(visit)
  }
  layout.blocks.forEach(visit)
  return found
}

function layoutChanges(before: LayoutDefinition, after: LayoutDefinition): string[] {
  const where = `Layout “${after.name}”: `
  const [own, next] = [blocksOfLayout(before), blocksOfLayout(after)]
  const kinds = (ids: readonly string[], of: typeof own) => {
    const counted = new Map<string, number>()
    for (const id of ids) counted.set(of.get(id)!.kind, (counted.get(of.get(id)!.kind) ?? 0) + 1)
    return [...counted].map(([kind, count]) => (count === 1 ? `a ${kind}` : `${count} × ${kind}`)).join(', ')
  }
  const added = [...next.keys()].filter(id => !own.has(id))
  const gone = [...own.keys()].filter(id => !next.has(id))
  const changed = [...next].flatMap(([id, block]) => (own.has(id) && own.get(id)!.own !== block.own ? [id] : []))
  const { blocks: _, ...page } = before
  const { blocks: __, ...nextPage } = after
  const order = (of: typeof own) => [...of.keys()].filter(id => own.has(id) && next.has(id))
  return [
    ...(added.length ? [`${where}new is ${kinds(added, next)}.`] : []),
    ...(gone.length ? [`${where}gone is ${kinds(gone, own)}.`] : []),
    ...(changed.length ? [`${where}changed is ${kinds(changed, next)}.`] : []),
    ...(same(order(own), order(next)) ? [] : [`${where}its blocks stand in another order.`]),
    ...(same(page, nextPage) ? [] : [`${where}its page, page top or page foot was changed.`]),
  ]
}

/** What two versions of a report differ in, in sentences; none where they are the same. */
export function definitionChanges(before: ReportDefinition, after: ReportDefinition): string[] {
  const layouts = between(before.layouts, after.layouts, each => each.name)
  const byName = (each: { name: string }) => each.name
  const found = [
    ...dataChanges(before, after),
    ...listed(between(before.tables ?? [], after.tables ?? [], byName), 'table of the report', 'tables of the report'),
    ...listed(between(before.parameters, after.parameters, byName), 'parameter', 'parameters'),
    ...listed({ ...layouts, changed: [] }, 'layout', 'layouts'),
    ...layouts.changed.flatMap(name =>
      layoutChanges(
        before.layouts.find(each => each.name === name)!,
        after.layouts.find(each => each.name === name)!,
      ),
    ),
    ...listed(between(before.tieOuts ?? [], after.tieOuts ?? [], byName), 'tie-out', 'tie-outs'),
    ...listed(between(before.handsOut ?? [], after.handsOut ?? [], byName), 'total that is handed out', 'totals that are handed out'),
    ...listed(between(before.themes ?? [], after.themes ?? [], byName), 'theme', 'themes'),
    ...(before.language === after.language ? [] : [`Its language is “${after.language}” now, and was “${before.language}”.`]),
    ...(before.layout === after.layout
      ? []
      : [`Another layout is used where none is asked for: “${after.layout ?? after.layouts[0]?.name ?? ''}”.`]),
    ...(before.fileName === after.fileName ? [] : ['Its files are called otherwise.']),
    ...(same(before.formats, after.formats) ? [] : ['Other kinds of files are offered to readers.']),
    ...(same(before.translations, after.translations) ? [] : ['Its translations were changed.']),
  ]
  // whatever else there may be is told too: two versions that differ never come out as the same
  if (!found.length && !same(before, after)) found.push('Parts of it stand in another order.')
  return found.length > most ? [...found.slice(0, most - 1), `And ${found.length - most + 1} more.`] : found
}
