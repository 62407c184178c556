import type { Day } from '../value/date'

const formats = new Map<string, Intl.DateTimeFormat>()
/** How far the clocks of a zone are ahead of UTC at an instant, in milliseconds. */
function ahead(instant: number, zone: string): number {
  let format = formats.get(zone)
  if (!format) {
    const digits = { year: 'numeric', month: '2-digit', day: '2-digit', hour: '2-digit', minute: '2-digit', second: '2-digit' } as const
    formats.set(zone, (format = new Intl.DateTimeFormat('en-GB', { ...digits, hourCycle: 'h23', era: 'short', timeZone: zone })))
  }
  const parts = Object.fromEntries(format.formatToParts(instant).map(part => [part.type, part.value]))
  const year = /^B/.test(parts.era!) ? 1 - Number(parts.year) : Number(parts.year)
  const shown = Date.UTC(year, Number(parts.month) - 1, Number(parts.day), Number(parts.hour), Number(parts.minute), Number(parts.second))
  return shown - Math.floor(instant / 1000) * 1000
}

const dayLength = 86_400_000
/**
 * The instant (milliseconds since 1970-01-01T00:00Z) at which the clocks of a zone show a time, in minutes since midnight, of a day. A time
 * that is skipped when clocks go forward is as much later as they skip; of one that comes twice it is the first, as RFC 5545 has it.
 */
export function instantOf(day: Day, minutes: number, zone: string): number {
  const shown = day * dayLength + minutes * 60_000
  const [before, after] = [ahead(shown - dayLength, zone), ahead(shown + dayLength, zone)]
  const fits = [before, after].map(by => shown - by).filter(instant => ahead(instant, zone) === shown - instant)
  return fits.length ? Math.min(...fits) : shown - before
}

/** The day that it is at an instant in a zone. */
export const dayAt = (instant: number, zone: string): Day => Math.floor((instant + ahead(instant, zone)) / dayLength)
