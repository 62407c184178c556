import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parse } from 'yaml'
import { quickValue } from './quickYaml'

/** Scalars that look like something else, and those that nearly do. */
const odd = fc.constantFrom(
  ...['0b1', '1_000', '0o17', '0x1F', '017', '1e3', '1.', '.5', '-.5', '+12', '.inf', '-.INF', '.nan', '.NaN', '~', 'null', 'Null', 'nULL'],
  ...[
    'true',
    'True',
    'tRUE',
    'yes',
    'no',
    'on',
    'off',
    '2026-12-01',
    '12:30',
    '1:30:00',
    '=',
    '<<',
    '0x',
    '0o8',
    '1e',
    'e5',
    '-',
    '--- x',
    '12e03',
  ],
  ...[
    'a: b',
    'a #b',
    "it's",
    '"x"',
    '{{ total }}',
    '[x',
    'x]',
    '%x',
    '@x',
    '`x`',
    '? x',
    '| x',
    '> x',
    ', x',
    '\\n',
    'é',
    '字',
    '9007199254740993',
  ],
)

describe('the quick reading of YAML', () => {
  it('reads every plain scalar as the parser that knows all of it, or leaves it to that', () => {
    fc.assert(
      fc.property(fc.oneof(odd, fc.string({ unit: fc.constantFrom(...'0123456789.eE+-xob_~nulINFaftrs') })), text => {
        for (const document of [`name: ${text}\n`, `- ${text}\n`, `- a: 1\n  b: ${text}\n`]) {
          const quick = quickValue(document)
          if (!quick) continue
          expect([document, quick.value]).toEqual([document, parse(document)])
        }
      }),
      { numRuns: 3000 },
    )
  })

  it('leaves anchors, aliases, tags and faults to that', () => {
    for (const text of ['a: &x 1\nb: *x\n', 'a: !!str 1\n', 'a: [\n', 'a: 1\na: 2\n', '\ta: 1\n', '- &a [*a]\n', '? - a\n: 1\n'])
      expect([text, quickValue(text) === undefined || JSON.stringify(quickValue(text)!.value) === JSON.stringify(parse(text))]).toEqual([
        text,
        true,
      ])
    expect(quickValue('a: &x 1\nb: *x\n')).toBeUndefined()
    expect(quickValue('a: 1\na: 2\n')).toBeUndefined()
  })
})
