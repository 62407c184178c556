import type { FieldInfo } from '../dataset/levels'
import type { Value, ValueType } from '../dataset/records'
import { checkFormula, type Scope, somePart, type Typed } from '../formula/check'
import type { Evaluate, Standing } from '../formula/evaluate'
import { plainText } from '../formula/functions'
import { FormulaError } from '../formula/syntax'
import { dayText } from '../value/date'
import { dateFormat } from '../value/dateFormat'
import type { Decimal } from '../value/decimal'
import { numberFormat, PatternError } from '../value/numberFormat'

/** A stretch of a text with values in it. */
export type TextPart = { literal: string } | { formula: string, pattern?: string, from: number, formulaFrom: number, to: number }

/** Cuts "Aged as of {{ param.asOf | d MMMM y }}" into its parts; `from` and `to` are offsets in the text. */
export function textParts(text: string): TextPart[] {
  const parts: TextPart[] = []
  let at = 0
  for (const match of text.matchAll(/\{\{((?:"(?:[^"\\]|\\.)*"|`[^`]*`|(?!\}\}).)*)\}\}/gs)) {
    if (match.index > at) parts.push({ literal: text.slice(at, match.index) })
    const inner = match[1]!
    const bar = /^((?:"(?:[^"\\]|\\.)*"|`[^`]*`|[^"`|])*)\|(.*)$/s.exec(inner)
    const formula = bar ? bar[1]! : inner
    parts.push({
      formula: formula.trim(), ...(bar ? { pattern: bar[2]!.trim() } : {}),
      from: match.index, formulaFrom: match.index + 2 + formula.length - formula.trimStart().length, to: match.index + match[0].length,
    })
    at = match.index + match[0].length
  }
  if (at < text.length) parts.push({ literal: text.slice(at) })
  return parts
}

/** A text that is one value and nothing else, as most cells are: its formula and pattern. */
export function singleValue(text: string): { formula: string, pattern?: string } | undefined {
  const parts = textParts(text.trim())
  const part = parts[0]
  return parts.length === 1 && part && 'formula' in part ? part : undefined
}

/** A text checked at its place: its formulas with types and the way each value is printed. */
export interface CheckedText {
  lines: CheckedPart[][]
  /** it holds page words, known only when the pages are made */
  late: boolean
  formulas: Typed[]
}
type CheckedPart = { literal: string } | { typed: Typed, print: (value: Value) => string }

/**
 * Checks a text with values in it.
 * @throws FormulaError with offsets in the whole text
 */
export function checkText(text: string, scope: Scope, language: string): CheckedText {
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
      lines.at(-1)!.push({ typed, print: printer(typed, part.pattern, language) })
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
    case 'field': return typed.field
    case 'negative': case 'carried': return formatField(typed.value)
    case 'ifEmpty': return formatField(typed.value)
    case 'if': return formatField(typed.cases[0]!.result) ?? formatField(typed.otherwise)
    case 'total': return typed.value && typed.name !== 'count' && typed.name !== 'distinct' ? formatField(typed.value) : undefined
    case 'binary': return typed.operator === '+' || typed.operator === '-' ? formatField(typed.left) ?? formatField(typed.right) : undefined
    default: return undefined
  }
}

/** Pattern of a field that has none of its own. */
export function defaultPattern(type: ValueType | 'empty', field?: FieldInfo): string | undefined {
  if (type === 'date') return 'd MMM y'
  if (type !== 'number') return undefined
  if (!field) return '#,##0.##'
  if (field.role === 'key' || field.role === 'other') return '0.######'
  return field.scale === undefined ? '#,##0.##' : field.scale > 2 ? `#,##0.00${'#'.repeat(field.scale - 2)}` : `#,##0${field.scale ? `.${'0'.repeat(field.scale)}` : ''}`
}

function printer(typed: Typed, pattern: string | undefined, language: string): (value: Value) => string {
  const field = formatField(typed)
  const chosen = pattern ?? (field && field.type === typed.type ? field.format : undefined) ?? defaultPattern(typed.type, field)
  if (chosen && typed.type === 'number') {
    const print = numberFormat(chosen, language)
    return value => value === null ? '' : print(value as Decimal)
  }
  if (chosen && typed.type === 'date') {
    const print = dateFormat(chosen, language)
    return value => value === null ? '' : print(value as number)
  }
  return value => plainText(value, dayText)
}

/** The text at a row. A line whose values are all empty is left out. */
export type PrintText = (at: Standing) => string

export function compileText(checked: CheckedText, compile: (typed: Typed) => Evaluate): PrintText {
  const lines = checked.lines.map((parts) => {
    const prepared = parts.map(part => 'literal' in part ? part : { evaluate: compile(part.typed), print: part.print })
    const only = prepared[0]
    if (prepared.length === 1 && only && 'evaluate' in only) return { print: (at: Standing) => only.print(only.evaluate(at)), droppable: true }
    return {
      droppable: false,
      print: (at: Standing): string | undefined => {
        let text = ''
        let values = 0
        let empty = 0
        for (const part of prepared) {
          if ('literal' in part) text += part.literal
          else {
            const printed = part.print(part.evaluate(at))
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
  return at => lines.map(line => line.print(at)).filter((text, index) => text !== undefined && !(text === '' && lines[index]!.droppable)).join('\n')
}
