import { type FormulaType, type GroupWord, groupWords, type Over, type PageWord, pageWords, type Scope, type Typed } from './typed'
import { isWithin } from './lineage'
import type { ValueType } from '../value/value'
import { dayOfMoment, periodFunctions, scalarFunctions, totalFunctions } from './functions'
import { type Expression, FormulaError, parseFormula, pathsOf } from './syntax'
import { somePart } from './parts'
import { partTotal, ratioOf } from './ratio'
import { suggestion } from '../value/suggestion'
import { findField, findLevel } from './finding'

/** An expression that is always empty, as an empty value of the type that its place wants. */
function settled(typed: Typed, type: FormulaType | undefined): Typed {
  return typed.type === 'empty' && type && type !== 'empty' ? { is: 'constant', type, value: null } : typed
}

const typeWords: Record<FormulaType, string> = {
  number: 'a number',
  text: 'a text',
  date: 'a date',
  moment: 'a date with a time',
  boolean: 'yes or no',
  empty: 'empty',
}

/** The day of a date with a time: it stands for that wherever a date is wanted, or compared with one. */
const dayOf = (typed: Typed): Typed => ({ is: 'call', type: 'date', name: dayOfMoment, arguments: [typed] })
const asWanted = (typed: Typed, wanted: FormulaType | undefined): Typed =>
  typed.type === 'moment' && wanted === 'date' ? dayOf(typed) : typed

/**
 * Reads a formula and finds the types, levels and functions it uses.
 * @throws FormulaError with the place of the first fault
 */
export function checkFormula(text: string, scope: Scope): Typed {
  return check(parseFormula(text), scope)
}

function check(node: Expression, scope: Scope): Typed {
  const fail = (message: string, at: { from: number; to: number } = node): never => {
    throw new FormulaError(message, at.from, at.to)
  }
  const sub = (inner: Expression, wanted?: ValueType): Typed => {
    const typed = asWanted(check(inner, scope), wanted)
    if (wanted && typed.type !== 'empty' && typed.type !== wanted)
      fail(
        `${typeWords[wanted][0]!.toUpperCase()}${typeWords[wanted].slice(1)} is needed here, but this is ${typeWords[typed.type]}.`,
        inner,
      )
    return settled(typed, wanted)
  }
  switch (node.is) {
    case 'number':
      return { is: 'constant', type: 'number', value: node.value }
    case 'text':
      return { is: 'constant', type: 'text', value: node.value }
    case 'boolean':
      return { is: 'constant', type: 'boolean', value: node.value }
    case 'empty':
      return { is: 'constant', type: 'empty', value: null }
    case 'path':
      return checkPath(node, scope)
    case 'negative':
      return { is: 'negative', type: 'number', value: sub(node.value, 'number') }
    case 'not':
      return { is: 'not', type: 'boolean', value: sub(node.value, 'boolean') }
    case 'in': {
      const first = sub(node.value)
      const items = node.list.map(item => several(item, scope, first.type) ?? sub(item))
      const value = beside(first, items)
      const list = node.list.map((item, index) => same(value, items[index]!, item))
      const found: Typed = { is: 'in', type: 'boolean', value: settled(value, list.find(item => item.type !== 'empty')?.type), list }
      return node.not ? { is: 'not', type: 'boolean', value: found } : found
    }
    case 'between': {
      const [first, from, to] = [sub(node.value), sub(node.low), sub(node.high)]
      const value = beside(first, [from, to])
      const [low, high] = [same(value, from, node.low), same(value, to, node.high)]
      const type = value.type === 'empty' ? (low.type === 'empty' ? high.type : low.type) : value.type
      return { is: 'between', type: 'boolean', value: settled(value, type), low: settled(low, type), high: settled(high, type) }
    }
    case 'binary': {
      const { operator } = node
      if (operator === 'and' || operator === 'or')
        return { is: 'binary', type: 'boolean', operator, left: sub(node.left, 'boolean'), right: sub(node.right, 'boolean') }
      if (operator === '&') return { is: 'binary', type: 'text', operator, left: sub(node.left), right: sub(node.right) }
      if (operator === '+' || operator === '-' || operator === '*' || operator === '/')
        return { is: 'binary', type: 'number', operator, left: sub(node.left, 'number'), right: sub(node.right, 'number') }
      const [first, second] = [sub(node.left), sub(node.right)]
      const left = beside(first, [second])
      const right = same(left, second, node.right)
      return { is: 'binary', type: 'boolean', operator, left: settled(left, right.type), right }
    }
    case 'call':
      return checkCall(node, scope)
  }

  /** A date with a time that is compared with a date is compared by its day. */
  function beside(typed: Typed, others: readonly Typed[]): Typed {
    return others.some(other => other.type === 'date') ? asWanted(typed, 'date') : typed
  }

  function same(a: Typed, other: Typed, at: Expression): Typed {
    const b = asWanted(other, a.type)
    if (a.type !== 'empty' && b.type !== 'empty' && a.type !== b.type)
      fail(`This is ${typeWords[b.type]} and cannot be compared with ${typeWords[a.type]}.`, at)
    return settled(b, a.type)
  }
}

