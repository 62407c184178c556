import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { roles } from '../../core/api/people'
import { may, rightOf, rights } from './rights'

/** The routes that the files of the server's folders stand for. */
function routesIn(folder: string, at: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap(entry => {
    if (entry.isDirectory()) return routesIn(join(folder, entry.name), `${at}/${part(entry.name)}`)
    const [, name, method] = /^(.*)\.(get|put|post|delete)\.ts$/.exec(entry.name) ?? []
    if (!name) return []
    return [`${method!.toUpperCase()} ${name === 'index' ? at : `${at}/${part(name)}`}`]
  })
}
const part = (name: string) => name.replace(/^\[(\w+)\]$/, ':$1')

describe('the table of rights', () => {
  it('has every route of the server, and no other', () => {
    const root = process.env.ESTANTE_ROOT!
    const found = [...routesIn(join(root, 'server/api'), '/api'), ...routesIn(join(root, 'server/routes'), '')]
    expect(found.length).toBeGreaterThan(80)
    expect(Object.keys(rights).sort()).toEqual(found.sort())
  })

  it('lets nobody do what is not for anyone, and each role what is for it and those below', () => {
    expect(rightOf('GET', '/api/nothing')).toBeUndefined()
    expect(rightOf('POST', '/api/library')).toBeUndefined()
    expect(rightOf('HEAD', '/api/library')).toBe('reader')
    for (const right of new Set(Object.values(rights))) {
      expect(may(undefined, right)).toBe(right === 'anyone')
      for (const role of roles) expect(may(role, right)).toBe(right === 'anyone' || roles.indexOf(role) >= roles.indexOf(right))
    }
  })

  it('keeps people and sources with administrators, and what changes a report from readers', () => {
    for (const [route, right] of Object.entries(rights)) {
      if (/ \/api\/people/.test(route)) expect([route, right]).toEqual([route, 'administrator'])
      if (/^(PUT|DELETE) \/api\/(reports|shelves|letterhead)/.test(route)) expect([route, right]).toEqual([route, 'author'])
    }
  })
})
