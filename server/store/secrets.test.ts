import { existsSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { temporaryFolder } from '../../tests/support'
import { Secrets } from './secrets'

afterEach(() => vi.unstubAllEnvs())

describe('secrets', () => {
  it('come back as they were, from another process with the same folder too', () => {
    const folder = temporaryFolder()
    const sealed = new Secrets(folder).seal('erp', 'open sesame, ção')
    expect(Buffer.from(sealed, 'base64').toString('latin1')).not.toContain('sesame')
    expect(new Secrets(folder).open('erp', sealed)).toBe('open sesame, ção')
    expect(statSync(join(folder, 'key')).mode & 0o777).toBe(0o600)
    // the same secret looks different each time
    expect(new Secrets(folder).seal('erp', 'open sesame, ção')).not.toBe(sealed)
  })

  it('belong to their record, and every changed byte is noticed', () => {
    const folder = temporaryFolder()
    const secrets = new Secrets(folder)
    const sealed = secrets.seal('erp', 'x')
    expect(() => secrets.open('other', sealed)).toThrow('give it again')
    const bytes = Buffer.from(sealed, 'base64')
    for (let at = 0; at < bytes.length; at++) {
      const bad = Buffer.from(bytes)
      bad[at]! ^= 1
      expect(() => secrets.open('erp', bad.toString('base64'))).toThrow('give it again')
    }
    expect(() => secrets.open('erp', '')).toThrow('give it again')
  })

  it('are not opened where the key is gone, damaged or another', () => {
    const folder = temporaryFolder()
    const sealed = new Secrets(folder).seal('erp', 'x')
    const key = readFileSync(join(folder, 'key'))
    rmSync(join(folder, 'key'))
    expect(() => new Secrets(folder).open('erp', sealed)).toThrow('The key of this folder is gone')
    expect(existsSync(join(folder, 'key'))).toBe(false)
    writeFileSync(join(folder, 'key'), 'short')
    expect(() => new Secrets(folder).open('erp', sealed)).toThrow('The key of this folder is damaged')
    writeFileSync(join(folder, 'key'), key)
    expect(new Secrets(folder).open('erp', sealed)).toBe('x')
    vi.stubEnv('ESTANTE_KEY', 'a sentence that somebody keeps elsewhere')
    expect(() => new Secrets(folder).open('erp', sealed)).toThrow('give it again')
    const own = new Secrets(temporaryFolder()).seal('erp', 'y')
    expect(new Secrets(temporaryFolder()).open('erp', own)).toBe('y')
  })
})
