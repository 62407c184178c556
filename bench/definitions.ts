import type { Block } from '../core/definition/blocks/block'
import type { AxisGroup } from '../core/definition/blocks/crosstab'
import type { LevelDefinition } from '../core/definition/levels'
import { formatVersion, type ReportDefinition } from '../core/definition/report'

/** A group of an axis by a formula. */
export const group = (id: string, by: string, more: Partial<AxisGroup> = {}): AxisGroup => ({
  id,
  by,
  order: { by: 'value', descending: false },
  total: 'after',
  ...more,
})
export const level = (name: string, table: string, more: Partial<LevelDefinition> = {}): LevelDefinition => ({
  name,
  table,
  on: [],
  fields: [],
  related: [],
  details: [],
  filters: [],
  sort: [],
  ...more,
})
/** A report of one block on large paper. */
export const report = (root: LevelDefinition, ...blocks: Block[]): ReportDefinition => ({
  format: formatVersion,
  language: 'en-GB',
  parameters: [],
  dataSets: [{ name: 'main', source: 'caisvelho', fields: {}, root }],
  layouts: [
    { name: 'Standard', page: { size: 'A3', orientation: 'landscape', margins: { top: 30, right: 30, bottom: 30, left: 30 } }, blocks },
  ],
})