/** A parameter of several values, as it may stand in a list: they are read as what they are compared with. */
function several(node: Expression, scope: Scope, type: FormulaType): Typed | undefined {
  if (node.is !== 'path') return undefined
  const rest = node.names.slice(1).join('.')
  if (node.names[0] === 'person' && scope.person?.has(rest))
    return { is: 'parameter', type: type === 'empty' ? 'text' : type, name: `person.${rest}`, several: true }
  if (node.names[0] !== 'param') return undefined
  const name = rest
  return Object.hasOwn(scope.parameters, name) && scope.parameters[name] === 'texts'
    ? { is: 'parameter', type: type === 'empty' ? 'text' : type, name, several: true }
    : undefined
}

function checkPath(node: Expression & { is: 'path' }, scope: Scope): Typed {
  const [head, ...rest] = node.names
  const full = node.names.join('.')
  if (head === 'param') {
    const name = rest.join('.')
    const type = Object.hasOwn(scope.parameters, name) ? scope.parameters[name] : undefined
    if (!type)
      throw new FormulaError(`There is no parameter “${name}”${suggestion(name, Object.keys(scope.parameters))}.`, node.from, node.to)
    if (type === 'texts')
      throw new FormulaError(
        `“${name}” holds several values; write field in (param.${name}), or param.${name}.label for its text.`,
        node.from,
        node.to,
      )
    return { is: 'parameter', type, name }
  }
  if (head === 'person' && scope.person && rest.length)
    throw new FormulaError(`“${full}” is a list; write field in (${full}).`, node.from, node.to)
  if (head === 'page' && rest.length === 1 && (pageWords as readonly string[]).includes(rest[0]!) && !findField(scope, node.names)) {
    if (!scope.page) throw new FormulaError(`“${full}” is only known on a page.`, node.from, node.to)
    return { is: 'page', type: rest[0] === 'printed' ? 'text' : 'number', word: rest[0] as PageWord }
  }
  if (head === 'group' && rest.length === 1 && (groupWords as readonly string[]).includes(rest[0]!) && !findField(scope, node.names)) {
    if (!scope.groups?.length || scope.row === -1)
      throw new FormulaError(`“${full}” is only known in a group’s rows and in the lines inside groups.`, node.from, node.to)
    return { is: 'group', type: rest[0] === 'name' ? 'text' : 'number', word: rest[0] as GroupWord }
  }
  const measure = scope.measures?.get(full)
  if (measure) return { is: 'field', type: measure.type, level: measure.level, path: full, field: measure }
  const found = findField(scope, node.names)
  if (!found) {
    const level = findLevel(scope, node.names)
    if (level) throw new FormulaError(`“${full}” is a level, not a field; write count(${full}) for how many there are.`, node.from, node.to)
    const near =
      scope.level < 0
        ? []
        : scope.levels.flatMap(l =>
            [...l.fields.keys()].map(path => (isWithin(scope.levels, scope.level, l.index) ? path : `${l.name}.${path}`)),
          )
    throw new FormulaError(`There is no field “${full}” here${suggestion(full, near)}.`, node.from, node.to)
  }
  if (scope.filter && found.level !== scope.level) {
    throw new FormulaError(
      `“${full}” belongs to ${scope.levels[found.level]!.caption}; a filter of ${scope.levels[scope.level]!.caption} can only use ` +
        `its own fields.`,
      node.from,
      node.to,
    )
  }
  if (!isWithin(scope.levels, scope.level, found.level)) {
    throw new FormulaError(
      `“${full}” has many values for one ${scope.levels[scope.level]!.caption.toLowerCase()}; put it in sum(…), count(…), first(…) ` +
        `or another total.`,
      node.from,
      node.to,
    )
  }
  return { is: 'field', type: found.type, level: found.level, path: found.path, field: found }
}

