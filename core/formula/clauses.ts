import { type Expression, FormulaError, parseFormula, pathText } from './syntax'
import type { ParameterKind } from '../definition/parameters'
import { dateParts, type Day, dayOf } from '../value/date'
import { type Decimal, decimalText, negate, toNumber } from '../value/decimal'
import type { ValueType } from '../value/value'

/** What a clause is compared with. A formula covers another field too. */
export type ClauseValue =
  | { is: 'constant'; type: ValueType; value: Decimal | string | Day | boolean }
  | { is: 'parameter'; name: string }
  | { is: 'formula'; text: string }

export const clauseTests = [
  'equal',
  'notEqual',
  'oneOf',
  'notOneOf',
  'between',
  'atLeast',
  'atMost',
  'more',
  'less',
  'contains',
  'startsWith',
  'empty',
  'notEmpty',
  'within',
  'lastDays',
  'lastMonths',
] as const
export type ClauseTest = (typeof clauseTests)[number]

/**
 * A filter as people put it together. Its text is a formula, which is what a definition keeps; reading the text gives the clauses again,
 * and what is no clause stays a formula.
 */
export type FilterPart =
  | { is: 'clause'; field: string; test: ClauseTest; values: ClauseValue[] }
  | { is: 'group'; joined: 'and' | 'or'; not: boolean; parts: FilterPart[] }
  /** records of a level below: is there one, or none, with all of this? */
  | { is: 'has'; level: string; not: boolean; part?: FilterPart }
  | { is: 'formula'; text: string }

/** In words, as the clause reads on screen. */
export const testWords: Record<ClauseTest, string> = {
  equal: 'is',
  notEqual: 'is not',
  oneOf: 'is one of',
  notOneOf: 'is none of',
  between: 'is between',
  atLeast: 'is at least',
  atMost: 'is at most',
  more: 'is more than',
  less: 'is less than',
  contains: 'contains',
  startsWith: 'starts with',
  empty: 'is empty',
  notEmpty: 'is not empty',
  within: 'is in',
  lastDays: 'is in the last days',
  lastMonths: 'is in the last months',
}

/** What a clause compares a field with: a date with a time is asked about by its day. */
export const clauseType = (type: ValueType): ValueType => (type === 'moment' ? 'date' : type)

/** Tests that make sense for a type of field. */
export function testsFor(type: ValueType): ClauseTest[] {
  switch (type) {
    case 'text':
      return [
        'equal',
        'notEqual',
        'oneOf',
        'notOneOf',
        'contains',
        'startsWith',
        'empty',
        'notEmpty',
        'between',
        'atLeast',
        'atMost',
        'more',
        'less',
      ]
    case 'number':
      return ['equal', 'notEqual', 'oneOf', 'notOneOf', 'between', 'atLeast', 'atMost', 'more', 'less', 'empty', 'notEmpty']
    case 'moment':
    case 'date':
      return ['within', 'between', 'equal', 'notEqual', 'atLeast', 'atMost', 'more', 'less', 'lastDays', 'lastMonths', 'empty', 'notEmpty']
    case 'boolean':
      return ['equal', 'notEqual', 'empty', 'notEmpty']
  }
}

const operators: Partial<Record<ClauseTest, string>> = { equal: '=', notEqual: '!=', atLeast: '>=', atMost: '<=', more: '>', less: '<' }

/** A constant as a formula writes it. */
export function constantText(value: ClauseValue & { is: 'constant' }): string {
  const { value: held } = value
  if (value.type === 'date') {
    const { year, month, day } = dateParts(held as Day)
    return `date(${year}, ${month}, ${day})`
  }
  if (typeof held === 'boolean') return String(held)
  if (typeof held === 'string') return `"${held.replace(/["\\]/g, '\\$&').replaceAll('\n', '\\n')}"`
  return decimalText(held as Decimal)
}

function valueText(value: ClauseValue): string {
  switch (value.is) {
    case 'constant':
      return constantText(value)
    case 'parameter':
      return `param.${value.name}`
    case 'formula':
      return `(${value.text})`
  }
}

/** The filter as a formula. `kinds` tells what each parameter holds, since being in a month differs from being in a range. */
export function filterText(part: FilterPart, kinds: Readonly<Record<string, ParameterKind>>): string {
  switch (part.is) {
    case 'formula':
      return part.text
    case 'has': {
      const test = part.part && !isEmptyGroup(part.part) ? `, ${filterText(part.part, kinds)}` : ''
      return `${part.not ? 'not ' : ''}has(${part.level}${test})`
    }
    case 'group': {
      const inner = part.parts
        .filter(each => !isEmptyGroup(each))
        .map(each => {
          const text = filterText(each, kinds)
          return each.is === 'group' && !each.not ? `(${text})` : each.is === 'formula' ? `(${text})` : text
        })
      const text = inner.length ? inner.join(` ${part.joined} `) : 'true'
      return part.not ? `not (${text})` : text
    }
    case 'clause':
      return clauseText(part, kinds)
  }
}

