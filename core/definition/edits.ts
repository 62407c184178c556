import type { Block, CalculatedDefinition, ChildTotalDefinition, ColumnDefinition, DataSetDefinition, FieldSettings, LevelDefinition, PageSetup, PanelBlock, PanelItem, ParameterDefinition, RelatedDefinition, ReportDefinition, RepeatBlock, SortDefinition, TableBlock, TableDefinition, TextStyle } from './types'

/**
 * Edits of a report. Each takes a definition and gives a new one that shares all that has not changed;
 * one that does not find its place gives the definition back as it is.
 */

/** Where an editable text of a layout stands. */
export type TextPlace =
  | { block: string, cell: string, part: 'item' | 'titles' | 'line' | 'end' }
  | { block: string, cell?: string, part: 'forward' | 'brought' }

/** The block with an id, wherever it stands. */
export function findBlock(report: ReportDefinition, id: string): Block | undefined {
  const layout = report.layouts[0]!
  const visit = (blocks: readonly Block[]): Block | undefined => {
    for (const block of blocks) {
      const found = block.id === id ? block : block.kind === 'repeat' ? visit(block.blocks) : undefined
      if (found) return found
    }
    return undefined
  }
  return layout.top?.id === id ? layout.top : layout.foot?.id === id ? layout.foot : visit(layout.blocks)
}

/** Changes the block with an id; `undefined` from `change` takes it out. */
export function changeBlock(report: ReportDefinition, id: string, change: (block: Block) => Block | undefined): ReportDefinition {
  const layout = report.layouts[0]!
  let changed = false
  const apply = (block: Block): Block | undefined => {
    if (block.id === id) {
      const next = change(block)
      if (next !== block) changed = true
      return next
    }
    if (block.kind !== 'repeat') return block
    const inner = list(block.blocks)
    return inner === block.blocks ? block : { ...block, blocks: inner }
  }
  const list = (blocks: Block[]): Block[] => {
    const next = blocks.map(apply)
    return next.every((block, index) => block === blocks[index]) ? blocks : next.filter(block => block !== undefined)
  }
  const next = { ...layout, blocks: list(layout.blocks) }
  if (layout.top) setPanel(next, 'top', apply(layout.top))
  if (layout.foot) setPanel(next, 'foot', apply(layout.foot))
  return changed ? { ...report, layouts: [next, ...report.layouts.slice(1)] } : report
}

function setPanel(layout: ReportDefinition['layouts'][number], place: 'top' | 'foot', panel: Block | undefined): void {
  if (panel) layout[place] = panel as PanelBlock
  else Reflect.deleteProperty(layout, place)
}

function changeTable(report: ReportDefinition, id: string, change: (table: TableBlock) => TableBlock): ReportDefinition {
  return changeBlock(report, id, block => block.kind === 'table' ? change(block) : block)
}

function changeColumn(report: ReportDefinition, block: string, column: string, change: Partial<ColumnDefinition>): ReportDefinition {
  return changeTable(report, block, table => ({ ...table, columns: table.columns.map(each => each.id === column ? { ...each, ...change } : each) }))
}

function changeItem(report: ReportDefinition, block: string, item: string, change: (item: PanelItem) => PanelItem): ReportDefinition {
  return changeBlock(report, block, panel => panel.kind === 'panel' ? { ...panel, items: panel.items.map(each => each.id === item ? change(each) : each) } : panel)
}

/** The text at a place, as its author wrote it. */
export function textAt(report: ReportDefinition, place: TextPlace): string | undefined {
  const block = findBlock(report, place.block)
  if (block?.kind === 'panel') {
    const item = block.items.find(each => each.id === place.cell)
    return item?.kind === 'text' ? item.text : undefined
  }
  if (block?.kind !== 'table') return undefined
  if (place.part === 'forward' || place.part === 'brought') return block.carried?.[place.part]
  const column = block.columns.find(each => each.id === place.cell)
  return place.part === 'titles' ? column?.title : place.part === 'line' ? column?.text : place.part === 'end' ? column?.end : undefined
}

