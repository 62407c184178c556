import { fileWriter, ParquetWriter } from 'hyparquet-writer'
import type { FieldInfo, LevelInfo } from '../../../core/formula/typed'
import { type Column, valueAt } from '../../../core/value/columns'
import { decimalText, trim } from '../../../core/value/decimal'
import type { DataRecords } from '../../../core/value/records'
import type { Value } from '../../../core/value/value'
import { RunError } from '../input'
import { levelPaths } from './rows'

type SchemaElement = ConstructorParameters<typeof ParquetWriter>[0]['schema'][number]

/** How many digits the whole numbers are kept with that decimals stand in: 18 in eight bytes, 38 in sixteen (Parquet, DECIMAL). */
const [narrow, wide] = [18, 38]
/** Rows of a group: what a reader takes at a time, and what is held here. */
const rowsPerGroup = 50_000

/** The decimals and the digits that a column of numbers needs. */
export interface NumberShape {
  scale: number
  digits: number
}

/** A number that does not fit into its column as it was begun; the column must be looked at first. */
export class NumberTooWide extends Error {}

const digitsOf = (units: bigint): number => (units < 0n ? -units : units).toString().length

/** The whole number in which a decimal stands at a scale; nothing where it has more decimals. */
function unscaled(value: Exclude<Value, null>, scale: number): bigint | undefined {
  const { units, scale: own } = trim(value as Parameters<typeof trim>[0])
  return own > scale ? undefined : BigInt(units) * 10n ** BigInt(scale - own)
}

/** Looks at all numbers of a level before its file is written: what each column needs. */
export class NumberShapes {
  readonly shapes = new Map<string, NumberShape>()
  private readonly paths: string[]

  constructor(private readonly level: LevelInfo) {
    this.paths = levelPaths(level).filter(path => level.fields.get(path)?.type === 'number')
    for (const path of this.paths) this.shapes.set(path, { scale: 0, digits: 1 })
  }

  add(data: DataRecords): void {
    const records = data.levels[this.level.index]!
    for (const path of this.paths) {
      const shape = this.shapes.get(path)!
      let whole = shape.digits - shape.scale
      for (let row = 0; row < records.count; row++) {
        const value = valueAt(records.columns[path]!, row)
        if (value === null) continue
        const { units, scale } = trim(value as Parameters<typeof trim>[0])
        if (scale > shape.scale) shape.scale = scale
        whole = Math.max(whole, digitsOf(BigInt(units)) - scale)
      }
      shape.digits = Math.max(1, whole + shape.scale)
    }
  }

  /** @throws RunError where a column needs more digits than a decimal can have */
  checked(): ReadonlyMap<string, NumberShape> {
    for (const [path, { digits }] of this.shapes)
      if (digits > wide)
        throw new RunError([
          `“${path}” needs ${digits} digits, and numbers in Parquet have ${wide} at most; round it in a calculated field.`,
        ])
    return this.shapes
  }
}

function elementOf(path: string, field: FieldInfo | undefined, shape: NumberShape | undefined): SchemaElement {
  const optional = { name: path, repetition_type: 'OPTIONAL' as const }
  switch (field?.type) {
    case 'number': {
      const { scale, digits } = shape!
      const decimal = { converted_type: 'DECIMAL' as const, scale }
      return digits <= narrow
        ? { ...optional, ...decimal, type: 'INT64', precision: narrow }
        : { ...optional, ...decimal, type: 'FIXED_LEN_BYTE_ARRAY', type_length: 16, precision: wide }
    }
    case 'date':
      return { ...optional, type: 'INT32', converted_type: 'DATE' }
    case 'moment':
      return { ...optional, type: 'INT64', logical_type: { type: 'TIMESTAMP', isAdjustedToUTC: false, unit: 'MICROS' } }
    case 'boolean':
      return { ...optional, type: 'BOOLEAN' }
    default:
      return { ...optional, type: 'BYTE_ARRAY', converted_type: 'UTF8' }
  }
}

/**
 * The ticked fields of one level as Apache Parquet: numbers as exact decimals, dates as days, moments as microseconds of a clock without a
 * zone. Numbers stand in as few bytes as the columns of the source promise, until one does not fit.
 * @throws NumberTooWide where one does not: begin anew with the shapes that NumberShapes finds
 */
export class ParquetRows {
  private readonly paths: string[]
  private readonly writer: ParquetWriter
  private readonly shapes: ReadonlyMap<string, NumberShape>
  private held: unknown[][]

  constructor(
    file: string,
    private readonly level: LevelInfo,
    shapes?: ReadonlyMap<string, NumberShape>,
  ) {
    this.paths = levelPaths(level)
    this.shapes =
      shapes ?? new Map(this.paths.map(path => [path, { scale: Math.min(12, level.fields.get(path)?.scale ?? 0), digits: narrow }]))
    const elements = this.paths.map(path => elementOf(path, level.fields.get(path), this.shapes.get(path)))
    this.held = this.paths.map(() => [])
    this.writer = new ParquetWriter({
      writer: fileWriter(file),
      schema: [{ name: 'schema', num_children: elements.length }, ...elements],
      createdBy: 'Estante',
    })
  }

  add(data: DataRecords): void {
    const records = data.levels[this.level.index]!
    this.paths.forEach((path, at) => this.take(path, records.columns[path]!, records.count, this.held[at]!))
    if (this.held[0] && this.held[0].length >= rowsPerGroup) this.flush()
  }

  end(): void {
    if (this.held[0]?.length) this.flush()
    this.writer.finish()
  }

  private take(path: string, column: Column, count: number, into: unknown[]): void {
    const shape = this.shapes.get(path)
    const most = 10n ** BigInt(shape && shape.digits <= narrow ? narrow : wide)
    for (let row = 0; row < count; row++) {
      const value = valueAt(column, row)
      if (value === null || typeof value !== 'object') into.push(value)
      else {
        const units = unscaled(value, shape!.scale)
        if (units === undefined || units >= most || units <= -most) throw new NumberTooWide(`${path} ${decimalText(value)}`)
        into.push(units)
      }
    }
  }

  private flush(): void {
    const rows = this.held[0]!.length
    this.writer.write({ columnData: this.paths.map((name, at) => ({ name, data: this.held[at]! })) as never, rowGroupSize: rows })
    this.held = this.paths.map(() => [])
  }
}
