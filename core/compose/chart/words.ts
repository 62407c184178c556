import { type ChartData, percentOf } from './data'

/** A text that says what a chart shows, for those who do not see it. */
export function alternativeOf(data: ChartData, title: string | undefined, form: string): string {
  const { categories, series, steps, round, runningShare, scatter } = data
  const [first] = series
  if (!first || !categories.length) return title ? `${title}: nothing to draw.` : 'A chart without figures.'
  const known = first.values
    .map((value, at) => ({ value, at }))
    .filter((each): each is { value: number; at: number } => each.value !== null)
  const high = known.reduce((best, each) => (each.value > best.value ? each : best), known[0] ?? { value: 0, at: 0 })
  const low = known.reduce((best, each) => (each.value < best.value ? each : best), known[0] ?? { value: 0, at: 0 })
  const names = series
    .slice(0, 6)
    .map(each => each.name)
    .filter(Boolean)
    .join(', ')
  const told = (at: number) => `${categories[at]!} ${first.printed[at]!}`.trim()
  const head = `${title ?? 'Chart'}, ${form}`
  if (steps) return `${head}: from ${told(0)} to ${told(categories.length - 1)} in ${categories.length - 2} steps.`
  if (round) {
    const whole = known.reduce((sum, each) => sum + each.value, 0)
    return `${head}: ${categories.length} parts, the largest ${told(high.at)} (${Math.round(percentOf(high.value, whole))} %).`
  }
  if (scatter) return `${head}: ${categories.length} points of ${names}.`
  const shares = runningShare ? ', in falling order with their running share' : ''
  const many = `${categories.length} ${categories.length === 1 ? 'category' : 'categories'}`
  const ends = `from ${categories[0]!} to ${categories.at(-1)!}; highest ${told(high.at)}, lowest ${told(low.at)}`
  return `${head} of ${names} by ${many}${shares}, ${ends}.`
}