export function setText(report: ReportDefinition, place: TextPlace, text: string): ReportDefinition {
  if (textAt(report, place) === text) return report
  switch (place.part) {
    case 'item': return changeItem(report, place.block, place.cell, item => item.kind === 'text' ? { ...item, text } : item)
    case 'titles': return changeColumn(report, place.block, place.cell, { title: text })
    case 'line': return changeColumn(report, place.block, place.cell, { text })
    case 'end': return changeColumn(report, place.block, place.cell, { end: text })
    default: return changeTable(report, place.block, table => table.carried ? { ...table, carried: { ...table.carried, [place.part]: text } } : table)
  }
}

/** Style of a panel's text, or of a whole column. */
export function setStyle(report: ReportDefinition, block: string, cell: string, style: Partial<TextStyle>): ReportDefinition {
  const found = findBlock(report, block)
  if (found?.kind === 'table') {
    const column = found.columns.find(each => each.id === cell)
    return column ? changeColumn(report, block, cell, { style: { ...column.style, ...style } }) : report
  }
  return changeItem(report, block, cell, item => item.kind === 'text' ? { ...item, style: { ...item.style, ...style } } : item)
}

/** Puts a new column before the one at `index`. */
export function insertColumn(report: ReportDefinition, block: string, index: number, column: Omit<ColumnDefinition, 'id'>): ReportDefinition {
  return changeTable(report, block, (table) => {
    const columns = [...table.columns]
    columns.splice(index, 0, { ...column, id: freeId('column', table.columns.map(each => each.id)) })
    return { ...table, columns }
  })
}

/** Takes a column out; the last one stays, since a table needs one. */
export function removeColumn(report: ReportDefinition, block: string, column: string): ReportDefinition {
  return changeTable(report, block, table => table.columns.length > 1 ? { ...table, columns: table.columns.filter(each => each.id !== column) } : table)
}

export function moveColumn(report: ReportDefinition, block: string, column: string, by: -1 | 1): ReportDefinition {
  return changeTable(report, block, (table) => {
    const from = table.columns.findIndex(each => each.id === column)
    const to = from + by
    if (from < 0 || to < 0 || to >= table.columns.length) return table
    const columns = [...table.columns]
    columns.splice(to, 0, ...columns.splice(from, 1))
    return { ...table, columns }
  })
}

/** Width in points; 0 lets the column share what is left. */
export function setColumnWidth(report: ReportDefinition, block: string, column: string, width: number): ReportDefinition {
  return changeColumn(report, block, column, { width: width === 0 ? 0 : Math.max(16, Math.round(width * 100) / 100) })
}

export function setColumnCarry(report: ReportDefinition, block: string, column: string, carry: boolean): ReportDefinition {
  return changeTable(changeColumn(report, block, column, { carry }), block, table => carry && !table.carried ? { ...table, carried: { forward: 'Carried forward', brought: 'Brought forward' } } : table)
}

export function setTable(report: ReportDefinition, block: string, change: Partial<Pick<TableBlock, 'repeatTitles' | 'end'>>): ReportDefinition {
  return changeTable(report, block, table => ({ ...table, ...change }))
}

export function setShowWhen(report: ReportDefinition, block: string, rule: string): ReportDefinition {
  return changeBlock(report, block, (found) => {
    const { showWhen: _, ...rest } = found
    return (rule.trim() ? { ...rest, showWhen: rule } : rest) as Block
  })
}

export function setAfter(report: ReportDefinition, block: string, after: number): ReportDefinition {
  return changeBlock(report, block, found => ({ ...found, after }))
}

export function moveItem(report: ReportDefinition, block: string, item: string, x: number, y: number): ReportDefinition {
  return changeItem(report, block, item, found => ({ ...found, x: Math.round(x * 100) / 100, y: Math.round(y * 100) / 100 }))
}

export function setItemWidth(report: ReportDefinition, block: string, item: string, width: number): ReportDefinition {
  return changeItem(report, block, item, found => ({ ...found, width: Math.max(4, Math.round(width * 100) / 100) }))
}

