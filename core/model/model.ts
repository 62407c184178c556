import type { Catalog } from '../books/catalog'
import { findTable, readable } from '../catalog/types'
import { withOpenItems } from './openItems'
import { nestedPlaces } from './nested'
import type { CalculatedDefinition, FieldSettings, LevelDefinition, RelatedDefinition } from '../definition/levels'
import { type ParameterType, parameterTypes } from '../definition/parameters'
import type { ReportDefinition } from '../definition/report'
import type { TableColumn, TableDefinition } from '../definition/tables'
import { checkFormula } from '../formula/check'
import { scaleOf } from '../formula/scale'
import { mostWeight, somePart, weightOf } from '../formula/parts'
import type { FieldInfo, FieldRole, LevelInfo, Scope, Typed } from '../formula/typed'
import { hasSql } from '../formula/sql'
import { FormulaError } from '../formula/syntax'
import { ageingFields } from './ageing'
import { ledgerColumns, ownLedger } from './ledger'
import { type DataProblem, type LevelTree, levelTree, tableLevel, tickedFields } from './levels'
import type { ValueType } from '../value/value'
import { type OwnColumn, type OwnTable, databaseTypes, describe, formulas, ratioOfField, recordAt, valueType } from './ownTable'

/** A definition brought together with its source: levels with all their fields, and the report's own tables as if the source held them. */
export interface ReportModel {
  /** the source's tables and the report's own, which are called "@name" */
  catalog: Catalog
  /** one per data set */
  trees: LevelTree[]
  tables: Map<string, OwnTable>
  parameterTypes: Record<string, ParameterType>
}

/**
 * Finds the levels, fields and own tables of a report; what cannot be found is a problem of the tree where it stands. Sets that open
 * items are made of come after its own.
 */
