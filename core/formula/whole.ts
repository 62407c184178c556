import { partsOf } from './parts'
import type { Typed } from './typed'

/**
 * Does a formula speak of all records of a run, so that no stretch of them can be worked out by itself? It does where a total goes over the
 * report, or numbers are added up from the first root record on; also where a field that it reads does so.
 */
export function needsWhole(typed: Typed): boolean {
  if (typed.is === 'total' && typed.over === 'report') return true
  if (typed.is === 'running' && typed.level === 0) return true
  if (typed.is === 'field' && typed.field.formula && needsWhole(typed.field.formula)) return true
  return partsOf(typed).some(needsWhole)
}