export function addTextItem(report: ReportDefinition, block: string, x: number, y: number, text: string): ReportDefinition {
  return changeBlock(report, block, panel => panel.kind === 'panel'
    ? { ...panel, items: [...panel.items, { kind: 'text', id: freeId('text', panel.items.map(each => each.id)), x, y, width: 120, text }] }
    : panel)
}

export function removeItem(report: ReportDefinition, block: string, item: string): ReportDefinition {
  return changeBlock(report, block, panel => panel.kind === 'panel' ? { ...panel, items: panel.items.filter(each => each.id !== item) } : panel)
}

export function removeBlock(report: ReportDefinition, block: string): ReportDefinition {
  return changeBlock(report, block, () => undefined)
}

export function setPage(report: ReportDefinition, change: Partial<PageSetup>): ReportDefinition {
  const layout = report.layouts[0]!
  return { ...report, layouts: [{ ...layout, page: { ...layout.page, ...change } }, ...report.layouts.slice(1)] }
}

/** Caption or format of a field; every cell and total of it follows. `field` is "level.path". */
export function setField(report: ReportDefinition, field: string, settings: FieldSettings): ReportDefinition {
  const level = field.split('.')[0]!
  const within = (each: LevelDefinition): boolean => each.name === level || each.details.some(within)
  return changeDataSet(report, Math.max(0, report.dataSets.findIndex(dataSet => within(dataSet.root))), (dataSet) => {
    const next = { ...dataSet.fields[field], ...settings }
    for (const name of ['caption', 'format'] as const) if (!next[name]) Reflect.deleteProperty(next, name)
    return { ...dataSet, fields: { ...dataSet.fields, [field]: next } }
  })
}

function changeDataSet(report: ReportDefinition, index: number, change: (dataSet: DataSetDefinition) => DataSetDefinition): ReportDefinition {
  return { ...report, dataSets: report.dataSets.map((dataSet, at) => at === index ? change(dataSet) : dataSet) }
}

/** Changes the level of a name, in whichever data set or summary it stands: names are unique within a report. */
function changeLevel(report: ReportDefinition, name: string, change: (level: LevelDefinition) => LevelDefinition): ReportDefinition {
  const has = (level: LevelDefinition): boolean => level.name === name || level.details.some(has)
  const apply = (level: LevelDefinition): LevelDefinition => level.name === name ? change(level) : has(level) ? { ...level, details: level.details.map(apply) } : level
  return {
    ...report, dataSets: report.dataSets.map(dataSet => has(dataSet.root) ? { ...dataSet, root: apply(dataSet.root) } : dataSet),
    ...(report.tables ? { tables: report.tables.map(table => table.kind === 'summary' && has(table.base) ? { ...table, base: apply(table.base) } : table) } : {}),
  }
}

/** All level names of a report. */
export function levelNames(report: ReportDefinition): string[] {
  const visit = (level: LevelDefinition): string[] => [level.name, ...level.details.flatMap(visit)]
  return [...report.dataSets.flatMap(dataSet => visit(dataSet.root)), ...(report.tables ?? []).flatMap(table => table.kind === 'summary' ? visit(table.base) : [])]
}

type WithRelated = Pick<LevelDefinition, 'fields' | 'related'>

/** Changes the record at a path under a level ("" is the level itself). */
function changeRecord<T extends WithRelated>(holder: T, path: string, change: (record: WithRelated) => WithRelated): T {
  if (!path) return change(holder) as T
  const [first, ...rest] = path.split('.')
  return { ...holder, related: holder.related.map(each => each.name === first ? changeRecord(each, rest.join('.'), change) : each) }
}

/** Ticks a column on or off in the rows. */
export function tickField(report: ReportDefinition, level: string, record: string, column: string, on: boolean): ReportDefinition {
  return changeLevel(report, level, found => changeRecord(found, record, holder => ({
    ...holder, fields: on ? [...holder.fields.filter(each => each !== column), column] : holder.fields.filter(each => each !== column),
  })))
}

