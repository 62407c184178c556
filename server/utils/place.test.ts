import { afterEach, describe, expect, it } from 'vitest'
import { addressBehind, isLoopback, isOwnHost, originAt, placeFault } from './place'

const names = ['ESTANTE_HOST', 'ESTANTE_ORIGIN', 'ESTANTE_TLS_CERT', 'ESTANTE_TLS_KEY', 'ESTANTE_PROXY', 'ESTANTE_PEOPLE'] as const
const say = (env: Partial<Record<(typeof names)[number], string>>) => Object.assign(process.env, env)
afterEach(() => names.forEach(name => Reflect.deleteProperty(process.env, name)))

describe('where a server may be reached', () => {
  it.each([
    [{}, undefined],
    [{ ESTANTE_HOST: '127.0.0.1' }, undefined],
    [{ ESTANTE_HOST: '0.0.0.0' }, /say with ESTANTE_ORIGIN/],
    [{ ESTANTE_HOST: '0.0.0.0', ESTANTE_ORIGIN: 'https://estante.harbour.example' }, undefined],
    [{ ESTANTE_HOST: '0.0.0.0', ESTANTE_ORIGIN: 'http://estante.harbour.example' }, /over https only/],
    [{ ESTANTE_ORIGIN: 'estante.harbour.example' }, /no address/],
    [{ ESTANTE_ORIGIN: 'https://estante.harbour.example/reports' }, /without anything behind/],
    [{ ESTANTE_ORIGIN: 'https://boss@estante.harbour.example' }, /without anything behind/],
    [{ ESTANTE_ORIGIN: 'https://estante.harbour.example', ESTANTE_PEOPLE: 'none' }, /everybody may do everything/],
    [{ ESTANTE_TLS_CERT: 'cert.pem' }, /name both or neither/],
  ])('%j', (env, fault) => {
    const found = placeFault(env as NodeJS.ProcessEnv)
    if (fault) expect(found).toMatch(fault)
    else expect(found).toBeUndefined()
  })

  it('without a name is this machine only', () => {
    for (const host of ['127.0.0.1:4780', 'localhost:4780', '[::1]:4780', 'localhost']) expect(isOwnHost(host, true)).toBe(true)
    for (const host of [
      '',
      'estante.example',
      '127.0.0.1.evil.example',
      'localhost.evil.example:4780',
      '127.0.0.1:4780@evil',
      '0.0.0.0:4780',
      '127.0.0.1:',
    ])
      expect([host, isOwnHost(host, true)]).toEqual([host, false])
    expect(originAt('127.0.0.1:4780')).toBe('http://127.0.0.1:4780')
  })

  it('with a name is that, and this machine for whoever asks from it', () => {
    say({ ESTANTE_ORIGIN: 'https://estante.harbour.example:8443/' })
    expect(isOwnHost('estante.harbour.example:8443', false)).toBe(true)
    expect(isOwnHost('127.0.0.1:4780', true)).toBe(true)
    for (const host of ['127.0.0.1:4780', 'localhost', 'estante.harbour.example', 'x.estante.harbour.example:8443'])
      expect([host, isOwnHost(host, false)]).toEqual([host, false])
    expect(originAt('estante.harbour.example:8443')).toBe('https://estante.harbour.example:8443')
  })

  it('believes a forwarded address from a proxy that is known, and only what that has added', () => {
    expect(addressBehind('10.0.0.9', '1.2.3.4')).toBe('10.0.0.9')
    say({ ESTANTE_PROXY: '10.0.0.9, 10.0.0.10' })
    expect(addressBehind('10.0.0.9', undefined)).toBe('10.0.0.9')
    expect(addressBehind('10.0.0.9', '1.2.3.4')).toBe('1.2.3.4')
    expect(addressBehind('::ffff:10.0.0.10', '6.6.6.6, 1.2.3.4')).toBe('1.2.3.4')
    expect(addressBehind('10.0.0.11', '1.2.3.4')).toBe('10.0.0.11')
  })

  it('knows the addresses of this machine', () => {
    expect(['127.0.0.1', '127.8.9.1', '::1', '::ffff:127.0.0.1'].every(isLoopback)).toBe(true)
    expect(['', '10.0.0.1', '128.0.0.1', '::ffff:10.0.0.1', '1127.0.0.1'].some(isLoopback)).toBe(false)
  })
})
