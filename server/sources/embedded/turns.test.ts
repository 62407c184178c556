import fc from 'fast-check'
import { expect, it } from 'vitest'
import { Turns } from './turns'

/** Somebody's requests, each of one task. */
const waiting = fc.array(fc.record({ person: fc.constantFrom('ana', 'bruno', 'carla'), task: fc.constantFrom('run', 'preview') }), {
  minLength: 1,
  maxLength: 40,
})

it('everybody is served, each task in its own order, and nobody waits for more than one turn of each other person', () => {
  fc.assert(
    fc.property(waiting, asked => {
      const turns = new Turns<number>()
      asked.forEach(({ person, task }, at) => turns.add(at, person, task))
      const served: number[] = []
      const left = (person: string) => asked.filter((each, at) => each.person === person && !served.includes(at)).length
      let last = ''
      for (let next = turns.next(); next !== undefined; next = turns.next()) {
        const { person } = asked[next]!
        // the same person twice in a row only where nobody else waits
        if (person === last) expect(asked.some((each, at) => each.person !== person && !served.includes(at))).toBe(false)
        expect(left(person)).toBeGreaterThan(0)
        served.push(next)
        last = person
      }
      expect([...served].sort((a, b) => a - b)).toEqual(asked.map((_, at) => at))
      for (const person of ['ana', 'bruno', 'carla'])
        for (const task of ['run', 'preview']) {
          const own = served.filter(at => asked[at]!.person === person && asked[at]!.task === task)
          expect(own).toEqual([...own].sort((a, b) => a - b))
        }
    }),
  )
})

it('a thousand requests of one person stand before another’s first for one turn only', () => {
  const turns = new Turns<string>()
  for (let at = 0; at < 1000; at++) turns.add(`ana ${at}`, 'ana', 'run')
  turns.add('bruno', 'bruno', 'preview')
  expect([turns.next(), turns.next(), turns.next()]).toEqual(['ana 0', 'bruno', 'ana 1'])
})

it('who leaves the line is not served, and a cleared line gives back who stood in it', () => {
  fc.assert(
    fc.property(waiting, fc.nat(39), (asked, leaving) => {
      const turns = new Turns<number>()
      asked.forEach(({ person, task }, at) => turns.add(at, person, task))
      expect(turns.remove(leaving)).toBe(leaving < asked.length)
      expect(turns.remove(leaving)).toBe(false)
      expect(turns.clear().sort((a, b) => a - b)).toEqual(asked.map((_, at) => at).filter(at => at !== leaving))
      expect(turns.next()).toBeUndefined()
    }),
  )
})
