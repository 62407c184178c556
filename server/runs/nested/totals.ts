import { answersRead, fedAnswers } from '../../../core/compose/nested/answers'
import type { PreparedNested } from '../../../core/compose/nested/prepare'
import { compileFormula } from '../../../core/formula/evaluate'
import type { Evaluate } from '../../../core/formula/standing'
import { Lineage } from '../../../core/formula/lineage'
import { somePart } from '../../../core/formula/parts'
import { needsWhole } from '../../../core/formula/whole'
import type { DataRecords, NestedRecords } from '../../../core/value/records'
import { stretchOf } from '../../../core/value/stretch'
import type { Answer, Value } from '../../../core/value/value'
import type { NestedRun } from './ready'

/** The totals that a nested report hands out, by the key of its answers, in their order. */
export function totalsOf(run: NestedRun, { block }: PreparedNested, read: NestedRecords): (key: string) => readonly Value[] {
  const { report, printed, totals, today, catalog } = run
  const { levels } = report.tree
  const compiled = (data: DataRecords, parameters: Record<string, Answer>): Evaluate[] => {
    const around = { levels, data, parameters, today, ...(catalog.calendar ? { calendar: catalog.calendar } : {}) }
    const lineage = new Lineage(levels, data)
    return totals.map(({ typed }) => compileFormula(typed, around, lineage))
  }
  // the same formulas for all of a part, as long as they speak of no answer and of no other records
  const plain = totals.every(({ typed }) => !needsWhole(typed) && !somePart(typed, part => part.is === 'parameter'))
  const parts = new Map<number, Evaluate[]>()
  return key => {
    const set = read.sets.get(key)
    if (!set) return totals.map(() => null)
    const part = read.parts[set.part]!
    if (plain) {
      let formulas = parts.get(set.part)
      if (!formulas) parts.set(set.part, (formulas = compiled(part, {})))
      return formulas.map(evaluate => evaluate({ level: 0, from: set.from, to: set.to }))
    }
    const { values } = answersRead(printed, fedAnswers(block, run.definition, key))
    return compiled(stretchOf(part, levels, set.from, set.to), values).map(evaluate =>
      evaluate({ level: 0, from: 0, to: set.to - set.from }),
    )
  }
}
