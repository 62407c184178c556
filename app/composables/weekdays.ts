/** Days of the week as choices, Monday first; their values are numbers as text, 0 is Sunday. */
export const weekdayItems = (): { value: string; label: string }[] =>
  [1, 2, 3, 4, 5, 6, 0].map(value => ({
    value: String(value),
    // 2 March 2026 was a Monday
    label: new Date(Date.UTC(2026, 2, 1 + (value || 7))).toLocaleDateString(locale(), { weekday: 'short', timeZone: 'UTC' }),
  }))
