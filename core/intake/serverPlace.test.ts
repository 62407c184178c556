import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addressOf, encryptions, placeOf, type ServerPlace } from './serverPlace'

const word = fc
  .string({ minLength: 1, maxLength: 10, unit: fc.constantFrom(...'aZ09 @/:%?&#=+éß"\'') })
  .filter(text => text.trim() === text)
const place: fc.Arbitrary<ServerPlace> = fc
  .constantFrom<ServerPlace['kind']>('postgresql', 'mysql')
  .chain(kind =>
    fc.record({
      kind: fc.constant(kind),
      host: fc.constantFrom('localhost', 'db.example', '127.0.0.1', '::1', '/var/run/server'),
      port: fc.integer({ min: 1, max: 65_535 }).map(String),
      database: word,
      user: word,
      password: fc.constant(''),
      encryption: fc.constantFrom(...encryptions[kind].map(each => each.word)),
    }),
  )

describe('the address of a server', () => {
  it('means the place that it was made of, whatever signs stand in it', () => {
    fc.assert(
      fc.property(place, each => {
        const found = placeOf(addressOf(each))
        // a socket of MariaDB is a file and has no port
        expect(found).toEqual(each.kind === 'mysql' && each.host.startsWith('/') ? { ...each, port: '3306' } : each)
      }),
    )
  })

  it.each(['', 'db.example', 'http://a@b/c', 'postgresql://', 'postgresql://a@b:x/c', 'postgresql://a%@b/c', 'postgresql://a%FF@b/c'])(
    '“%s” is none',
    text => {
      expect(placeOf(text)).toBeUndefined()
    },
  )
})