function checkCall(node: Expression & { is: 'call' }, scope: Scope): Typed {
  const { name } = node
  const nameAt = { from: node.from, to: node.nameTo }
  const fail = (message: string, at: { from: number; to: number } = nameAt): never => {
    throw new FormulaError(message, at.from, at.to)
  }
  if (name === 'has') return checkHas(node, scope)
  if (name === 'running') {
    if (scope.filter || scope.measure || scope.level < 0) fail('running(…) adds up rows in printed order and cannot stand here.')
    const total = checkTotal({ ...node, name: 'sum' }, scope)
    if (total.is !== 'total' || total.level !== scope.level || typeof total.over === 'number' || total.over === 'report')
      return fail('running(…) adds up a number of the row it stands in.', node.arguments[0]?.value)
    return {
      is: 'running',
      type: 'number',
      level: total.level,
      value: total.value!,
      ...(total.where ? { where: total.where } : {}),
      ...(total.over === undefined ? {} : { over: total.over }),
    }
  }
  if (name === 'share') {
    if (scope.filter || scope.measure || scope.level < 0) fail('share(…) compares a row with all of them and cannot stand here.')
    const over = node.arguments.find(argument => argument.name === 'over')
    const whole: typeof over = over ?? {
      name: 'over',
      value: { is: 'path', names: [scope.groups ? 'table' : 'report'], from: node.from, to: node.nameTo } as Expression,
    }
    return {
      is: 'binary',
      type: 'number',
      operator: '/',
      share: true,
      left: checkTotal({ ...node, name: 'sum', arguments: node.arguments.filter(argument => argument !== over) }, scope),
      right: checkTotal({ ...node, name: 'sum', arguments: [...node.arguments.filter(argument => argument !== over), whole] }, scope),
    }
  }
  if (name === 'rank') {
    if (scope.groups === undefined || scope.row === undefined || scope.row === -1)
      fail('rank(…) compares the rows of a table and stands in its lines or in the rows of a group.')
    const [value, ...more] = node.arguments.filter(argument => !argument.name)
    if (!value || more.length) fail(`It is written ${totalFunctions.rank!.usage}.`)
    const over = node.arguments.find(argument => argument.name === 'over')
    const plain = check(value!.value, scope)
    const typed =
      scope.row !== 'line' && !somePart(plain, part => part.is === 'total')
        ? checkTotal({ ...node, name: 'sum', arguments: [value!] }, scope)
        : plain
    if (typed.type !== 'number') fail('rank(…) compares numbers.', value!.value)
    const around = over && checkOver(over.value, scope)
    if (around === 'report' || typeof around === 'number')
      fail('rank(…) compares the rows of its table; over: takes table or the name of a group.', over!.value)
    return { is: 'rank', type: 'number', value: typed, ...(around === undefined ? {} : { over: around }) }
  }
  if (Object.hasOwn(totalFunctions, name)) return checkTotal(node, scope)
  const named = node.arguments.find(argument => argument.name)
  if (named) fail(`“${named.name}:” is not known in ${name}(…).`, named.value)
  const values = node.arguments.map(argument => argument.value)
  const typed = (index: number) => check(values[index]!, scope)
  if (Object.hasOwn(periodFunctions, name)) {
    const known = periodFunctions[name]!
    if (values.length !== known.takes.length) fail(`It is written ${known.usage}.`)
    const parts = values.map((value, index) => {
      const part = asWanted(check(value, scope), known.takes[index])
      if (part.type !== known.takes[index] && part.type !== 'empty')
        fail(`${known.usage} needs ${typeWords[known.takes[index]!]} here, but this is ${typeWords[part.type]}.`, value)
      return settled(part, known.takes[index])
    })
    return { is: 'period', type: known.gives, name, arguments: parts }
  }
  if (name === 'today') {
    if (values.length) fail('today() takes nothing between its parentheses.')
    return { is: 'today', type: 'date' }
  }
  if (name === 'carried') {
    if (!scope.page || scope.filter) fail('carried(…) is only known in the carried row of a table.')
    if (values.length !== 1) fail('carried(…) takes one number: carried(amount).')
    const value = typed(0)
    if (value.type !== 'number') fail('carried(…) adds up a number.', values[0])
    return { is: 'carried', type: 'number', value }
  }
  if (name === 'if' || name === 'choose') {
    if (name === 'if' ? values.length !== 3 : values.length < 4 || values.length % 2) {
      fail(
        name === 'if'
          ? 'if(…) takes three things: if(test, then, otherwise).'
          : 'choose(…) takes a value, pairs of case and result, and an otherwise: choose(kind, "item", 1, 0).',
      )
    }
    const cases: { test: Typed; result: Typed }[] = []
    if (name === 'if') {
      const test = typed(0)
      if (test.type !== 'boolean') fail('The first part of if(…) must be a test, such as amount > 0.', values[0])
      cases.push({ test, result: typed(1) })
    } else {
      const value = typed(0)
      for (let i = 1; i + 1 < values.length; i += 2) {
        const each = typed(i)
        if (each.type !== value.type && each.type !== 'empty')
          fail(`This is ${typeWords[each.type]} and cannot be compared with ${typeWords[value.type]}.`, values[i])
        cases.push({
          test: { is: 'binary', type: 'boolean', operator: '=', left: settled(value, each.type), right: settled(each, value.type) },
          result: typed(i + 1),
        })
      }
    }
    const otherwise = typed(values.length - 1)
    const type =
      oneType([...cases.map(each => each.result), otherwise]) ??
      fail(`The results of ${name}(…) are of different kinds; make them all numbers, all texts or all dates.`)
    return {
      is: 'if',
      type,
      cases: cases.map(each => ({ test: each.test, result: settled(each.result, type) })),
      otherwise: settled(otherwise, type),
    }
  }
  if (name === 'ifEmpty') {
    if (values.length !== 2) fail('ifEmpty(…) takes two things: ifEmpty(value, otherwise).')
    const [value, otherwise] = [typed(0), typed(1)]
    const type = oneType([value, otherwise]) ?? fail('Both parts of ifEmpty(…) must be of one kind.')
    return { is: 'ifEmpty', type, value: settled(value, type), otherwise: settled(otherwise, type) }
  }
  if (name === 'date' && values.length === 1) {
    const moment = typed(0)
    if (moment.type === 'date') return moment
    if (moment.type !== 'moment') fail(`date(…) of one thing needs a date with a time, but this is ${typeWords[moment.type]}.`, values[0])
    return dayOf(moment)
  }
  const known = Object.hasOwn(scalarFunctions, name) ? scalarFunctions[name] : undefined
  if (!known) return fail(`There is no function “${name}”${suggestion(name, functionNames)}.`)
  const least = known.takes.length - (known.optional ?? 0) - (known.many && known.takes.length > 2 ? 1 : 0)
  if (values.length < least || (!known.many && values.length > known.takes.length)) fail(`It is written ${known.usage}.`)
  const args = values.map((value, index) => {
    const wanted = known.takes[Math.min(index, known.takes.length - 1)]!
    const argument = asWanted(check(value, scope), wanted)
    if (argument.type !== wanted && argument.type !== 'empty')
      fail(`${known.usage} needs ${typeWords[wanted]} here, but this is ${typeWords[argument.type]}.`, value)
    return settled(argument, wanted)
  })
  // words are those of the document's language, unless the formula names another
  if (name === 'words' && args.length < 3) args.push({ is: 'constant', type: 'text', value: scope.language ?? 'en' })
  return { is: 'call', type: known.gives, name, arguments: args }
}

