/** A moment as people read it: the time alone where it is of today. */
export function momentWords(at: number | string): string {
  const date = new Date(at)
  const today = date.toDateString() === new Date().toDateString()
  return new Intl.DateTimeFormat('en-GB', today ? { timeStyle: 'short' } : { dateStyle: 'medium', timeStyle: 'short' }).format(date)
}
