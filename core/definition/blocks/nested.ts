import { array, number, object } from 'yup'
import { formula, identifier, name, plain, points } from '../checks'
import { blockFields, type BlockBase } from './base'
import type { BlockShape } from './shape'
import { decimalsOf, type HandedType, handedTypes } from '../handsOut'

/**
 * Another report of the library where the block stands, its parameters answered from the record around it. It is printed without its page
 * tops and feet, in the width of the block.
 */
export interface NestedBlock extends BlockBase {
  kind: 'nested'
  /** id of the report */
  report: string
  /** what it is called, for those who read the definition; the library's name counts */
  name: string
  /** a version that is fixed; the published one where it is left out */
  version?: number
  /** name of its layout; its default one where it is left out */
  layout?: string
  /** its parameters that are answered here, each by a formula; the others take their defaults */
  feeds: NestedFeed[]
  /** totals that it hands out, as they were when it was last looked at: here they are called `id.name` */
  totals?: NestedTotal[]
  left: number
  /** 0 takes all the text width that is left */
  width: number
  /** how many different answers it is read for at most, where each has to be read by itself */
  most: number
}

export interface NestedFeed {
  parameter: string
  formula: string
}

export interface NestedTotal {
  name: string
  type: HandedType
  scale?: number
  format?: string
}

/** How many different answers a nested report is read for, where nobody says otherwise. */
export const usualMost = 200

export const nestedShape: BlockShape<NestedBlock> = {
  kind: 'nested',
  schema: () =>
    object({
      ...blockFields,
      kind: name,
      report: name,
      name: name,
      version: number().strict().integer().min(1),
      layout: plain,
      feeds: array(object({ parameter: name, formula }).noUnknown()).required(),
      totals: array(object({ name: identifier, type: handedTypes, scale: decimalsOf, format: plain }).noUnknown()),
      left: points.min(0),
      width: points.min(0),
      most: number().strict().integer().min(1).max(100_000).required(),
    }).noUnknown(),
}

export const isNested = (block: { kind: string } | undefined): block is NestedBlock => block?.kind === 'nested'