export function addRelated(report: ReportDefinition, level: string, record: string, related: Pick<RelatedDefinition, 'name' | 'table' | 'on' | 'fields' | 'pick'>): ReportDefinition {
  return changeLevel(report, level, found => changeRecord(found, record, holder => ({
    ...holder, related: [...holder.related, { ...related, name: freeId(related.name, holder.related.map(each => each.name), true), related: [] }],
  })))
}

export function removeRelated(report: ReportDefinition, level: string, record: string): ReportDefinition {
  const names = record.split('.')
  const last = names.pop()
  return changeLevel(report, level, found => changeRecord(found, names.join('.'), holder => ({ ...holder, related: holder.related.filter(each => each.name !== last) })))
}

export function addDetail(report: ReportDefinition, level: string, detail: Pick<LevelDefinition, 'name' | 'caption' | 'table' | 'on' | 'fields'>): ReportDefinition {
  const taken = levelNames(report)
  return changeLevel(report, level, found => ({
    ...found, details: [...found.details, { ...detail, name: freeId(detail.name, taken, true), related: [], details: [], filters: [], sort: [] }],
  }))
}

export function removeDetail(report: ReportDefinition, name: string): ReportDefinition {
  const apply = (level: LevelDefinition): LevelDefinition => ({ ...level, details: level.details.filter(each => each.name !== name).map(apply) })
  return { ...report, dataSets: report.dataSets.map(dataSet => ({ ...dataSet, root: apply(dataSet.root) })) }
}

/** Puts, changes or (empty) takes out the clause at an index. */
export function setFilter(report: ReportDefinition, level: string, index: number, clause: string): ReportDefinition {
  return changeLevel(report, level, (found) => {
    const filters = [...found.filters]
    if (clause.trim()) filters[index] = clause
    else filters.splice(index, 1)
    return { ...found, filters }
  })
}

/** All filters of a level: formulas that must all hold. */
export function setFilters(report: ReportDefinition, level: string, filters: string[]): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, filters }))
}

export function setSort(report: ReportDefinition, level: string, sort: SortDefinition[]): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, sort }))
}

export function setLevel(report: ReportDefinition, level: string, change: Partial<Pick<LevelDefinition, 'caption' | 'table' | 'on' | 'fields'>>): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, ...change }))
}

/** Which record is picked, under what conditions, and whether records without one are dropped. */
export function setRelated(report: ReportDefinition, level: string, record: string, change: Partial<Pick<RelatedDefinition, 'filters' | 'pick' | 'required'>>): ReportDefinition {
  const names = record.split('.')
  const last = names.pop()
  return changeLevel(report, level, found => changeRecord(found, names.join('.'), holder => ({
    ...holder, related: holder.related.map((each) => {
      if (each.name !== last) return each
      const next = { ...each, ...change }
      if (!next.filters?.length) delete next.filters
      if (!next.pick) delete next.pick
      if (!next.required) delete next.required
      return next
    }),
  })))
}

/** Puts a calculated field in, or (with `before`) in the place of the one so named. */
export function putCalculated(report: ReportDefinition, level: string, field: CalculatedDefinition, before?: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, calculated: replaced(found.calculated ?? [], field, before) }))
}

export function removeCalculated(report: ReportDefinition, level: string, name: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, calculated: (found.calculated ?? []).filter(each => each.name !== name) }))
}

export function putTotal(report: ReportDefinition, level: string, total: ChildTotalDefinition, before?: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, totals: replaced(found.totals ?? [], total, before) }))
}

export function removeTotal(report: ReportDefinition, level: string, name: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, totals: (found.totals ?? []).filter(each => each.name !== name) }))
}

function replaced<T extends { name: string }>(list: readonly T[], item: T, before: string | undefined): T[] {
  const at = list.findIndex(each => each.name === (before ?? item.name))
  return at < 0 ? [...list, item] : list.map((each, index) => index === at ? item : each)
}

/** A further data set, whose root level takes a free name. */
export function addDataSet(report: ReportDefinition, name: string, root: LevelDefinition): ReportDefinition {
  const taken = [...report.dataSets, ...report.tables ?? []].map(each => each.name)
  return { ...report, dataSets: [...report.dataSets, { name: freeId(name, taken, true), source: report.dataSets[0]?.source ?? '', fields: {}, root: { ...root, name: freeId(root.name, levelNames(report), true) } }] }
}

