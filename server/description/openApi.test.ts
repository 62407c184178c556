import { readdirSync, readFileSync } from 'node:fs'
import { Validator } from '@seriousme/openapi-schema-validator'
import { Ajv2020 } from 'ajv/dist/2020.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readRequest, RequestError, requests } from '../../core/api/requests'
import { rights } from '../access/rights'
import { openApi } from './openApi'
import { operations } from './operations'

/** Routes whose files stand in a folder of the API, by method and path. */
const routesIn = (folder: string): [route: string, file: string][] =>
  readdirSync(`server/api/${folder}`, { recursive: true, encoding: 'utf8' }).flatMap(file => {
    const match = /^(.+)\.(get|post|put|delete)\.ts$/.exec(file)
    if (!match) return []
    const path = match[1]!.replace(/\/?index$/, '').replace(/\[(\w+)\]/g, ':$1')
    return [[`${match[2]!.toUpperCase()} /api/${folder}${path && `/${path}`}`, `server/api/${folder}/${file}`]]
  })
const single = ['library.get', 'order.post', 'params.get'].map((name): [string, string] => {
  const [path, method] = name.split('.')
  return [`${method!.toUpperCase()} /api/${path}`, `server/api/${name}.ts`]
})
const routes = [...['runs', 'reports', 'library', 'schema'].flatMap(routesIn), ...single]

describe('the description of the API', () => {
  it('is valid OpenAPI 3.1, by another program’s schema, and every reference in it leads somewhere', async () => {
    const validator = new Validator()
    const found = await validator.validate(JSON.parse(JSON.stringify(openApi())) as Record<string, unknown>)
    expect([found.valid, found.errors, validator.version]).toEqual([true, undefined, '3.1'])
    const all = JSON.stringify(openApi())
    const { schemas } = (openApi() as { components: { schemas: object } }).components
    const broken = [...all.matchAll(/"\$ref":"#\/components\/schemas\/([^"]+)"/g)].filter(([, name]) => !(name! in schemas))
    expect(broken).toEqual([])
  })

  it('speaks of every route of runs, files, answers and definitions, and of no other', () => {
    expect(Object.keys(operations).sort()).toEqual(routes.map(([route]) => route).sort())
    expect(Object.keys(operations).filter(route => !(route in rights))).toEqual([])
  })

  it('names for each body the check that its route makes', () => {
    const differing = routes.flatMap(([route, file]) => {
      const made = /bodyOf\(event, '(\w+)'\)/.exec(readFileSync(file, 'utf8'))?.[1]
      return made === operations[route]!.body ? [] : [[route, made, operations[route]!.body]]
    })
    expect(differing).toEqual([])
  })

  it('names each part of an address that its route asks for, and no other', () => {
    const differing = routes.flatMap(([route, file]) => {
      const source = readFileSync(file, 'utf8')
      if (source.includes('readOutput(askedOf(event)')) return []
      const names = new Set([
        ...[...source.matchAll(/askedOf\(event\)\.(\w+)/g)].map(match => match[1]!),
        ...[...source.matchAll(/const \{([^}]*)\} = askedOf\(event\)/g)].flatMap(match =>
          match[1]!.split(',').map(each => each.split(':')[0]!.trim()),
        ),
        ...(/const asked = askedOf\(event\)/.test(source) ? [...source.matchAll(/asked\.(\w+)/g)].map(match => match[1]!) : []),
      ])
      const told = (operations[route]!.asks ?? []).map(each => each.name)
      return [...names].sort().join() === told.sort().join() ? [] : [[route, [...names], told]]
    })
    expect(differing).toEqual([])
  })

  it('takes every body that its route takes', () => {
    const ajv = new Ajv2020({ strict: false, schemas: [{ $id: 'api', ...openApi() }] })
    const values = fc.oneof(
      fc.string(),
      fc.integer(),
      fc.double({ noNaN: true }),
      fc.boolean(),
      fc.constant(null),
      fc.constantFrom('json', 'csv', 'check', 'all', 'teams'),
      fc.array(fc.string(), { maxLength: 3 }),
      fc.dictionary(fc.string({ minLength: 1, maxLength: 5 }), fc.string(), { maxKeys: 3 }),
      fc.array(fc.record({ path: fc.string(), base64: fc.string() }), { maxLength: 2 }),
    )
    let taken = 0
    for (const [route, { body }] of Object.entries(operations)) {
      if (!body) continue
      const [method, path] = route.split(' ') as [string, string]
      const place = path.replace(/:([a-z]+)/g, '{$1}').replaceAll('/', '~1')
      const check = ajv.compile({
        $ref: `api#/paths/${encodeURI(place)}/${method.toLowerCase()}/requestBody/content/application~1json/schema`,
      })
      const names = Object.keys((requests[body] as unknown as { fields: object }).fields)
      fc.assert(
        fc.property(fc.record(Object.fromEntries(names.map(name => [name, values])), { requiredKeys: [] }), sent => {
          try {
            readRequest(body, structuredClone(sent))
          } catch (error) {
            if (error instanceof RequestError) return
            throw error
          }
          taken++
          expect([route, check(sent), check.errors]).toEqual([route, true, null])
        }),
        { numRuns: 400 },
      )
    }
    expect(taken).toBeGreaterThan(200)
  })

  it('is the one in the repository', () => {
    expect(`${JSON.stringify(openApi(), undefined, 2)}\n`).toBe(readFileSync('docs/schema/api.openapi.json', 'utf8'))
  })
})