function oneType(parts: Typed[]): FormulaType | undefined {
  const types = new Set(parts.map(part => part.type).filter(type => type !== 'empty'))
  return types.size > 1 ? undefined : ([...types][0] ?? 'empty')
}

function checkTotal(node: Expression & { is: 'call' }, scope: Scope): Typed {
  const { name } = node
  const fail = (message: string, at: { from: number; to: number } = { from: node.from, to: node.nameTo }): never => {
    throw new FormulaError(message, at.from, at.to)
  }
  if (scope.filter) fail(`${name}(…) adds up many records and cannot stand in a filter; add a child total and use it here, or ask has(…).`)
  if (scope.level < 0) fail(`${name}(…) adds up many records and cannot stand here.`)
  const plain = node.arguments.filter(argument => !argument.name)
  if (scope.measure && ['median', 'mode', 'largest', 'smallest', 'listed'].includes(name))
    fail(`${name}(…) cannot stand in a summary; use it on the page.`)
  const ranked = name === 'largest' || name === 'smallest'
  if (plain.length !== (ranked ? 2 : 1)) fail(`It is written ${totalFunctions[name]!.usage}.`)
  const argument = plain[0]!.value
  const place = ranked ? parsedCount(plain[1]!.value) : undefined
  if (ranked && place === undefined) fail(`${name}(…) takes a whole number from 1 as its second part: ${name}(amount, 2).`, plain[1]!.value)
  // the total's own level is the deepest among its fields; inside it, fields are looked up from there
  const names = pathsOf(argument).fields
  const direct = argument.is === 'path' ? (findField(scope, argument.names) ? undefined : findLevel(scope, argument.names)) : undefined
  let level = direct?.index ?? -1
  for (const path of names) {
    const found = findField(scope, path.names)
    if (!found) continue
    if (level < 0 || isWithin(scope.levels, found.level, level)) level = found.level
    else if (!isWithin(scope.levels, level, found.level))
      fail(
        `${name}(…) mixes ${scope.levels[level]!.caption} and ${scope.levels[found.level]!.caption}, which are not under one ` +
          `another; total each by itself.`,
        path,
      )
  }
  if (level < 0) level = scope.level
  const inner: Scope = { ...scope, level, page: false, measures: undefined, groups: undefined, row: undefined }
  if (direct && name !== 'count') fail(`“${direct.name}” is a level; ${name}(…) needs one of its fields.`, argument)
  const value = direct ? undefined : check(argument, inner)
  if (value && (name === 'sum' || name === 'average' || name === 'median' || ranked) && value.type !== 'number')
    fail(`${name}(…) needs a number, but this is ${typeWords[value.type]}.`, argument)
  if (value && name === 'listed' && value.type !== 'text' && value.type !== 'empty')
    fail(`${name}(…) needs a text, but this is ${typeWords[value.type]}.`, argument)
  let where: Typed | undefined
  let over: Over | undefined
  for (const extra of node.arguments.filter(each => each.name)) {
    if (extra.name === 'where') {
      where = check(extra.value, inner)
      if (where.type !== 'boolean') fail('where: needs a test, such as kind = "item".', extra.value)
    } else if (extra.name === 'over') over = checkOver(extra.value, scope)
    else fail(`“${extra.name}:” is not known here; use where: or over:.`, extra.value)
  }
  const type: FormulaType = name === 'count' || name === 'distinct' ? 'number' : value!.type
  if (value?.is === 'field' && (name === 'sum' || name === 'average')) {
    const { format } = value.field
    const more = { ...(where ? { where } : {}), ...(over === undefined ? {} : { over }) }
    const ratio = ratioOf(value, partTotal(scope.levels, value.level, more))
    if (ratio) return ratio
    if (format?.includes('%'))
      fail(`“${value.path}” is a percentage, and percentages do not add up; total what it is made from and divide.`, argument)
  }
  return { is: 'total', type, name, level, value, where, over, ...(place === undefined ? {} : { count: place }) }
}