/** The first data set stays: the layouts print it. */
export function removeDataSet(report: ReportDefinition, name: string): ReportDefinition {
  return { ...report, dataSets: report.dataSets.filter((each, index) => index === 0 || each.name !== name) }
}

/** Puts a table of the report's own in, or (with `before`) in the place of the one so named; what reads it by its old name follows. */
export function putTable(report: ReportDefinition, table: TableDefinition, before?: string): ReportDefinition {
  const next = { ...report, tables: replaced(report.tables ?? [], table, before) }
  return before && before !== table.name ? renamedTable(next, `@${before}`, `@${table.name}`) : next
}

export function removeTable(report: ReportDefinition, name: string): ReportDefinition {
  return { ...report, tables: (report.tables ?? []).filter(each => each.name !== name) }
}

function renamedTable(report: ReportDefinition, from: string, to: string): ReportDefinition {
  const name = (table: string) => table === from ? to : table
  const related = (each: RelatedDefinition): RelatedDefinition => ({ ...each, table: name(each.table), related: each.related.map(related) })
  const level = (each: LevelDefinition): LevelDefinition => ({
    ...each, table: name(each.table), related: each.related.map(related), details: each.details.map(level), ...(each.totals ? { totals: each.totals.map(total => ({ ...total, table: name(total.table) })) } : {}),
  })
  return {
    ...report, dataSets: report.dataSets.map(dataSet => ({ ...dataSet, root: level(dataSet.root) })),
    tables: report.tables?.map(table => table.kind === 'summary' ? { ...table, base: level(table.base) } : table),
    parameters: report.parameters.map(parameter => parameter.choices ? { ...parameter, choices: { ...parameter.choices, table: name(parameter.choices.table) } } : parameter),
  }
}

export function putParameter(report: ReportDefinition, parameter: ParameterDefinition, before?: string): ReportDefinition {
  const parameters = replaced(report.parameters, parameter, before)
  if (!before || before === parameter.name) return { ...report, parameters }
  return { ...report, parameters: parameters.map(each => each.choices?.narrowedBy ? { ...each, choices: { ...each.choices, narrowedBy: each.choices.narrowedBy.map(by => by.parameter === before ? { ...by, parameter: parameter.name } : by) } } : each) }
}

export function removeParameter(report: ReportDefinition, name: string): ReportDefinition {
  return {
    ...report, parameters: report.parameters.filter(each => each.name !== name)
      .map(each => each.choices?.narrowedBy?.some(by => by.parameter === name) ? { ...each, choices: { ...each.choices, narrowedBy: each.choices.narrowedBy.filter(by => by.parameter !== name) } } : each),
  }
}

export function moveParameter(report: ReportDefinition, name: string, by: -1 | 1): ReportDefinition {
  const from = report.parameters.findIndex(each => each.name === name)
  const to = from + by
  if (from < 0 || to < 0 || to >= report.parameters.length) return report
  const parameters = [...report.parameters]
  parameters.splice(to, 0, ...parameters.splice(from, 1))
  return { ...report, parameters }
}

/** A name that is not taken: the plain one where it is free (`bare`), else with a number behind it. */
export function freeId(stem: string, taken: readonly string[], bare = false): string {
  if (bare && !taken.includes(stem)) return stem
  for (let count = bare ? 2 : 1; ; count++) if (!taken.includes(`${stem}${count}`)) return `${stem}${count}`
}

/** All repeats around a block, the outermost first. */
export function repeatsAround(report: ReportDefinition, id: string): RepeatBlock[] {
  const visit = (blocks: readonly Block[], above: RepeatBlock[]): RepeatBlock[] | undefined => {
    for (const block of blocks) {
      if (block.id === id) return above
      const found = block.kind === 'repeat' ? visit(block.blocks, [...above, block]) : undefined
      if (found) return found
    }
    return undefined
  }
  return visit(report.layouts[0]!.blocks, []) ?? []
}
