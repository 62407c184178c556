// @vitest-environment happy-dom
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import ts from 'typescript'
import { beforeAll, describe, expect, it } from 'vitest'
import { speak, t, type TextKey } from '../app/composables/words'
import { languageTags } from '../core/api/people'

const root = process.env.ESTANTE_ROOT!
const textOf = (file: string) => readFileSync(join(root, file), 'utf8')
/** Texts of a language by their names, as its file has them. */
const fileOf = (tag: string): Map<string, string> => {
  const areas = JSON.parse(textOf(`app/i18n/${tag}.json`)) as Record<string, Record<string, string>>
  return new Map(Object.entries(areas).flatMap(([area, texts]) => Object.entries(texts).map(([name, text]) => [`${area}.${name}`, text])))
}
const files = new Map(languageTags.map(tag => [tag, fileOf(tag)]))
const english = files.get('en')!
const sources = execFileSync('git', ['ls-files', '-co', '--exclude-standard', 'app'], { cwd: root, encoding: 'utf8' })
  .trim()
  .split('\n')
  .filter(file => /\.(ts|vue)$/.test(file) && !file.endsWith('.test.ts') && !file.endsWith('words.ts'))
/** The program of a file, without its template. */
const programOf = (file: string): ts.SourceFile => {
  const text = textOf(file)
  const own = file.endsWith('.vue') ? (/<script[^>]*>\n([\s\S]*?)<\/script>/.exec(text)?.[1] ?? '') : text
  return ts.createSourceFile(file, own, ts.ScriptTarget.Latest, true)
}
/** What is bound in the template of a file where words are shown. */
const boundOf = (file: string): ts.SourceFile[] =>
  [...textOf(file).matchAll(/\s:(?:aria-label|label|title|placeholder|text|hint|note|description|help|alt|words)="([^"]*)"/g)].map(found =>
    ts.createSourceFile(file, `(${found[1]})`, ts.ScriptTarget.Latest, true),
  )
const every = (node: ts.Node, look: (node: ts.Node) => void): void => {
  look(node)
  ts.forEachChild(node, child => every(child, look))
}
const holes = (text: string): string[] => [...new Set([...text.matchAll(/\{(\w+)\}/g)].map(found => found[1]!))].sort()
/** What a text says, put together by hand: its form by the count, what is literal as it is, and values in their places. */
function byHand(text: string, values: Record<string, string>, count?: number): string {
  const forms = text.split(' | ')
  const form = forms.length === 1 ? text : forms[count === 1 ? 0 : 1]!
  return form.replace(/\{(?:'(.)'|(\w+))\}/g, (_, literal: string | undefined, name: string) => literal ?? values[name]!)
}

describe('texts of the interface', () => {
  it('are there in every language, with the same values in them and the same forms', () => {
    for (const [tag, texts] of files) {
      expect([...texts.keys()].sort(), tag).toEqual([...english.keys()].sort())
      for (const [name, text] of texts) {
        const own = english.get(name)!
        expect(text.trim(), `${tag} ${name}`).not.toBe('')
        expect(holes(text), `${tag} ${name}`).toEqual(holes(own))
        expect(text.split(' | ').length, `${tag} ${name}`).toBe(own.split(' | ').length)
        // a piece that goes on after another begins and ends as it does there
        expect([/^ /.test(text), / $/.test(text)], `${tag} ${name}`).toEqual([/^ /.test(own), / $/.test(own)])
      }
    }
  })

  it('are all used, and none is used that is not there', () => {
    const used = new Set(sources.flatMap(file => [...textOf(file).matchAll(/\bt\(\s*'([^']+)'/g)].map(found => found[1]!)))
    expect([...used].filter(name => !english.has(name))).toEqual([])
    expect([...english.keys()].filter(name => !used.has(name))).toEqual([])
  })

  it('are said when they are shown, and not when a file is read: nobody has a language yet', () => {
    const early: string[] = []
    for (const file of sources.filter(each => each.endsWith('.ts'))) {
      const outside = (node: ts.Node): void => {
        if (ts.isFunctionLike(node)) return
        if (ts.isCallExpression(node) && /^(t|locale|grouped)$/.test(node.expression.getText())) early.push(`${file}: ${node.getText()}`)
        ts.forEachChild(node, outside)
      }
      outside(programOf(file))
    }
    expect(early).toEqual([])
  })

  /** What holds words for people wherever it stands. */
  const shown = /^(label|title|description|hint|placeholder|help|text|words|message)$/
  /** Words of a literal, without what is put into it. */
  const wordsOf = (node: ts.Node): string =>
    ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)
      ? node.text
      : ts.isTemplateExpression(node)
        ? node.head.text + node.templateSpans.map(span => span.literal.text).join('')
        : ''
  const literals = (node: ts.Node): ts.Node[] =>
    ts.isConditionalExpression(node)
      ? [...literals(node.whenTrue), ...literals(node.whenFalse)]
      : ts.isParenthesizedExpression(node)
        ? literals(node.expression)
        : ts.isBinaryExpression(node) && /^(\?\?|\|\||&&|\+)$/.test(node.operatorToken.getText())
          ? [...literals(node.left), ...literals(node.right)]
          : [node]
  /** A word; not the beginning of a formula, such as person. */
  const word = /^(?![a-z]+\.$).*[A-Za-z]{2}/
  it('stand outside of programs: no label, message or sentence is written in one', () => {
    const written: string[] = []
    for (const file of sources) {
      const note = (node: ts.Node, least: RegExp) => {
        for (const each of literals(node)) if (least.test(wordsOf(each))) written.push(`${file}: ${each.getText()}`)
      }
      every(programOf(file), node => {
        if (ts.isPropertyAssignment(node) && shown.test(node.name.getText())) note(node.initializer, word)
        // a sentence that is told: assigned, given back or thrown
        else if (ts.isBinaryExpression(node) && node.operatorToken.getText() === '=') note(node.right, /[a-z] [a-z]+ .*[.…]$/)
        else if (ts.isReturnStatement(node) && node.expression) note(node.expression, /[a-z] [a-z]+ .*[.…]$/)
        else if (ts.isNewExpression(node) && /Error$/.test(node.expression.getText()))
          for (const argument of node.arguments ?? []) note(argument, /[a-z] [a-z]/)
        // what a step is called when it is undone
        else if (ts.isCallExpression(node) && /\.edit$/.test(node.expression.getText())) note(node.arguments[0]!, word)
      })
      for (const bound of boundOf(file))
        every(bound, node => {
          if (ts.isExpressionStatement(node)) note(node.expression, word)
        })
    }
    expect(written).toEqual([])
  })
})

describe.each(languageTags)('spoken in %s', tag => {
  beforeAll(async () => void (await speak(tag)))
  it('every text is as its file has it, with its values, for none, one and more', () => {
    for (const [name, text] of files.get(tag)!) {
      const values = Object.fromEntries(holes(text).map((hole, at) => [hole, `“${hole}” ${at} @ {x} | $`]))
      if (text.includes(' | '))
        for (const count of [0, 1, 2, 5, 1_000_000]) expect(t(name as TextKey, values, count), name).toBe(byHand(text, values, count))
      else expect(t(name as TextKey, values), name).toBe(byHand(text, values))
    }
  })
})