function parsedCount(node: Expression): number | undefined {
  return node.is === 'number' && node.value.scale === 0 && typeof node.value.units === 'number' && node.value.units >= 1
    ? node.value.units
    : undefined
}

/** What `over:` names: a group of the table, the table, the report, or a level that the row stands in. */
function checkOver(node: Expression, scope: Scope): Over {
  const word = node.is === 'path' ? node.names.join('.') : ''
  const group = scope.groups?.indexOf(word) ?? -1
  if (group >= 0) {
    if (scope.row !== 'line' && scope.row !== undefined && scope.row < group)
      throw new FormulaError(`The group “${word}” lies inside this row; over: widens to a group around it.`, node.from, node.to)
    return { group }
  }
  if (word === 'report' || (word === 'table' && scope.groups)) return word
  const named = scope.levels.find(each => each.name === word && isWithin(scope.levels, scope.level, each.index))
  if (!named)
    throw new FormulaError(
      `over: takes report, ${scope.groups ? 'table, the name of a group of this table, ' : ''}or the name of a level that this row ` +
        `stands in.`,
      node.from,
      node.to,
    )
  return named.index
}

/** `has(lines, kind = "service")`: the test speaks of one record of the level below. */
function checkHas(node: Expression & { is: 'call' }, scope: Scope): Typed {
  const fail = (message: string, at: { from: number; to: number } = { from: node.from, to: node.nameTo }): never => {
    throw new FormulaError(message, at.from, at.to)
  }
  const [first, second] = node.arguments.map(argument => argument.value)
  if (node.arguments.length < 1 || node.arguments.length > 2 || node.arguments.some(argument => argument.name))
    fail(`It is written ${totalFunctions.has!.usage}.`)
  const level = first!.is === 'path' && scope.level >= 0 ? findLevel(scope, first!.names) : undefined
  if (!level || level.index === scope.level || !isWithin(scope.levels, level.index, scope.level))
    return fail('has(…) starts with the name of a level below this one, such as has(lines, amount > 100).', first ?? node)
  if (!second) return { is: 'has', type: 'boolean', level: level.index, standing: scope.level }
  const where = check(second, { ...scope, level: level.index, page: false })
  if (where.type !== 'boolean') fail('The second part of has(…) must be a test, such as amount > 100.', second)
  return { is: 'has', type: 'boolean', level: level.index, standing: scope.level, where }
}

/** Functions that always give a whole number. */
/** What can be called, for a suggestion of what was meant. */
const functionNames = [
  ...Object.keys(scalarFunctions),
  ...Object.keys(totalFunctions),
  ...Object.keys(periodFunctions),
  'if',
  'choose',
  'ifEmpty',
  'today',
]
