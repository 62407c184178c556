import { dayOf } from '../../core/value/date'

/** The demo company's clock: it stands still, so that figures do not drift. */
export const clock = dayOf(2026, 10, 31)
