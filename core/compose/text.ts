import type { Moment } from '../value/moment'
import type { FieldInfo, Scope, Typed } from '../formula/typed'
import type { Value, ValueType } from '../value/value'
import { checkFormula } from '../formula/check'
import { scaleOf } from '../formula/scale'
import { currencyOf, noCurrency } from '../formula/currency'
import { byCurrency, somePart } from '../formula/parts'
import type { Evaluate, Standing } from '../formula/standing'
import { plainText } from '../value/plain'
import { compareText } from '../value/text'
import { FormulaError } from '../formula/syntax'
import { dayText } from '../value/date'
import { dateFormat, momentFormat } from '../value/dateFormat'
import type { Decimal } from '../value/decimal'
import { numberFormat, PatternError } from '../value/numberFormat'
import { textParts } from '../value/textParts'

/** A text checked at its place: its formulas with types and the way each value is printed. */
export interface CheckedText {
  lines: CheckedPart[][]
  /** it holds page words, known only when the pages are made */
  late: boolean
  formulas: Typed[]
  /** the same in another language: its marks and month names, and the texts that have a translation */
  inLanguage?: (language: string) => CheckedText
}

export interface CheckedValue {
  typed: Typed
  pattern?: string
  print: (value: Value) => string
}

export type CheckedPart = { literal: string } | CheckedValue
export type Translations = Readonly<Record<string, Readonly<Record<string, string>>>>

/**
 * Checks a text with values in it.
 * @throws FormulaError with offsets in the whole text
 */
export function checkText(text: string, scope: Scope, language: string, translations: Translations = {}): CheckedText {
  const checked = checkPlain(text, { ...scope, language }, language)
  checked.inLanguage = other =>
    other === language ? checked : checkPlain(translated(text, other, translations), { ...scope, language: other }, other)
  return checked
}

/** A text in another language; "pt" serves "pt-PT" too. Without a translation it stays as it is. */
function translated(text: string, language: string, translations: Translations): string {
  return translations[language]?.[text] ?? translations[language.split('-')[0]!]?.[text] ?? text
}

function checkPlain(text: string, scope: Scope, language: string): CheckedText {
  const lines: CheckedPart[][] = [[]]
  const formulas: Typed[] = []
  for (const part of textParts(text)) {
    if ('literal' in part) {
      part.literal.split('\n').forEach((literal, index) => {
        if (index) lines.push([])
        if (literal) lines.at(-1)!.push({ literal })
      })
      continue
    }
    try {
      const typed = checkFormula(labelled(part.formula, scope), scope)
      formulas.push(typed)
      lines.at(-1)!.push({ typed, print: printer(typed, part.pattern, language), ...(part.pattern ? { pattern: part.pattern } : {}) })
    } catch (error) {
      if (error instanceof FormulaError) throw new FormulaError(error.message, part.formulaFrom + error.from, part.formulaFrom + error.to)
      if (error instanceof PatternError) throw new FormulaError(error.message, part.from, part.to)
      throw error
    }
  }
  return { lines, formulas, late: formulas.some(typed => somePart(typed, part => part.is === 'page')) }
}

/** In a text, a choice or period stands as people call it: `{{ param.customers }}` prints the names. */
function labelled(formula: string, scope: Scope): string {
  const name = /^param\.([\p{L}_][\p{L}\p{N}_]*)$/u.exec(formula)?.[1]
  return name && scope.parameters[`${name}.label`] ? `${formula}.label` : formula
}

/** The field whose format a formula takes on: the field itself, a total of it, its opposite, or what stands for it when empty. */
export function formatField(typed: Typed): FieldInfo | undefined {
  switch (typed.is) {
    case 'field':
      return typed.field
    case 'negative':
    case 'carried':
    case 'running':
      return formatField(typed.value)
    case 'ifEmpty':
      return formatField(typed.value)
    case 'if':
      return formatField(typed.cases[0]!.result) ?? formatField(typed.otherwise)
    case 'total':
      return typed.value && typed.name !== 'count' && typed.name !== 'distinct' ? formatField(typed.value) : undefined
    case 'binary':
      return typed.operator === '+' || typed.operator === '-' ? (formatField(typed.left) ?? formatField(typed.right)) : undefined
    default:
      return undefined
  }
}

/** Pattern of a field that has none of its own. */
export function defaultPattern(type: ValueType | 'empty', field?: FieldInfo): string | undefined {
  if (type === 'date') return 'd MMM y'
  if (type === 'moment') return 'd MMM y HH:mm'
  if (type !== 'number') return undefined
  if (!field) return '#,##0.##'
  if (field.role === 'key' || field.role === 'other') return field.scale === 0 ? '0' : '0.######'
  return figurePattern(field.scale, !field.formula || saysFigures(field.formula))
}

/** How a figure is printed that has so many decimals; where nobody can say how many, amounts have two. */
const figurePattern = (scale: number | undefined, figures: boolean): string =>
  scale === undefined
    ? figures
      ? '#,##0.00'
      : '#,##0.##'
    : scale > 2
      ? `#,##0.00${'#'.repeat(scale - 2)}`
      : `#,##0${scale ? `.${'0'.repeat(scale)}` : ''}`