export function reportModel(report: ReportDefinition, source: Catalog): ReportModel {
  const definition = withOpenItems(report)
  const model: ReportModel = {
    catalog: { ...source, tables: [...source.tables], foreignKeys: [...source.foreignKeys] },
    trees: [],
    tables: new Map(),
    parameterTypes: parameterTypes(definition.parameters),
  }
  const trees = new Map<string, LevelTree>()
  const open: string[] = []
  const faults: DataProblem[] = []

  const treeOf = (name: string): LevelTree | undefined => {
    const dataSet = definition.dataSets.find(each => each.name === name)
    if (!dataSet) return undefined
    const known = trees.get(name)
    if (known) return known
    needed(dataSet.root)
    const tree = levelTree(dataSet, model.catalog)
    complete(tree, dataSet.fields, model)
    trees.set(name, tree)
    return tree
  }
  const needed = (level: LevelDefinition) => tablesOf(level).forEach(require)
  const require = (table: string): void => {
    if (!table.startsWith('@') || model.tables.has(table)) return
    const name = table.slice(1)
    if (open.includes(name)) {
      faults.push({
        where: name,
        sentence: `“${open.slice(open.indexOf(name)).join('” is made from “')}” is made from itself; choose another table for one of them.`,
      })
      return
    }
    open.push(name)
    const own = definition.tables?.find(each => each.name === name)
    if (own) addTable(own)
    else {
      const tree = treeOf(name)
      if (tree) add(table, { kind: 'dataSet', tree, columns: dataSetColumns(tree, model.catalog) }, tree.levels[0]!.key.map(columnName))
    }
    open.pop()
  }
  const add = (name: string, table: OwnTable, primaryKey: string[]) => {
    model.tables.set(name, table)
    const { columns, keys } = describe(table, model.catalog)
    model.catalog.tables.push({ schema: '', name, columns, primaryKey, rowEstimate: 0 })
    model.catalog.foreignKeys.push(
      ...keys.map(key => ({
        name: `${name} ${key.column}`,
        from: { table: name, columns: [key.column] },
        to: { table: key.table, columns: [key.to] },
      })),
    )
  }
  const addTable = (own: TableDefinition) => {
    const name = `@${own.name}`
    if (own.kind === 'sql') return add(name, { kind: 'sql', definition: own }, own.key.length ? own.key : ['row'])
    if (own.kind === 'elsewhere') return add(name, { kind: 'elsewhere', definition: own }, own.key.length ? own.key : ['row'])
    if (own.kind === 'openItems') return
    if (own.kind === 'ledger') {
      const ledger = ownLedger(own, definition, source)
      if (ledger) return add(name, ledger, ledgerColumns(ledger).key)
      faults.push({
        where: own.name,
        sentence: `“${own.name}” reads the books, and this source does not say where they are; say it under Sources.`,
      })
      return
    }
    if (own.kind === 'summary') {
      needed(own.base)
      const tree = levelTree({ name: own.name, source: '', root: { ...own.base, details: [] }, fields: {} }, model.catalog)
      complete(tree, {}, model)
      const scope: Scope = { levels: tree.levels, level: 0, parameters: model.parameterTypes, measure: true }
      const by = own.by.flatMap(each =>
        checked(each, { ...scope, filter: true }, tree, 'group').flatMap(column => [...namingKeys(column, tree.levels[0]!), column]),
      )
      const measures: OwnColumn[] = []
      for (const each of own.measures) measures.push(...checked(each, withMeasures(scope, measures), tree, 'measure'))
      return add(
        name,
        { kind: 'summary', tree, by, measures },
        by.map(each => each.name),
      )
    }
    const parts = own.parts.flatMap(part => {
      const tree = treeOf(part.dataSet)
      if (!tree) {
        faults.push({
          where: own.name,
          sentence: `The data set “${part.dataSet}” stacked in “${own.name}” does not exist; choose another or take it out.`,
        })
        return []
      }
      const scope: Scope = { levels: tree.levels, level: 0, parameters: model.parameterTypes, filter: true }
      return [
        {
          tree,
          label: part.label,
          columns: own.columns.map(column =>
            part.fields[column]
              ? checked({ name: column, formula: part.fields[column] }, scope, tree, 'stacked column')[0]?.typed
              : undefined,
          ),
        },
      ]
    })
    if (own.columns.includes(own.origin))
      faults.push({
        where: own.name,
        sentence: `“${own.name}” says in “${own.origin}” where a row came from, and has a column of that name too; rename one of them.`,
      })
    const columns = own.columns.map((column, index): TableColumn => {
      const found = parts.flatMap(part => part.columns[index] ?? [])
      const type = found[0] ? valueType(found.find(each => each.type !== 'empty') ?? found[0]) : 'text'
      if (found.some(each => each.type !== 'empty' && each.type !== type))
        faults.push({
          where: own.name,
          sentence: `The column “${column}” of “${own.name}” is not of one kind in all its parts; match fields of one kind.`,
        })
      const scales = found.filter(each => each.type !== 'empty').map(scaleOf)
      return {
        name: column,
        type,
        databaseType: ownType(found) ?? databaseTypes[type],
        ...(type === 'number' && scales.every(scale => scale !== undefined) && scales.length
          ? { scale: Math.max(...(scales as number[])) }
          : {}),
      }
    })
    add(name, { kind: 'stack', definition: own, columns, parts }, [own.origin, 'row'])
  }
  const checked = (each: CalculatedDefinition, scope: Scope, tree: LevelTree, what: string): OwnColumn[] => {
    try {
      const typed = checkFormula(each.formula, scope)
      if (
        what === 'measure' &&
        somePart(typed, part => part.is === 'binary' && part.operator === '/' && somePart(part, inner => inner.is === 'total'))
      ) {
        throw new FormulaError(
          'give each total of it a measure of its own and divide those, so that it can be worked out again at every total.',
          0,
          each.formula.length,
        )
      }
      formulas.set(typed, each.formula)
      return [{ name: each.name, typed, ...(each.total ? { total: each.total } : {}) }]
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      tree.problems.push({ where: each.name, sentence: `The ${what} “${each.name}” cannot be used: ${error.message}` })
      return []
    }
  }

  for (const dataSet of definition.dataSets) model.trees.push(treeOf(dataSet.name)!)
  addHandedOut(model.trees[0], definition)
  definition.tables?.forEach(each => require(`@${each.name}`))
  for (const dataSet of definition.dataSets) require(`@${dataSet.name}`)
  const own = [...model.tables.values()].flatMap(table => (table.kind === 'summary' ? table.tree.problems : []))
  model.trees[0]?.problems.push(...faults, ...own)
  return model
}

