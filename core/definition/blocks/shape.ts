import type { Schema } from 'yup'
import type { BlockBase } from './base'

/**
 * What a definition knows of a kind of block: how it is checked, and the blocks inside it. What is done with it stands in
 * core/compose/blocks.
 */
export interface BlockShape<B extends BlockBase & { kind: string }, Inner extends BlockBase = BlockBase> {
  kind: B['kind']
  /** its schema; `block` is that of a block of any kind */
  schema: (block: Schema) => Schema
  inside?: (block: B) => Inner[]
  /** the block with those inside it changed, or taken out where `change` gives nothing; the same block where all stay the same */
  change?: (block: B, change: (inner: Inner) => Inner | undefined) => B
}

/** A list with its members changed; the same list where all stay the same. */
export function changedList<T>(list: T[], change: (each: T) => T | undefined): T[] {
  const next = list.map(change)
  return next.every((each, at) => each === list[at]) ? list : next.filter(each => each !== undefined)
}
