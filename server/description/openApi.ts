import { requests } from '../../core/api/requests'
import { type JsonSchema, SchemaMaker } from '../../core/plain/jsonSchema'
import { rights } from '../access/rights'
import { type Operation, operations } from './operations'

/** Raised where a program that was written before would not go on working: 1.x goes on with all of 1.0. */
export const apiVersion = '1.0.0'

let made: JsonSchema | undefined

/** The HTTP API for runs, files, answers and definitions (OpenAPI 3.1.0), out of the checks and the rights that guard its routes. */
export const openApi = (): JsonSchema => (made ??= describe())

function describe(): JsonSchema {
  const schemas: Record<string, JsonSchema> = { Fault: fault }
  const paths: Record<string, Record<string, JsonSchema>> = {}
  for (const [route, operation] of Object.entries(operations)) {
    const [method, path] = route.split(' ') as [string, string]
    const address = path.replace(/:([a-z]+)/g, '{$1}')
    ;(paths[address] ??= {})[method.toLowerCase()] = describeOne(route, operation, schemas)
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Estante', version: apiVersion, description: about },
    servers: [{ url: '/' }],
    security: [{ token: [] }],
    paths,
    components: {
      schemas,
      securitySchemes: { token: { type: 'http', scheme: 'bearer', description: 'A token that its owner has made under their name.' } },
    },
  }
}

const about =
  'Runs, their files, answers and definitions. Every refusal is one sentence. Requests that change something come from the page of this ' +
  'server, or bring a token.'
const fault: JsonSchema = {
  type: 'object',
  properties: { message: { type: 'string', description: 'What is wrong, where, and what to do: one sentence.' } },
  required: ['message'],
}

function describeOne(
  route: string,
  { about: summary, body, asks = [], content, answer }: Operation,
  schemas: Record<string, JsonSchema>,
): JsonSchema {
  const [, path] = route.split(' ') as [string, string]
  const parts = [...path.matchAll(/:([a-z]+)/g)].map(([, name]) => name!)
  const types = content ?? ['application/json']
  return {
    operationId: operationId(route),
    summary,
    'x-for': rights[route],
    parameters: [
      ...parts.map(name => ({ name, in: 'path', required: true, schema: { type: 'string' } })),
      ...asks.map(each => ({
        name: each.name,
        in: 'query',
        description: each.about,
        required: each.required === true,
        schema: each.schema,
      })),
    ],
    ...(body ? { requestBody: { required: true, content: { 'application/json': { schema: bodySchema(body, schemas) } } } } : {}),
    responses: {
      200: { description: 'Done.', content: Object.fromEntries(types.map(type => [type, answer ? { schema: answer } : {}])) },
      default: { description: 'Refused.', content: { 'application/json': { schema: { $ref: '#/components/schemas/Fault' } } } },
    },
  }
}

/** `GET /api/runs/:id/file` is getRunsIdFile. */
const operationId = (route: string): string =>
  route
    .toLowerCase()
    .replace(' /api/', '/')
    .replace(/[/:-]+([a-z])/g, (_, letter: string) => letter.toUpperCase())

/** The schema of a body, out of the check that its route makes. */
function bodySchema(body: keyof typeof requests, schemas: Record<string, JsonSchema>): JsonSchema {
  const { $schema: _, $defs, ...own } = new SchemaMaker().make(requests[body], {}) as JsonSchema & { $defs: Record<string, JsonSchema> }
  const renamed = <T>(value: T): T => JSON.parse(JSON.stringify(value).replaceAll('"#/$defs/', `"#/components/schemas/${body}.`)) as T
  for (const [name, each] of Object.entries($defs)) schemas[`${body}.${name}`] = renamed(each)
  return renamed(own)
}
