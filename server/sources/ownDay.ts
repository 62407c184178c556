import { type Day, dayOf } from '../../core/value/date'

/** The day of this machine. */
export function ownDay(): Day {
  const now = new Date()
  return dayOf(now.getFullYear(), now.getMonth() + 1, now.getDate())
}