const isEmptyGroup = (part: FilterPart): boolean => part.is === 'group' && part.parts.every(isEmptyGroup) && !part.not

function clauseText(clause: FilterPart & { is: 'clause' }, kinds: Readonly<Record<string, ParameterKind>>): string {
  const field = pathText(clause.field)
  const [first, second] = clause.values
  const values = clause.values.map(valueText)
  switch (clause.test) {
    case 'oneOf':
      return `${field} in (${values.join(', ')})`
    case 'notOneOf':
      return `${field} not in (${values.join(', ')})`
    case 'between':
      return `${field} between ${values[0]} and ${values[1]}`
    case 'contains':
    case 'startsWith':
      return `${clause.test}(${field}, ${values[0]})`
    case 'empty':
      return `${field} = empty`
    case 'notEmpty':
      return `${field} != empty`
    case 'lastDays':
      return `${field} between addDays(today(), ${1 - countOf(first)}) and today()`
    case 'lastMonths':
      return `${field} between addDays(addMonths(today(), ${-countOf(first)}), 1) and today()`
    case 'within': {
      if (first?.is !== 'parameter') return `${field} between ${values[0]} and ${values[1] ?? values[0]}`
      switch (kinds[first.name]) {
        case 'month':
          return `${field} between param.${first.name} and monthEnd(param.${first.name})`
        case 'period':
          return `${field} between periodStart(param.${first.name}) and periodEnd(param.${first.name})`
        case 'dates':
          return `${field} between param.${first.name}.from and param.${first.name}.to`
        default:
          return `${field} = param.${first.name}`
      }
    }
    default:
      return `${field} ${operators[clause.test]} ${values[0] ?? valueText(second ?? { is: 'formula', text: 'empty' })}`
  }
}

const countOf = (value: ClauseValue | undefined): number =>
  value?.is === 'constant' && typeof value.value === 'object' ? Math.max(1, Math.round(toNumber(value.value))) : 1

/** A formula as clauses, as far as it is made of such. A text that cannot be read is a formula as it stands. */
export function readFilter(text: string): FilterPart {
  try {
    return read(parseFormula(text), text)
  } catch (error) {
    if (error instanceof FormulaError) return { is: 'formula', text }
    throw error
  }
}

function read(node: Expression, text: string): FilterPart {
  const slice = (part: Expression) => text.slice(part.from, part.to)
  const asFormula: FilterPart = { is: 'formula', text: slice(node) }
  const value = (part: Expression): ClauseValue => readValue(part, slice(part))
  const path = (part: Expression): string | undefined =>
    part.is === 'path' && part.names[0] !== 'param' ? part.names.join('.') : undefined
  switch (node.is) {
    case 'boolean':
      return node.value ? { is: 'group', joined: 'and', not: false, parts: [] } : asFormula
    case 'binary': {
      if (node.operator === 'and' || node.operator === 'or') {
        const { operator } = node
        // parentheses around a side make a group of its own
        const flat = (part: Expression): FilterPart[] =>
          part.is === 'binary' && part.operator === operator && !enclosed(part, text)
            ? [...flat(part.left), ...flat(part.right)]
            : [read(part, text)]
        return { is: 'group', joined: operator, not: false, parts: [...flat(node.left), ...flat(node.right)] }
      }
      const field = path(node.left)
      if (!field) return asFormula
      if (node.right.is === 'empty')
        return node.operator === '='
          ? { is: 'clause', field, test: 'empty', values: [] }
          : node.operator === '!='
            ? { is: 'clause', field, test: 'notEmpty', values: [] }
            : asFormula
      const test = (Object.keys(operators) as ClauseTest[]).find(each => operators[each] === node.operator)
      return test ? { is: 'clause', field, test, values: [value(node.right)] } : asFormula
    }
    case 'not': {
      const inner = read(node.value, text)
      if (inner.is === 'has') return { ...inner, not: !inner.not }
      return {
        is: 'group',
        joined: inner.is === 'group' && !inner.not ? inner.joined : 'and',
        not: true,
        parts: inner.is === 'group' && !inner.not ? inner.parts : [inner],
      }
    }
    case 'in': {
      const field = path(node.value)
      return field ? { is: 'clause', field, test: node.not ? 'notOneOf' : 'oneOf', values: node.list.map(value) } : asFormula
    }
    case 'between': {
      const field = path(node.value)
      return field ? readBetween(field, node.low, node.high, slice, value) : asFormula
    }
    case 'call': {
      const parts = node.arguments.map(argument => argument.value)
      if ((node.name === 'contains' || node.name === 'startsWith') && parts.length === 2) {
        const field = path(parts[0]!)
        return field ? { is: 'clause', field, test: node.name, values: [value(parts[1]!)] } : asFormula
      }
      const level = parts[0] && path(parts[0])
      if (node.name === 'has' && level && parts.length <= 2)
        return { is: 'has', level, not: false, ...(parts[1] ? { part: read(parts[1], text) } : {}) }
      return asFormula
    }
    default:
      return asFormula
  }
}