/** Totals that nested reports hand out are fields of the level on which they stand; only layouts can speak of them. */
function addHandedOut(tree: LevelTree | undefined, definition: ReportDefinition): void {
  for (const { block, level } of nestedPlaces(definition)) {
    const own = tree?.levels.find(each => each.name === level)
    for (const { name, type, scale, format } of own ? (block.totals ?? []) : []) {
      const path = `${block.id}.${name}`
      if (own!.fields.has(path)) continue
      own!.fields.set(path, {
        level: own!.index,
        path,
        type,
        role: type === 'number' ? 'measure' : type === 'text' ? 'label' : 'other',
        caption: readable(name),
        record: '',
        column: { name, type, databaseType: databaseTypes[type], required: false },
        inSql: false,
        nested: block.id,
        ...(scale === undefined ? {} : { scale }),
        ...(format ? { format } : {}),
      })
    }
  }
}

/** All tables that a level and those under it read. */
export function tablesOf(level: LevelDefinition): string[] {
  const related = (list: readonly RelatedDefinition[]): string[] => list.flatMap(each => [each.table, ...related(each.related)])
  return [level.table, ...related(level.related), ...(level.totals ?? []).map(total => total.table), ...level.details.flatMap(tablesOf)]
}

/** Measures that are there already, as fields: a ratio is a formula over them. */
function withMeasures(scope: Scope, measures: readonly OwnColumn[]): Scope {
  const fields = new Map<string, FieldInfo>()
  for (const { name, typed } of measures) {
    fields.set(name, {
      level: 0,
      path: name,
      type: valueType(typed),
      role: 'measure',
      caption: readable(name),
      record: '',
      column: { name, type: valueType(typed), databaseType: databaseTypes[valueType(typed)], required: false },
      formula: typed,
    })
  }
  return { ...scope, measures: fields }
}

/** Grouping by the name of a record groups by its key too, so that two of one name stay apart (rule 2 of the semantics). */
function namingKeys(column: OwnColumn, level: LevelInfo): OwnColumn[] {
  const { typed } = column
  if (typed.is !== 'field' || !typed.field.record || typed.field.role !== 'label') return []
  const related = recordAt(level.definition.related, typed.field.record.split('.'))
  return related!.on.map((pair, index): OwnColumn => {
    const field = level.fields.get(`${typed.field.record}.${pair.to}`)!
    return {
      name: related!.on.length > 1 ? `${column.name}_key${index + 1}` : `${column.name}_key`,
      typed: { is: 'field', type: field.type, level: 0, path: field.path, field },
    }
  })
}

const columnName = (path: string) => path.replaceAll('.', '_')

/** What a data set offers as a table: its root's keys, ticked fields and keys of other tables. */
function dataSetColumns(tree: LevelTree, catalog: Catalog): OwnColumn[] {
  const root = tree.levels[0]!
  const foreign = catalog.foreignKeys.filter(key => key.from.table === root.definition.table).flatMap(key => key.from.columns)
  return [...new Set([...root.key, ...tickedFields(root.definition), ...foreign])].flatMap(path => {
    const field = root.fields.get(path)
    return field && field.inSql !== false
      ? [{ name: columnName(path), typed: { is: 'field', type: field.type, level: 0, path, field } as Typed }]
      : []
  })
}

/** Whole numbers that keep their type in a stack, so that the keys of other tables still find them by their index. */
function ownType(found: readonly Typed[]): string | undefined {
  const types = new Set(
    found
      .filter(each => each.type !== 'empty')
      .map(each => (each.is === 'field' && each.field.role === 'key' ? each.field.column.databaseType : '')),
  )
  const [only] = types
  return types.size === 1 && (only === 'integer' || only === 'bigint') ? only : undefined
}

