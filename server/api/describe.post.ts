import { PgDialect } from 'drizzle-orm/pg-core'
import { bindNames, placeInText, SqlTextError } from '../../core/sql/authored'
import { parameterTypes } from '../../core/definition/parameters'
import { readDefinition } from '../../core/definition/schema'
import { SourceError } from '../sources/engine'

interface Body {
  definition: unknown
  text: string
}

/** The columns that a statement would give, or the place in it that is at fault. */
export default route(async (event, app) => {
  const { definition, text } = await jsonBody<Body>(event, body => typeof body.text === 'string' && body.text.length <= 100_000)
  const types = parameterTypes(readDefinition(definition).parameters)
  try {
    const statement = new PgDialect().sqlToQuery(bindNames(text, types, {}))
    return { columns: await app.engine.describe(statement.sql, { client: 'describe', timeLimit: 10_000 }) }
  } catch (error) {
    if (error instanceof SqlTextError) return { fault: { message: error.message, from: error.from, to: error.to } }
    if (!(error instanceof SourceError)) throw error
    const from = error.position === undefined ? 0 : placeInText(text, types, error.position - 1)
    return {
      fault: {
        message: error.message.replace(/^The source answered: /, ''),
        from,
        to: from + (/^[\w.]+|^./.exec(text.slice(from))?.[0].length ?? 0),
      },
    }
  }
})
