import { describe, expect, it } from 'vitest'
import { collationsOf, inWordsOf, type ServerWords } from './words'

const words: ServerWords = {
  called: 'source',
  tables: new Map([
    ['plain', { schema: 'sales', name: 'plain' }],
    ['odd "x', { schema: 'Odd "s', name: 'x', columns: [{ name: 'a', as: 'own."a"::text' }] }],
  ]),
  order: '"und-x-icu"',
  fold: '"C"',
}

describe('a statement in the words of a server', () => {
  it.each([
    ['select * from "source"."plain" as t', 'select * from "sales"."plain" as t'],
    ['select 1 from "source"."odd ""x" as "level"', 'select 1 from (select own."a"::text as "a" from "Odd ""s"."x" as own) as "level"'],
    // a select in place of a table needs a name
    [
      'select 1 from "source"."odd ""x" where true',
      'select 1 from (select own."a"::text as "a" from "Odd ""s"."x" as own) as "x" where true',
    ],
    ['order by t."a" collate "unicode"', 'order by t."a" collate "und-x-icu"'],
    [`lower('x' collate "pg_unicode_fast")`, `lower('x' collate "C")`],
    // what is no word of ours stays: texts, names, comments, dollar-quoted texts, tables that are gone
    [`select '"source"."plain"', 'it''s collate "unicode"'`, `select '"source"."plain"', 'it''s collate "unicode"'`],
    ['select "a ""source"".""plain"" b" from x', 'select "a ""source"".""plain"" b" from x'],
    ['select 1 -- "source"."plain"\nfrom "source"."plain" as t', 'select 1 -- "source"."plain"\nfrom "sales"."plain" as t'],
    [
      `select $q$ ' "source"."plain" $q$, $$ " $$ from "source"."plain" as t`,
      `select $q$ ' "source"."plain" $q$, $$ " $$ from "sales"."plain" as t`,
    ],
    [`/* ' */ select $1, $2 from "source"."plain" as t /* " */`, `/* ' */ select $1, $2 from "sales"."plain" as t /* " */`],
    ['select 1 from "source"."gone" as t', 'select 1 from "source"."gone" as t'],
  ])('%s', (ours, theirs) => {
    expect(inWordsOf(words, ours)).toBe(theirs)
  })

  it('orders and folds as well as the server can', () => {
    expect(collationsOf(new Set(['C', 'unicode', 'pg_unicode_fast', 'und-x-icu']))).toEqual({
      order: '"unicode"',
      fold: '"pg_unicode_fast"',
    })
    expect(collationsOf(new Set(['C', 'unicode', 'und-x-icu']))).toEqual({ order: '"unicode"', fold: '"und-x-icu"' })
    expect(collationsOf(new Set(['C', 'und-x-icu']))).toEqual({ order: '"und-x-icu"', fold: '"und-x-icu"' })
    expect(collationsOf(new Set(['C']))).toEqual({ order: '"C"', fold: '"default"' })
  })
})