/** Adds child totals and calculated fields to the levels of a tree, in the order in which they need one another. */
function complete(tree: LevelTree, settings: Record<string, FieldSettings>, model: ReportModel): void {
  const { levels, problems } = tree
  const scopeOf = (level: LevelInfo): Scope => ({ levels, level: level.index, parameters: model.parameterTypes })
  const put = (level: LevelInfo, name: string, type: ValueType, more: Partial<FieldInfo>) => {
    const own = settings[`${level.name}.${name}`]
    level.fields.set(name, {
      level: level.index,
      path: name,
      type,
      role: type === 'number' ? 'measure' : type === 'text' ? 'label' : 'other',
      caption: own?.caption ?? readable(name),
      record: '',
      column: { name, type, databaseType: databaseTypes[type], required: false },
      ...(own?.format ? { format: own.format } : {}),
      ...(own?.currency ? { currency: own.currency } : {}),
      ...more,
    })
  }
  const taken = (level: LevelInfo, name: string) => {
    if (!level.fields.has(name)) return false
    problems.push({ where: name, sentence: `Level “${level.caption}” already has a field “${name}”; give the other one another name.` })
    return true
  }
  for (const level of levels) {
    for (const total of level.definition.totals ?? []) addTotal(level, total)
  }
  type Waiting = CalculatedDefinition & { caption?: string; role?: FieldRole; dated?: string }
  const waiting = levels
    .flatMap((level): { level: LevelInfo; field: Waiting }[] =>
      [...(level.definition.calculated ?? []), ...sharedOf(level), ...(level.definition.ageings ?? []).flatMap(ageingFields)].map(
        field => ({ level, field }),
      ),
    )
    .filter(({ level, field }) => !taken(level, field.name))
  for (let left = waiting, errors = new Map<string, string>(); left.length; errors = new Map()) {
    const rest = left.filter(({ level, field }) => {
      try {
        const typed = checkFormula(field.formula, scopeOf(level))
        if (weightOf(typed) > mostWeight)
          throw new FormulaError(
            `with the calculated fields in it written out it has more than ${mostWeight.toLocaleString('en')} parts; make it simpler.`,
            0,
            field.formula.length,
          )
        put(level, field.name, valueType(typed), {
          formula: typed,
          inSql: hasSql(typed, level.index),
          ...(typed.type === 'number' ? { scale: scaleOf(typed) } : {}),
          ...ratioOfField(typed, field.total),
          ...(typed.is === 'field' && typed.field.format ? { format: typed.field.format } : {}),
          ...(field.caption && !settings[`${level.name}.${field.name}`]?.caption ? { caption: field.caption } : {}),
          ...(field.role ? { role: field.role } : {}),
          ...(field.dated ? { dated: field.dated } : {}),
        })
        return false
      } catch (error) {
        if (!(error instanceof FormulaError)) throw error
        errors.set(`${level.name}.${field.name}`, error.message)
        return true
      }
    })
    if (rest.length === left.length) {
      for (const { level, field } of rest)
        problems.push({
          where: field.name,
          sentence:
            `The calculated field “${field.name}” of level “${level.caption}” cannot be worked out: ` +
            `${errors.get(`${level.name}.${field.name}`)}`,
        })
      break
    }
    left = rest
  }
  for (const level of levels) {
    for (const field of level.fields.values()) {
      if (!field.column.ratio || field.record) continue
      try {
        field.ratio = { of: checkFormula(field.column.ratio.formula, scopeOf(level)), forced: field.column.ratio.forced }
      } catch (error) {
        if (!(error instanceof FormulaError)) throw error
      }
    }
  }

  function sharedOf(level: LevelInfo): CalculatedDefinition[] {
    const own = new Set((level.definition.calculated ?? []).map(field => field.name))
    return (findTable(model.catalog, level.definition.table)?.calculated ?? []).filter(
      field => !own.has(field.name) && level.definition.fields.includes(field.name),
    )
  }

  function addTotal(level: LevelInfo, definition: NonNullable<LevelDefinition['totals']>[number]): void {
    if (taken(level, definition.name)) return
    const table = findTable(model.catalog, definition.table)
    const fail = (sentence: string) =>
      void problems.push({
        where: definition.name,
        sentence: `The child total “${definition.name}” of level “${level.caption}” cannot be worked out: ${sentence}`,
      })
    if (!table) return fail(`the table “${definition.table}” is not in the source any more.`)
    const child = tableLevel(table, definition.name)
    const missing = definition.on.find(pair => !child.fields.has(pair.to) || !level.fields.has(pair.from))
    if (missing) return fail(`its columns “${missing.from}” and “${missing.to}” are not both there any more.`)
    try {
      const value = definition.value?.trim()
        ? checkFormula(definition.value, { levels: [child], level: 0, parameters: model.parameterTypes, filter: true })
        : undefined
      if (!value && definition.total !== 'count') return fail('choose the field that is added up.')
      if (definition.total === 'sum' && value!.type !== 'number')
        return fail(`only numbers are added up, and “${definition.value}” is none.`)
      if (definition.total === 'latest' && !child.fields.has(definition.by ?? ''))
        return fail('choose the date by which the latest is found.')
      const type = definition.total === 'count' ? 'number' : valueType(value!)
      const scale = definition.total === 'count' ? 0 : scaleOf(value!)
      put(level, definition.name, type, {
        total: { definition, child, ...(value ? { value } : {}) },
        ...(type === 'number' && scale !== undefined ? { scale } : {}),
      })
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      fail(error.message)
    }
  }
}
