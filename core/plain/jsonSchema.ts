import type { Schema } from 'yup'

/** A JSON Schema (draft 2020-12). */
export type JsonSchema = { [key: string]: unknown }

/** What this needs of a check of Yup's that stands behind a value's shape. */
interface Shape {
  type: string
  spec: { optional: boolean; nullable: boolean }
  tests: { OPTIONS?: { name?: string; params?: Record<string, unknown> } }[]
  _whitelist: { size: number; resolveAll?: (resolve: unknown) => unknown[]; list?: Set<unknown> } & Iterable<unknown>
  fields?: Record<string, Shape | LazyShape>
  innerType?: Shape | LazyShape
}
interface LazyShape {
  type: 'lazy'
  resolve: (options: { value: unknown }) => Schema
}

const isLazy = (schema: Shape | LazyShape): schema is LazyShape => schema.type === 'lazy'
/** Names by which a part tells which of several kinds it is. */
const tags = ['kind', 'is', 'on', 'group'] as const
/** A name that nothing has: whoever takes it takes any. */
const anyName = '\u0001any'
/** Values that some checks look at to tell which shape is meant, beside the tags. */
const probes: readonly object[] = [{}, { latest: '' }, { is: 'parameter' }, { is: 'formula' }]

/**
 * Makes a JSON Schema out of the very checks that the program reads a value with. What they look up elsewhere (names that must be unique,
 * sizes of the whole) is left out: the schema takes all that the program takes, and refuses what has another shape.
 */
export class SchemaMaker {
  private readonly named = new Map<object, string>()
  private readonly definitions: Record<string, JsonSchema> = {}

  make(schema: Schema, head: JsonSchema): JsonSchema {
    const root = this.of(schema as unknown as Shape, 'root')
    const whole = { $schema: 'https://json-schema.org/draft/2020-12/schema', ...head, ...root, $defs: this.definitions }
    return withoutTwins(whole)
  }

  private of(schema: Shape | LazyShape, name: string): JsonSchema {
    if (isLazy(schema)) return this.reference(schema, name, () => this.ofLazy(schema, name))
    if (schema.type === 'object' && Object.keys(schema.fields ?? {}).length > 3)
      return this.reference(schema, name, () => this.plain(schema))
    return this.plain(schema, name)
  }

  /** A shape that stands in several places, or in itself, has a name. */
  private reference(key: object, name: string, make: () => JsonSchema): JsonSchema {
    const known = this.named.get(key)
    if (known) return { $ref: `#/$defs/${known}` }
    let free = name
    for (let next = 2; free in this.definitions; next++) free = `${name}${next}`
    this.named.set(key, free)
    this.definitions[free] = {}
    this.definitions[free] = make()
    return { $ref: `#/$defs/${free}` }
  }

  private ofLazy(schema: LazyShape, name: string): JsonSchema {
    const resolve = (value: unknown): Shape | LazyShape => schema.resolve({ value }) as unknown as Shape | LazyShape
    const record = resolve({ [anyName]: 1 })
    if (!isLazy(record) && record.fields && anyName in record.fields)
      return { type: 'object', additionalProperties: this.of(record.fields[anyName]!, `${name}Part`) }
    const found: JsonSchema[] = []
    const add = (own: JsonSchema) => {
      if (!found.some(each => JSON.stringify(each) === JSON.stringify(own))) found.push(own)
    }
    const text = resolve('')
    if (!isLazy(text) && text.type !== 'object' && (text.type !== 'mixed' || [...allowed(text)].length)) add(this.plain(text))
    const number = resolve(1)
    if (!isLazy(number) && number.type === 'number') add(this.plain(number))
    for (const probe of probes) {
      const own = resolve(probe)
      if (isLazy(own)) add(this.of(own, name))
      else if (own.type === 'object') {
        const tag = tags.find(each => own.fields?.[each] && !isLazy(own.fields[each]))
        const kinds = tag ? [...allowed(own.fields![tag] as Shape)] : []
        if (kinds.length > 1 && Object.keys(own.fields!).length <= 2)
          for (const kind of kinds) add(this.ofKind(resolve({ [tag!]: kind }), tag!, kind))
        else if (tag && (probe as Record<string, unknown>)[tag] !== undefined)
          add(this.ofKind(own, tag, (probe as Record<string, unknown>)[tag]))
        else add(this.ofOne(own))
      } else if (own.type === 'array') add(this.plain(own, name))
    }
    return found.length === 1 ? found[0]! : { anyOf: found }
  }

