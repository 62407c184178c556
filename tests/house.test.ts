import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { execFileSync, spawnSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'

const root = process.env.ESTANTE_ROOT!
const sources = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '*.ts', '*.vue'], { cwd: root, encoding: 'utf8' })
  .trim()
  .split('\n')
  .filter(file => /^(core|server|app|cli)\//.test(file) && !file.endsWith('.test.ts'))
const textOf = (file: string) => readFileSync(join(root, file), 'utf8')

describe('the arrows of the house', () => {
  const planted = mkdtempSync(join(tmpdir(), 'estante-house-'))
  afterAll(() => rmSync(planted, { recursive: true, force: true }))
  symlinkSync(join(root, 'node_modules'), join(planted, 'node_modules'))
  mkdirSync(join(planted, '.nuxt'))
  writeFileSync(join(planted, '.nuxt/tsconfig.app.json'), '{ "files": ["any.ts"] }')
  /** What lint says of a few files in the rooms of the house. */
  const lint = (files: Record<string, string>): string => {
    for (const [file, text] of Object.entries(files)) {
      mkdirSync(join(planted, file, '..'), { recursive: true })
      writeFileSync(join(planted, file), text)
    }
    const { stdout } = spawnSync(
      process.execPath,
      [
        join(root, 'node_modules/dependency-cruiser/bin/dependency-cruise.mjs'),
        '--config',
        join(root, '.dependency-cruiser.mjs'),
        '--output-type',
        'err',
        ...Object.keys(files),
      ],
      { cwd: planted, encoding: 'utf8' },
    )
    return stdout
  }
  it('allow what points down', () => {
    expect(lint({ 'core/value/one.ts': 'export const one = 1', 'core/model/two.ts': "export { one } from '../value/one'" })).toContain(
      'no dependency violations found',
    )
  })
  it('forbid a circle of files', () => {
    const found = lint({
      'core/value/a.ts': "import { b } from './b'\nexport const a: number = b",
      'core/value/b.ts': "import { a } from './a'\nexport const b: number = a",
    })
    expect(found).toContain('no circles of files')
    expect(found).toContain('core/value/a.ts')
  })
  it.each([
    ['core/value/up.ts', 'core/model/two.ts', 'arrows of core/value'],
    ['core/compose/up.ts', 'core/draw/two.ts', 'arrows of core/compose'],
    ['core/read/up.ts', 'server/two.ts', 'core stands alone'],
    ['server/up.ts', 'demo/two.ts', 'server knows core only'],
  ])('forbid an import upwards, also of a type alone: %s', (from, to, rule) => {
    const path = `../${from.startsWith('core') ? '../' : ''}${to.replace('.ts', '')}`
    const found = lint({ [to]: 'export type Two = 2', [from]: `import type { Two } from '${path}'\nexport const up: Two = 2` })
    expect(found).toContain(rule)
    expect(found).toContain(from)
  })
})

describe('kinds', () => {
  const kinds = ['panel', 'table', 'statement', 'chart', 'repeat', 'ties']
  // kinds of other things have these names too
  const others = new Map([
    ['core/definition/upgrade.ts', 'blocks of older formats, before there were kinds to ask'],
    ['server/runs/formats/xlsx.ts', 'rows of a sheet'],
    ['app/pages/reports/[id]/data.vue', 'what is open beside the ladder'],
  ])
  it('of blocks are told apart in their own modules only', () => {
    const found = sources
      .filter(file => !/^core\/(definition|compose)\/blocks\//.test(file) && !others.has(file))
      .flatMap(file =>
        textOf(file)
          .split('\n')
          .flatMap((line, at) => (new RegExp(`kind [!=]== '(${kinds.join('|')})'`).test(line) ? [`${file}:${at + 1} ${line.trim()}`] : [])),
      )
    expect(found).toEqual([])
  })
  it('of blocks are listed in the two registries, and each module of what they do is named there alone', () => {
    for (const kind of [...kinds, 'break']) {
      const named = sources.filter(file => new RegExp(`\\b${kind}Kind\\b`).test(textOf(file)))
      expect(named, kind).toEqual([`core/compose/blocks/${kind}.ts`, 'core/compose/blocks/registry.ts'].sort())
      const shaped = sources.filter(file => new RegExp(`\\b${kind}Shape\\b`).test(textOf(file)))
      expect(shaped, kind).toContain('core/definition/blocks/registry.ts')
      expect(
        shaped.filter(file => !file.startsWith('core/definition/blocks/')),
        kind,
      ).toEqual([])
    }
  })
  it('of sources are known by their registry only: nobody names the engine, the demo or its company', () => {
    const engine = sources.filter(file => !file.startsWith('server/sources/embedded/') && /sources\/embedded\//.test(textOf(file)))
    expect(engine).toEqual([])
    const company = sources.filter(file => /cais ?velho|\bcais\b|demo\/|'company'/i.test(textOf(file)))
    expect(company).toEqual([])
  })
})