/** Does the text have a parenthesis right before and after a part? */
function enclosed(part: Expression, text: string): boolean {
  return /\(\s*$/.test(text.slice(0, part.from)) && /^\s*\)/.test(text.slice(part.to))
}

function readBetween(
  field: string,
  low: Expression,
  high: Expression,
  slice: (part: Expression) => string,
  value: (part: Expression) => ClauseValue,
): FilterPart {
  const [a, b] = [slice(low).replace(/\s/g, ''), slice(high).replace(/\s/g, '')]
  const number = (text: string): ClauseValue => ({ is: 'constant', type: 'number', value: { units: Number(text), scale: 0 } })
  if (b === 'today()') {
    const days = /^addDays\(today\(\),(-?\d+)\)$/.exec(a)
    if (days && Number(days[1]) <= 0) return { is: 'clause', field, test: 'lastDays', values: [number(String(1 - Number(days[1])))] }
    const months = /^addDays\(addMonths\(today\(\),-(\d+)\),1\)$/.exec(a)
    if (months) return { is: 'clause', field, test: 'lastMonths', values: [number(months[1]!)] }
  }
  for (const [from, to] of [
    [/^param\.(\w+)$/u, (name: string) => `monthEnd(param.${name})`],
    [/^periodStart\(param\.(\w+)\)$/u, (name: string) => `periodEnd(param.${name})`],
    [/^param\.(\w+)\.from$/u, (name: string) => `param.${name}.to`],
  ] as [RegExp, (name: string) => string][]) {
    const name = from.exec(a)?.[1]
    if (name && b === to(name)) return { is: 'clause', field, test: 'within', values: [{ is: 'parameter', name }] }
  }
  return { is: 'clause', field, test: 'between', values: [value(low), value(high)] }
}

function readValue(part: Expression, text: string): ClauseValue {
  switch (part.is) {
    case 'number':
      return { is: 'constant', type: 'number', value: part.value }
    case 'text':
      return { is: 'constant', type: 'text', value: part.value }
    case 'boolean':
      return { is: 'constant', type: 'boolean', value: part.value }
    case 'negative':
      return part.value.is === 'number' ? { is: 'constant', type: 'number', value: negate(part.value.value) } : { is: 'formula', text }
    case 'path':
      return part.names[0] === 'param' && part.names.length === 2 ? { is: 'parameter', name: part.names[1]! } : { is: 'formula', text }
    case 'call': {
      const numbers =
        part.name === 'date' ? part.arguments.map(argument => (argument.value.is === 'number' ? toNumber(argument.value.value) : NaN)) : []
      return numbers.length === 3 &&
        numbers.every(Number.isInteger) &&
        numbers[1]! >= 1 &&
        numbers[1]! <= 12 &&
        numbers[2]! >= 1 &&
        numbers[2]! <= 31
        ? { is: 'constant', type: 'date', value: dayOf(numbers[0]!, numbers[1]!, numbers[2]!) }
        : { is: 'formula', text }
    }
    default:
      return { is: 'formula', text }
  }
}

/** A filter in words, for a chip: “Invoice date is in October 2026”; `say` says the words of ours in another language. */
export function filterWords(
  part: FilterPart,
  captionOf: (field: string) => string,
  words: (value: ClauseValue, field: string) => string,
  say: (ours: string) => string = ours => ours,
): string {
  const inner = (each: FilterPart) => {
    const text = filterWords(each, captionOf, words, say)
    return each.is === 'group' && each.parts.length > 1 ? `(${text})` : text
  }
  switch (part.is) {
    case 'formula':
      return part.text
    case 'group': {
      const all = part.parts.map(inner).join(` ${say(part.joined)} `) || say('everything')
      return `${part.not ? `${say('not')} ` : ''}${part.not && part.parts.length > 1 ? `(${all})` : all}`
    }
    case 'has': {
      const where = part.part ? ` ${say('where')} ${inner(part.part)}` : ''
      return `${say(part.not ? 'has no record of' : 'has a record of')} ${captionOf(part.level)}${where}`
    }
    case 'clause': {
      const values = part.values.map(value => words(value, part.field))
      const caption = captionOf(part.field)
      switch (part.test) {
        case 'lastDays':
          return `${caption} ${say('is in the last')} ${values[0]} ${say(values[0] === '1' ? 'day' : 'days')}`
        case 'lastMonths':
          return `${caption} ${say('is in the last')} ${values[0]} ${say(values[0] === '1' ? 'month' : 'months')}`
        case 'between':
          return `${caption} ${say('is between')} ${values[0]} ${say('and')} ${values[1]}`
        default:
          return [caption, say(testWords[part.test]), values.join(', ')].filter(Boolean).join(' ')
      }
    }
  }
}

/** A clause on a level below as its parent says it: the parent has such a record, or has none. */
export const hasClause = (level: string, clause: string, not: boolean): string => `${not ? 'not ' : ''}has(${level}, ${clause})`
