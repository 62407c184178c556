import { readFileSync } from 'node:fs'
import Ajv2020 from 'ajv/dist/2020'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DefinitionError, readDefinition } from '../../core/definition/schema'
import { reportFileSchema } from '../../core/plain/published'
import { demoReports } from '../../demo/reports/reports'

const validate = new Ajv2020({ strict: false, allErrors: false }).compile(reportFileSchema())
const takes = (definition: unknown) => validate({ name: 'Report', definition })
const reads = (definition: unknown): boolean => {
  try {
    readDefinition(definition)
    return true
  } catch (error) {
    if (error instanceof DefinitionError) return false
    throw error
  }
}
const demos = demoReports().map(each => JSON.parse(JSON.stringify(each.definition)) as object)

/** All places of a value: the object or list that holds each part, and its name in it. */
function placesOf(value: unknown): { holder: Record<string, unknown>; name: string }[] {
  if (typeof value !== 'object' || value === null) return []
  return Object.entries(value).flatMap(([name, each]) => [{ holder: value as Record<string, unknown>, name }, ...placesOf(each)])
}

describe('the JSON Schema of reports', () => {
  it('takes every report of the demo, and stands in docs as it is made', () => {
    for (const each of demos) expect([takes(each), validate.errors?.[0]]).toEqual([true, undefined])
    expect(JSON.parse(readFileSync('docs/schema/report.schema.json', 'utf8'))).toEqual(reportFileSchema())
  })

  it('takes all that the program takes, whatever is changed in a report', () => {
    const change = fc.constantFrom<unknown>(null, 5, -1, 1.5, 'x', '', true, [], {}, 'param.x > 1', '#ff0000', ['a'])
    fc.assert(
      fc.property(fc.constantFrom(...demos), fc.nat(), change, fc.boolean(), (demo, place, value, without) => {
        const own = structuredClone(demo)
        const places = placesOf(own)
        const { holder, name } = places[place % places.length]!
        if (without) {
          if (Array.isArray(holder)) holder.splice(Number(name), 1)
          else Reflect.deleteProperty(holder, name)
        } else holder[name] = value
        if (reads(own)) expect([takes(own), JSON.stringify(validate.errors?.[0])]).toEqual([true, undefined])
      }),
      { numRuns: 1500 },
    )
  })

  it('refuses what has another shape, as the program does', () => {
    let both = 0
    let program = 0
    fc.assert(
      fc.property(fc.constantFrom(...demos), fc.nat(), (demo, place) => {
        const own = structuredClone(demo)
        const places = placesOf(own).filter(each => !Array.isArray(each.holder))
        const { holder, name } = places[place % places.length]!
        // a name that no part has
        holder[`${name}X`] = 1
        if (reads(own)) return
        program++
        if (!takes(own)) both++
      }),
      { numRuns: 400 },
    )
    expect(program).toBeGreaterThan(300)
    expect(both).toBe(program)
    for (const wrong of [{}, { format: 2 }, [], { ...demos[0], language: 'x y' }, { ...demos[0], layouts: [] }, { ...demos[0], more: 1 }])
      expect([takes(wrong), reads(wrong)]).toEqual([false, false])
  })
})
