/** A moment as people read it: the time alone where it is of today. */
export function momentWords(at: number | string): string {
  const date = new Date(at)
  const today = date.toDateString() === new Date().toDateString()
  return new Intl.DateTimeFormat(locale(), today ? { timeStyle: 'short' } : { dateStyle: 'medium', timeStyle: 'short' }).format(date)
}

/** A day as people read it, of a moment or a day as ISO 8601 text. */
export const dayWords = (at: string): string => new Intl.DateTimeFormat(locale(), { dateStyle: 'medium' }).format(new Date(at))

/** A moment to the second, with its day. */
export const exactWords = (at: string): string =>
  new Intl.DateTimeFormat(locale(), { dateStyle: 'medium', timeStyle: 'medium' }).format(new Date(at))

/** A moment to the minute, with its whole day. */
export const minuteWords = (at: string): string =>
  new Intl.DateTimeFormat(locale(), { dateStyle: 'medium', timeStyle: 'short' }).format(new Date(at))

/** A moment of these days, without its year. */
export const recentWords = (at: string | Date): string =>
  new Intl.DateTimeFormat(locale(), { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }).format(new Date(at))
