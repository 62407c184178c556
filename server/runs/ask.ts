import { valueAt } from '../../core/value/columns'
import type { Rows } from '../../core/sql/query'
import type { Context } from '../access/context'
import type { Sources } from '../sources/sources'
import type { RunInput } from './input'
import type { Planner } from './planner'
import type { Planned, Question } from './questions'

/** Plans a question of one statement and has the source answer it. @throws RunError, SourceError */
export async function askSource(
  context: Context,
  { planner, sources }: { planner: Planner; sources: Sources },
  input: RunInput,
  question: Question,
): Promise<{ rows: Rows; type: Planned['type'] }> {
  const { queries, type } = await planner.plan(context, input, question)
  return { rows: await sources.reading(context, input.source, snapshot => snapshot.query(queries[0]!, { timeLimit: 30_000 })), type }
}

/** A whole number of the first row. */
export const wholeAt = (rows: Rows, column: number): number => (valueAt(rows.columns[column]!, 0) as { units: number }).units
