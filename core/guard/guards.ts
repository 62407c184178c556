import { array, lazy, mixed, object, string } from 'yup'

/**
 * What a team sees of a table: records for which a formula over its fields and the person holds (`branch_code in (person.branches)`);
 * records whose related record it sees, by the name of the relation; and columns that are hidden from it.
 */
export type Guard = { team: string; table: string } & (
  { is: 'records'; formula: string } | { is: 'with'; key: string } | { is: 'hidden'; columns: string[] }
)

/** A text of an author's that people with guards may run on a server, though nothing guards what it reads. */
export interface ReleasedText {
  text: string
  /** who released it, and when (ISO 8601) */
  by: string
  at: string
}

/** The guards of a source. */
export interface SourceGuards {
  guards: Guard[]
  released: ReleasedText[]
  /** texts of authors on a server are taken apart for people with guards, and what they see put in the place of each table */
  parsed?: boolean
}

export const noGuards: SourceGuards = { guards: [], released: [] }

const name = () => string().strict().required().max(200)
const shared = { team: name(), table: name() }
const guard = lazy((value: unknown) => {
  const is = (value as Partial<Guard> | null)?.is
  if (is === 'records')
    return object({ ...shared, is: string().oneOf(['records']).required(), formula: string().strict().required().max(4000) })
      .noUnknown()
      .strict()
  if (is === 'with')
    return object({ ...shared, is: string().oneOf(['with']).required(), key: string().strict().required().max(2000) })
      .noUnknown()
      .strict()
  return object({ ...shared, is: mixed().oneOf(['hidden']).required(), columns: array(name()).required().min(1).max(2000) })
    .noUnknown()
    .strict()
})
export const guardsShape = array(guard).required().max(500)
