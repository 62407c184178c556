import type { Standing } from '../../formula/standing'
import { stretchOf } from '../../value/stretch'
import type { Place } from '../place'
import type { PreparedLayout } from '../prepared'
import { Values } from '../values'
import type { PreparedNested } from './prepare'
import { answersKey, answersRead, fedAnswers } from './answers'
import type { NestedReport } from './reports'

/** What stands in a nested report at one place: its blocks, and the records over which they go. */
export interface FoundNested {
  report: NestedReport
  layout: PreparedLayout
  values: Values
  at: Standing
}

/** What is kept for the records at hand. */
interface Kept {
  /** by part of the records */
  shared: Map<number, Values>
  /** by the key of the answers */
  own: Map<string, Values>
}

/** The key of the answers of a nested report where it stands. */
export const keyAt = ({ feeds }: PreparedNested, values: Values, at: Standing): string =>
  answersKey(feeds.map(feed => (feed ? values.evaluate(feed)(at) : null)))

/** What a nested report prints at a place; nothing where no records were read for it there. */
export function foundNested(nested: PreparedNested, { values }: Pick<Place, 'values'>, at: Standing): FoundNested | undefined {
  const report = values.options.nested?.get(nested.block.id)
  const records = values.data.nested?.get(nested.block.id)
  if (!report || !records) return undefined
  const key = keyAt(nested, values, at)
  const set = records.sets.get(key)
  if (!set || set.from >= set.to) return undefined
  const { layout, levels } = report.laidOut(nested.width)
  const kept = values.memo<Kept>(nested, () => ({ shared: new Map(), own: new Map() }))
  const made = () => {
    const { calendar } = report.catalog
    return new Values(layout.language, {
      levels,
      parameters: answersRead(report, fedAnswers(nested.block, report.definition, key)).values,
      today: report.today,
      ...(calendar ? { calendar } : {}),
      ...(report.nested ? { nested: report.nested } : {}),
    })
  }
  const part = records.parts[set.part]!
  // where nothing on it depends on which other records there are, all of a part are worked on at once
  if (layout.plain && !report.nested) {
    let shared = kept.shared.get(set.part)
    if (!shared) {
      shared = made()
      shared.use(part)
      kept.shared.set(set.part, shared)
    }
    return { report, layout, values: shared, at: { level: 0, from: set.from, to: set.to } }
  }
  let own = kept.own.get(key)
  if (!own) {
    own = made()
    own.use(stretchOf(part, levels, set.from, set.to))
    kept.own.set(key, own)
  }
  return { report, layout, values: own, at: { level: 0, from: 0, to: set.to - set.from } }
}
