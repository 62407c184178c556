import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'
import { Phrases } from './phrases'

const root = process.env.ESTANTE_ROOT!
const textOf = (file: string) => readFileSync(join(root, file), 'utf8')
const { phrases, words } = JSON.parse(textOf('app/i18n/said.pt.json')) as Record<'phrases' | 'words', Record<string, string>>
const portuguese = new Phrases(phrases, words)
const holesOf = (text: string): Set<string> => new Set([...text.matchAll(/\{(\d+)\}/g)].map(found => found[1]!))

describe('phrases', () => {
  it('have no hole that they do not have in English', () => {
    const wrong = Object.entries(phrases).filter(([english, text]) => [...holesOf(text)].some(hole => !holesOf(english).has(hole)))
    expect(wrong).toEqual([])
  })

  it('are whole, with holes, within one another and one after the other; names stay', () => {
    const own = new Phrases(
      {
        'There is no {0} “{1}”{2}.': 'Não há {0} “{1}”{2}.',
        '; the nearest is “{0}”': '; o mais próximo é “{0}”',
        'data set': 'conjunto de dados',
        'It was stopped.': 'Foi parado.',
        '{0} of {1} fail': 'falham {0} de {1}',
      },
      { number: 'número' },
      count => `${count} (count)`,
    )
    expect(own.say('There is no data set “data set”; the nearest is “data sets”.')).toBe(
      'Não há conjunto de dados “data set”; o mais próximo é “data sets”.',
    )
    expect(own.say('There is no data set “a”. It was stopped.')).toBe('Não há conjunto de dados “a”. Foi parado.')
    expect(own.say('3 of 4 fail')).toBe('falham 3 de 4')
    expect(own.say('12,345 of 1,23 fail')).toBe('falham 12345 (count) de 1,23')
    // a word of ours that somebody calls something by is theirs, but where it stands alone
    expect([own.say('number'), own.say('There is no number “x”.')]).toEqual(['número', 'Não há number “x”.'])
    for (const unknown of ['', ' ', 'Posted as V-1.', '“”', 'There is no', 'It was stopped. Or not.'])
      expect(own.say(unknown)).toBe(unknown.replace('It was stopped.', 'Foi parado.'))
  })

  it('put what stands in their holes where the other language has it, whatever it is', () => {
    // texts without the marks of phrases, so that by hand there is one reading
    const value = fc.stringMatching(/^[A-Z][a-z0-9_é]{2,11}$/)
    const holed = Object.entries(phrases).filter(([english]) => {
      const pieces = english.split(/\{\d+\}/)
      return pieces.length > 1 && pieces.slice(1, -1).every(piece => piece.trim() !== '') && pieces.join('').replace(/\W/g, '').length > 12
    })
    expect(holed.length).toBeGreaterThan(350)
    fc.assert(
      fc.property(fc.constantFrom(...holed), fc.array(value, { minLength: 6, maxLength: 6 }), ([english, text], values) => {
        const put = (phrase: string) => phrase.replace(/\{(\d+)\}/g, (_, hole) => values[Number(hole)]!)
        expect(portuguese.say(put(english))).toBe(put(text))
      }),
    )
  })
})

describe('what core and server say', () => {
  /** Sentences of a file, their values as holes: what is put together of literals is one. */
  function sentencesOf(file: string): string[] {
    const found: string[] = []
    const parts = (node: ts.Node): (string | ts.Node)[] | undefined => {
      if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return [node.text]
      if (ts.isTemplateExpression(node))
        return [node.head.text, ...node.templateSpans.flatMap(span => [span.expression, span.literal.text])]
      if (ts.isParenthesizedExpression(node)) return parts(node.expression)
      if (!ts.isBinaryExpression(node) || node.operatorToken.kind !== ts.SyntaxKind.PlusToken) return undefined
      const [left, right] = [parts(node.left), parts(node.right)]
      return left || right ? [...(left ?? [node.left]), ...(right ?? [node.right])] : undefined
    }
    const look = (node: ts.Node): void => {
      if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isTaggedTemplateExpression(node)) return
      const own = parts(node)
      if (!own) return ts.forEachChild(node, look)
      let hole = 0
      const text = own.reduce<string>((sum, part) => sum + (typeof part === 'string' ? part : `{${hole++}}`), '')
      const sentence =
        /^[“A-Z{(].*[.?!]$/s.test(text) &&
        (own
          .filter(part => typeof part === 'string')
          .join('')
          .match(/[a-z]{2,}/g)?.length ?? 0) >= 2
      if (sentence && !/::|=>|<|^\{0\} (between|not)/.test(text)) found.push(text)
      for (const part of own) if (typeof part !== 'string') look(part)
    }
    look(ts.createSourceFile(file, textOf(file), ts.ScriptTarget.Latest, true))
    return found
  }
  // what is written into reports stands in their own languages; what is for programs is in English, as their words are
  const ownLanguage = /migrations|description\/|schema\.ts|roleWords|compose\/words|chart\/words|templates\/|amountWords/
  const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', 'core', 'server'], { cwd: root, encoding: 'utf8' })
    .trim()
    .split('\n')
    .filter(file => file.endsWith('.ts') && !file.endsWith('.test.ts') && !ownLanguage.test(file))

  it('can be said in every language: there is a phrase for each of its sentences', () => {
    const all = new Map(files.flatMap(file => sentencesOf(file).map(sentence => [sentence, file] as const)))
    expect(all.size).toBeGreaterThan(500)
    expect([...all].filter(([sentence]) => !(sentence in phrases)).map(([sentence, file]) => `${file}: ${sentence}`)).toEqual([])
  })
})
