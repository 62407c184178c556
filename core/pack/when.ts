import { array, lazy, mixed, number, object, string } from 'yup'
import { name } from '../definition/checks'

/** What is done with a day that is no working day: it stays, moves to the working day before or after it, or is left out. */
export const offDays = ['stay', 'before', 'after', 'leave'] as const
export type OffDay = (typeof offDays)[number]

/** Days on which something is due. */
export type DayRule =
  | { on: 'days'; offDay: OffDay }
  /** days of the week; 0 is Sunday */
  | { on: 'weekdays'; weekdays: number[]; offDay: OffDay }
  /** a day of each month: 1 to 31, its last day where it is shorter; -1 is the last, -2 the one before it */
  | { on: 'monthDay'; day: number; offDay: OffDay }
  /** the n-th working day of each week (Monday to Sunday) or month; -1 is the last */
  | { on: 'workingDay'; of: 'week' | 'month'; nth: number }
  /** the n-th working day after each fiscal period has ended */
  | { on: 'afterPeriod'; nth: number }

/** When a pack is due: at times of days, or when something happens. */
export type When =
  | { is: 'times'; days: DayRule; /** as 07:00, in the company's zone */ at: string }
  /** a period has been closed in the books */
  | { is: 'closed' }
  /** a source has been refreshed */
  | { is: 'refreshed'; source: string }

/** How the company works. */
export interface WorkCalendar {
  /** an IANA zone, such as Europe/Lisbon */
  zone: string
  /** working days of a week; 0 is Sunday */
  workdays: readonly number[]
  /** days off, whatever day of the week they are */
  holidays: ReadonlySet<number>
  /** last days of ordinary fiscal periods, in order */
  periodEnds: readonly number[]
}

/** Minutes since midnight of a time as 07:00; undefined where it is none. */
export function minutesOf(at: string): number | undefined {
  const [, hours, minutes] = /^([01]\d|2[0-3]):([0-5]\d)$/.exec(at) ?? []
  return hours === undefined ? undefined : Number(hours) * 60 + Number(minutes)
}

const offDay = mixed()
  .oneOf([...offDays])
  .required()
const nth = number()
  .strict()
  .integer()
  .required()
  .min(-23)
  .max(60)
  .test(
    'counted',
    ({ path }) => `${path} counts from 1, or from -1 backwards`,
    value => value !== 0,
  )
const days = lazy((value: unknown) => {
  switch ((value as Partial<DayRule> | null)?.on) {
    case 'days':
      return object({ on: name, offDay }).noUnknown()
    case 'weekdays':
      return object({
        on: name,
        weekdays: array(number().strict().integer().min(0).max(6).required()).required().min(1).max(7),
        offDay,
      }).noUnknown()
    case 'monthDay':
      return object({ on: name, day: nth, offDay }).noUnknown()
    case 'workingDay':
      return object({ on: name, of: mixed().oneOf(['week', 'month']).required(), nth }).noUnknown()
    default:
      return object({ on: mixed().oneOf(['days', 'weekdays', 'monthDay', 'workingDay', 'afterPeriod']).required(), nth }).noUnknown()
  }
})

/** Checks when a pack is due; it may be left out. */
export const whenShape = lazy((value: unknown) => {
  if (value === undefined) return mixed()
  switch ((value as Partial<When> | null)?.is) {
    case 'times':
      return object({
        is: name,
        days,
        at: string()
          .strict()
          .required()
          .test(
            'time',
            ({ path }) => `${path} must be a time such as 07:00`,
            at => minutesOf(at ?? '') !== undefined,
          ),
      }).noUnknown()
    case 'refreshed':
      return object({ is: name, source: name }).noUnknown()
    default:
      return object({ is: mixed().oneOf(['times', 'closed', 'refreshed']).required() }).noUnknown()
  }
})