  private ofOne(own: Shape): JsonSchema {
    return this.reference(own, 'part', () => this.plain(own))
  }

  /** A shape that holds where a tag has one value. */
  private ofKind(own: Shape | LazyShape, tag: string, kind: unknown): JsonSchema {
    if (isLazy(own)) return this.of(own, String(kind))
    return this.reference(own, String(kind), () => {
      const plain = this.plain(own)
      return { ...plain, properties: { ...(plain.properties as object), [tag]: { const: kind } } }
    })
  }

  private plain(schema: Shape, name = 'part'): JsonSchema {
    const values = [...allowed(schema)]
    if (values.length) return { enum: values }
    const tests = new Map(schema.tests.map(test => [test.OPTIONS?.name ?? '', test.OPTIONS?.params ?? {}]))
    const limit = (test: string, value: string, to: string): JsonSchema => (tests.has(test) ? { [to]: tests.get(test)![value] } : {})
    switch (schema.type) {
      case 'object': {
        const fields = Object.entries(schema.fields ?? {})
        const required = fields.filter(([, each]) => !isLazy(each) && !each.spec.optional).map(([key]) => key)
        return {
          type: 'object',
          properties: Object.fromEntries(fields.map(([key, each]) => [key, this.of(each, key)])),
          ...(required.length ? { required } : {}),
          ...(tests.has('noUnknown') ? { additionalProperties: false } : {}),
        }
      }
      case 'array':
        return {
          type: 'array',
          ...(schema.innerType ? { items: this.of(schema.innerType, name.replace(/s$/, '') || 'part') } : {}),
          ...limit('min', 'min', 'minItems'),
          ...limit('max', 'max', 'maxItems'),
        }
      case 'string': {
        const pattern = tests.get('matches')?.regex as RegExp | undefined
        return {
          type: 'string',
          ...(pattern ? { pattern: pattern.source } : {}),
          // what is required is not empty
          ...(tests.has('required') || tests.get('min') ? { minLength: (tests.get('min')?.min as number | undefined) ?? 1 } : {}),
          ...limit('max', 'max', 'maxLength'),
        }
      }
      case 'number':
        return { type: tests.has('integer') ? 'integer' : 'number', ...limit('min', 'min', 'minimum'), ...limit('max', 'max', 'maximum') }
      case 'boolean':
        return { type: 'boolean' }
      default:
        return {}
    }
  }
}

/** Definitions that say the same are one: checks that are made anew each time are none the less the same check. */
function withoutTwins(whole: JsonSchema & { $defs: Record<string, JsonSchema> }): JsonSchema {
  let now = whole
  for (;;) {
    const kept = new Map<string, string>()
    const renamed = new Map<string, string>()
    for (const [name, own] of Object.entries(now.$defs)) {
      const text = JSON.stringify(own)
      const first = kept.get(text)
      if (first === undefined) kept.set(text, name)
      else renamed.set(name, first)
    }
    if (!renamed.size) return now
    now = JSON.parse(JSON.stringify(now), (key, value: unknown) => {
      if (key !== '$ref' || typeof value !== 'string') return value
      const name = value.slice('#/$defs/'.length)
      return `#/$defs/${renamed.get(name) ?? name}`
    }) as typeof whole
    now.$defs = Object.fromEntries(Object.entries(now.$defs).filter(([name]) => !renamed.has(name)))
  }
}

function* allowed(schema: Shape): Generator<unknown> {
  for (const each of schema._whitelist) if (each !== undefined) yield each
}
