import { lazy, mixed, object, type Schema } from 'yup'
import type { BlockBase } from './base'
import { type Block, repeatShape } from './block'
import { breakShape } from './break'
import { chartShape } from './chart'
import { crosstabShape } from './crosstab'
import { nestedShape } from './nested'
import { panelShape } from './panel'
import type { BlockShape } from './shape'
import { statementShape } from './statement'
import { tableShape } from './table'
import { tiesShape } from './ties'

type AnyShape = BlockShape<BlockBase & { kind: string }>

/** The shapes of all kinds of blocks: nothing else in definitions knows which there are. */
const shapes = [
  repeatShape,
  panelShape,
  tableShape,
  crosstabShape,
  statementShape,
  chartShape,
  nestedShape,
  tiesShape,
  breakShape,
] as unknown as readonly AnyShape[]
const byKind = new Map(shapes.map(each => [each.kind, each]))

export function shapeOf(block: Block): BlockShape<Block, Block> {
  return byKind.get(block.kind) as unknown as BlockShape<Block, Block>
}

/** Checks a block of any kind. */
export const blockSchema: Schema<Block> = lazy((value: { kind?: string }) => {
  const shape = byKind.get(value?.kind ?? '')
  return shape
    ? schemaOf(shape)
    : object({
        kind: mixed()
          .oneOf([...byKind.keys()])
          .required(),
      })
}) as never

const schemas = new Map<AnyShape, Schema>()
function schemaOf(shape: AnyShape): Schema {
  let found = schemas.get(shape)
  if (!found) schemas.set(shape, (found = shape.schema(blockSchema)))
  return found
}
