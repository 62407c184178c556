import type { Day } from '../value/date'
import { type Decimal, decimalText } from '../value/decimal'
import type { Value } from '../value/value'

/** What the terms of a record come to, by their ids; empty ones are left out. */
export type TermValues = ReadonlyMap<string, Value>

/** A value where a term wants another type, or a code that is none: one sentence. */
export class TermError extends Error {}

/** Reads the values of terms, each as the type that its term has. @throws TermError */
export class Told {
  constructor(
    private readonly values: TermValues,
    /** what a term is called in a sentence */
    private readonly nameOf: (id: string) => string,
    private readonly where = '',
  ) {}

  text(id: string): string | undefined {
    const value = this.values.get(id)
    if (value === null || value === undefined || value === '') return undefined
    // a number of a document or a line may be kept as one
    if (typeof value === 'object') return decimalText(value)
    if (typeof value === 'string') return value.trim() || undefined
    throw this.wrong(id, 'a text')
  }

  words(id: string): string {
    return this.text(id) ?? ''
  }

  code<T extends string = string>(id: string, allowed: RegExp, otherwise: T): T {
    const text = this.text(id)
    if (text === undefined) return otherwise
    if (!allowed.test(text)) throw new TermError(`${this.nameOf(id)} is “${text.slice(0, 40)}”, which is no code of it${this.where}.`)
    return text as T
  }

  /** A code that cannot be missing. @throws TermError */
  kind<T extends string>(id: string, allowed: RegExp): T {
    return this.code(id, allowed, '' as T) || this.empty(id)
  }

  day(id: string): Day | undefined {
    const value = this.values.get(id)
    if (value === null || value === undefined) return undefined
    if (typeof value === 'number') return value
    throw this.wrong(id, 'a date')
  }

  number(id: string): Decimal | undefined {
    const value = this.values.get(id)
    if (value === null || value === undefined) return undefined
    if (typeof value === 'object') return value
    throw this.wrong(id, 'a number')
  }

  /** A number that cannot be missing. @throws TermError */
  amount(id: string): Decimal {
    return this.number(id) ?? this.empty(id)
  }

  /** @throws TermError always */
  empty(id: string): never {
    throw new TermError(`${this.nameOf(id)} is empty${this.where}; fill its formula.`)
  }

  private wrong(id: string, wanted: string): TermError {
    return new TermError(`${this.nameOf(id)} must be ${wanted}${this.where}; change its formula.`)
  }
}
