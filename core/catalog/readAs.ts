import type { ValueType } from '../value/value'

/** How a column of a server is read: as one of our types, by its exact text. */
export interface ReadAs {
  type: ValueType
  scale?: number
  /** a cast that follows the column in SQL, where it is not read as it stands */
  cast?: string
  /** digits of its numbers are those of a floating-point number */
  inexact?: boolean
}

/** Types that are read as they stand. `base` is the server's own name of a type, of a domain that of what it stands on. */
export function readAs(base: string): ReadAs {
  if (/^(smallint|integer|bigint)$/.test(base)) return { type: 'number', scale: 0 }
  const numeric = /^numeric\(\d+,(-?\d+)\)$/.exec(base)
  if (numeric) return { type: 'number', scale: Math.max(0, Number(numeric[1])) }
  if (base === 'numeric') return { type: 'number' }
  // the shortest text that gives the same number again; a cast of the number itself would keep fifteen digits
  if (base === 'real' || base === 'double precision') return { type: 'number', inexact: true, cast: '::text::numeric' }
  if (base === 'money') return { type: 'number', cast: '::numeric' }
  if (base === 'date') return { type: 'date' }
  const clock = /^timestamp(?:\(\d\))? (with|without) time zone$/.exec(base)
  // with a zone it is read on the clock of the connection, which is the company's
  if (clock) return clock[1] === 'with' ? { type: 'moment', cast: '::timestamp' } : { type: 'moment' }
  if (base === 'boolean') return { type: 'boolean' }
  if (base === 'text' || /^character varying(\(\d+\))?$/.test(base)) return { type: 'text' }
  // all else by its text: char(n) loses its padding by that, as its type means it
  return { type: 'text', cast: '::text' }
}

/** What a type of the database is to us. */
export function typeOf(base: string): { type: ValueType; scale?: number } {
  const { type, scale } = readAs(base)
  return scale === undefined ? { type } : { type, scale }
}
