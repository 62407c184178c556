import type { SyntaxNode } from '@lezer/common'
import { type Decimal, parseDecimal } from '../value/decimal'
import { parser } from './parser.js'

/** A formula that cannot be read or has no meaning here: one sentence, and the stretch of text it speaks of. */
export class FormulaError extends Error {
  constructor(
    message: string,
    readonly from: number,
    readonly to: number,
  ) {
    super(message)
  }
}

export type Operator = '+' | '-' | '*' | '/' | '&' | '=' | '!=' | '<' | '<=' | '>' | '>=' | 'and' | 'or'

interface Place {
  from: number
  to: number
}
/** A formula as written; `from` and `to` are offsets in its text. */
export type Expression = Place &
  (
    | { is: 'number'; value: Decimal }
    | { is: 'text'; value: string }
    | { is: 'boolean'; value: boolean }
    | { is: 'empty' }
    | { is: 'path'; names: string[] }
    | { is: 'call'; name: string; nameTo: number; arguments: { name?: string; value: Expression }[] }
    | { is: 'binary'; operator: Operator; left: Expression; right: Expression }
    | { is: 'negative' | 'not'; value: Expression }
    | { is: 'in'; value: Expression; list: Expression[]; not: boolean }
    | { is: 'between'; value: Expression; low: Expression; high: Expression }
  )

/** Letters that a formula may have, and how deep its parts may lie in one another: what a person writes has far less. */
const [mostLetters, mostDeep] = [20_000, 300]

/**
 * Reads a formula.
 * @throws FormulaError where the text does not follow the grammar
 */
export function parseFormula(text: string): Expression {
  if (text.trim() === '') throw new FormulaError('The formula is empty; write a field, a value or a function.', 0, text.length)
  if (text.length > mostLetters)
    throw new FormulaError(
      `The formula has more than ${mostLetters.toLocaleString('en')} letters; cut it into calculated fields.`,
      0,
      text.length,
    )
  const tree = parser.parse(text)
  let fault: SyntaxNode | undefined
  let [depth, deepest] = [0, 0]
  tree.iterate({
    enter: node => {
      deepest = Math.max(deepest, ++depth)
      if (node.type.isError && !fault) fault = node.node
    },
    leave: () => void depth--,
  })
  if (fault) throw describeFault(text, fault)
  if (deepest > mostDeep)
    throw new FormulaError(`The formula lies more than ${mostDeep} deep in itself; cut it into calculated fields.`, 0, text.length)
  return read(children(tree.topNode)[0]!, text)
}

function describeFault(text: string, fault: SyntaxNode): FormulaError {
  const rest = text.slice(fault.from).trimStart()
  const from = text.length - rest.length
  if (rest === '') {
    const open = (text.match(/\(/g)?.length ?? 0) - (text.match(/\)/g)?.length ?? 0)
    return open > 0
      ? new FormulaError('A closing parenthesis is missing at the end.', text.length, text.length)
      : new FormulaError('The formula stops too early; something must follow its end.', text.length, text.length)
  }
  if (rest.startsWith('"')) return new FormulaError('A text is not closed; put a " after it.', from, text.length)
  const word = /^([\p{L}_][\p{L}\p{N}_]*|\d+(?:\.\d+)?|.)/u.exec(rest)![0]
  return new FormulaError(`“${word}” was not expected at position ${from + 1}.`, from, from + word.length)
}

function children(node: SyntaxNode): SyntaxNode[] {
  const found: SyntaxNode[] = []
  for (let child = node.firstChild; child; child = child.nextSibling) if (/^[A-Z]/.test(child.name)) found.push(child)
  return found
}

function read(node: SyntaxNode, text: string): Expression {
  const place = { from: node.from, to: node.to }
  const source = text.slice(node.from, node.to)
  const parts = children(node)
  const part = (index: number) => read(parts[index]!, text)
  switch (node.name) {
    case 'Number':
      return { ...place, is: 'number', value: parseDecimal(source)! }
    case 'String':
      return { ...place, is: 'text', value: source.slice(1, -1).replace(/\\(.)/gs, (_, char: string) => (char === 'n' ? '\n' : char)) }
    case 'True':
      return { ...place, is: 'boolean', value: true }
    case 'False':
      return { ...place, is: 'boolean', value: false }
    case 'Empty':
      return { ...place, is: 'empty' }
    case 'Path':
      return { ...place, is: 'path', names: parts.map(name => text.slice(name.from, name.to).replace(/^`|`$/g, '')) }
    case 'Negative':
      return { ...place, is: 'negative', value: part(0) }
    case 'Not':
      return { ...place, is: 'not', value: part(0) }
    case 'In':
    case 'NotIn':
      return { ...place, is: 'in', value: part(0), list: parts.slice(1).map(item => read(item, text)), not: node.name === 'NotIn' }
    case 'Between':
      return { ...place, is: 'between', value: part(0), low: part(1), high: part(2) }
    case 'Call':
      return {
        ...place,
        is: 'call',
        name: text.slice(parts[0]!.from, parts[0]!.to),
        nameTo: parts[0]!.to,
        arguments: parts.slice(1).map(argument => {
          const inner = children(argument)
          return inner[0]!.name === 'ArgumentName'
            ? { name: text.slice(inner[0]!.from, inner[0]!.to), value: read(inner[1]!, text) }
            : { value: read(inner[0]!, text) }
        }),
      }
    case 'Sum':
    case 'Product':
    case 'Compare':
      return { ...place, is: 'binary', operator: text.slice(parts[1]!.from, parts[1]!.to) as Operator, left: part(0), right: part(2) }
    case 'Join':
      return { ...place, is: 'binary', operator: '&', left: part(0), right: part(1) }
    case 'And':
      return { ...place, is: 'binary', operator: 'and', left: part(0), right: part(1) }
    case 'Or':
      return { ...place, is: 'binary', operator: 'or', left: part(0), right: part(1) }
    default:
      throw new FormulaError(`“${source}” cannot be read.`, node.from, node.to)
  }
}

/** Can a name stand in a formula as it is? */
export const isPlainName = (name: string): boolean => /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name)

/** A path as a formula writes it, with back quotes around names that need them. */
export function pathText(path: string): string {
  return path
    .split('.')
    .map(name => (isPlainName(name) ? name : `\`${name}\``))
    .join('.')
}

/** All paths that a formula names, and the functions it calls. */
export function pathsOf(node: Expression): { fields: (Expression & { is: 'path' })[]; calls: string[] } {
  const fields: (Expression & { is: 'path' })[] = []
  const calls: string[] = []
  const visit = (each: Expression): void => {
    switch (each.is) {
      case 'path':
        fields.push(each)
        break
      case 'call':
        calls.push(each.name)
        each.arguments.forEach(argument => visit(argument.value))
        break
      case 'binary':
        visit(each.left)
        visit(each.right)
        break
      case 'negative':
      case 'not':
        visit(each.value)
        break
      case 'in':
        ;[each.value, ...each.list].forEach(visit)
        break
      case 'between':
        ;[each.value, each.low, each.high].forEach(visit)
    }
  }
  visit(node)
  return { fields, calls }
}
