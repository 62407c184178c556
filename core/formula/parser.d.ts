import type { LRParser } from '@lezer/lr'

/** The generated parser of formula.grammar. */
export declare const parser: LRParser
