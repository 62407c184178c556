// Builds core/formula/parser.js from formula.grammar.
import { buildParserFile } from '@lezer/generator'
import { readFileSync, writeFileSync } from 'node:fs'

export function generate() {
  const source = readFileSync(new URL('../core/formula/formula.grammar', import.meta.url), 'utf8')
  return buildParserFile(source, { fileName: 'formula.grammar', moduleStyle: 'es', includeNames: true }).parser
}

if (process.argv[1] === new URL(import.meta.url).pathname) {
  writeFileSync(new URL('../core/formula/parser.js', import.meta.url), generate())
}