const saysFigures = (typed: Typed): boolean =>
  somePart(typed, part => part.is === 'field' && part.field.type === 'number' && part.field.role === 'measure')

/** The pattern that a value is printed with: its own, that of the field it follows, or the usual one. */
export function patternOf(typed: Typed, pattern?: string): string | undefined {
  if (pattern) return pattern
  if (typed.is === 'binary' && typed.share) return '0.0 %'
  if (typed.is === 'call' && typed.name === 'year') return '0'
  const field = formatField(typed)
  const own = field && field.type === typed.type ? field.format : undefined
  return own ?? (typed.type === 'number' && !field ? figurePattern(scaleOf(typed), saysFigures(typed)) : defaultPattern(typed.type, field))
}

function printer(typed: Typed, pattern: string | undefined, language: string): (value: Value) => string {
  const chosen = patternOf(typed, pattern)
  if (chosen && typed.type === 'number') {
    const print = numberFormat(chosen, language)
    return value => (value === null ? '' : print(value as Decimal))
  }
  if (chosen && typed.type === 'date') {
    const print = dateFormat(chosen, language)
    return value => (value === null ? '' : print(value as number))
  }
  if (chosen && typed.type === 'moment') {
    const print = momentFormat(chosen, language)
    return value => (value === null ? '' : print(value as Moment))
  }
  return value => plainText(value, dayText)
}

/** The text at a row. A line whose values are all empty is left out. */
export type PrintText = (at: Standing) => string

export function compileText(checked: CheckedText, compile: (typed: Typed) => Evaluate): PrintText {
  const lines = checked.lines.map(parts => {
    const prepared = parts.map(part => ('literal' in part ? part : { text: printedPart(part, compile) }))
    const only = prepared[0]
    if (prepared.length === 1 && only && 'text' in only) return { print: only.text, droppable: true }
    return {
      droppable: false,
      print: (at: Standing): string | undefined => {
        let text = ''
        let values = 0
        let empty = 0
        for (const part of prepared) {
          if ('literal' in part) text += part.literal
          else {
            const printed = part.text(at)
            values++
            if (printed === '') empty++
            text += printed
          }
        }
        return values && values === empty ? undefined : text
      },
    }
  })
  const first = lines[0]!
  if (lines.length === 1) return at => first.print(at) ?? ''
  return at =>
    lines
      .map(line => line.print(at))
      .filter((text, index) => text !== undefined && !(text === '' && lines[index]!.droppable))
      .join('\n')
}

/** What a part of a text prints at a row. */
export function compilePart(part: CheckedPart, compile: (typed: Typed) => Evaluate): PrintText {
  return 'literal' in part ? () => part.literal : printedPart(part, compile)
}

function printedPart(part: CheckedValue, compile: (typed: Typed) => Evaluate): PrintText {
  const { typed, print } = part
  const evaluate = compile(typed)
  if (typed.type !== 'number') return at => print(evaluate(at))
  const pattern = patternOf(typed, part.pattern) ?? ''
  const withSign = (text: string, currency: string) => text.replaceAll('¤¤', currency).replaceAll('¤', symbolOf(currency))
  const split = byCurrency(typed)
  if (!split) {
    const code = pattern.includes('¤') ? currencyOf(typed) : undefined
    const currency = code && compile(code)
    return at => withSign(print(evaluate(at)), currency ? told(currency(at)) : '')
  }
  // amounts of several currencies are never added up: one line for each (rule 13 of the semantics)
  const lists = split.lists.map(compile)
  const parts = new Map<string, Evaluate>()
  const of = (currency: string): Evaluate => {
    let found = parts.get(currency)
    if (!found) parts.set(currency, (found = compile(split.of(currency))))
    return found
  }
  return at => {
    const known = lists.flatMap(list => String(list(at) ?? '').split('\u0000')).filter(Boolean)
    const currencies = [...new Set(known)].sort(compareText)
    if (currencies.length < 2) return withSign(print(evaluate(at)), told(currencies[0] ?? ''))
    return currencies
      .map(currency => {
        const [text, code] = [print(of(currency)(at)), told(currency)]
        return pattern.includes('¤') || !code ? withSign(text, code) : `${text} ${code}`
      })
      .join('\n')
  }
}

/** A currency code as it is printed: nothing for amounts without one. */
const told = (code: Value): string => (code === noCurrency || code === null ? '' : String(code))

const symbols = new Map<string, string>()
/** The sign of a currency, such as € for EUR (CLDR); the code where it is not known. */
function symbolOf(code: string): string {
  let found = symbols.get(code)
  if (found === undefined) {
    try {
      found = new Intl.NumberFormat('en', { style: 'currency', currency: code, currencyDisplay: 'narrowSymbol' })
        .formatToParts(0)
        .find(part => part.type === 'currency')!.value
    } catch {
      found = code
    }
    symbols.set(code, found)
  }
  return found
}

/** A text of one value: its formula and pattern. */
export function onlyValue(lines: CheckedText['lines']): { typed: Typed; pattern?: string } | undefined {
  const part = lines[0]?.[0]
  return lines.length === 1 && lines[0]!.length === 1 && part && 'typed' in part ? part : undefined
}
