import fc from 'fast-check'
import { expect, it } from 'vitest'
import { type InCommon, type Listed, stepsBetween } from './bound'

/** What can happen between two looks, on either side. */
const happening = fc.record({
  what: fc.constantFrom('edit file', 'edit report', 'new file', 'new report', 'drop file', 'put away', 'look'),
  which: fc.nat(5),
})

it('whatever happens, a look makes both sides the same, and every text that was written is kept somewhere', () => {
  fc.assert(
    fc.property(fc.array(happening, { maxLength: 30 }), list => {
      let next = 0
      const folder = new Map<string, string>()
      const library = new Map<string, { versions: string[]; draft: number }>()
      const away = new Set<string>()
      const written = new Set<string>()
      let common: InCommon[] = []
      const left = new Map<string, number>()
      const text = () => {
        const own = `text ${next++}`
        written.add(own)
        return own
      }
      const listed = (): Listed[] => [...library].map(([id, { draft }]) => ({ id, name: id, version: draft }))
      const look = () => {
        for (const step of stepsBetween(common, listed(), folder, left)) {
          const own = 'id' in step ? library.get(step.id) : undefined
          const forget = (id: string) => void (common = common.filter(each => each.id !== id))
          const know = (id: string, file: string) => {
            forget(id)
            left.delete(id)
            const { versions, draft } = library.get(id)!
            folder.set(file, versions[draft]!)
            common.push({ id, file, name: id, text: versions[draft]!, version: draft })
          }
          if (step.do === 'forget') {
            const before = common.find(each => each.id === step.id)!
            left.set(step.id, before.version)
            forget(step.id)
          } else if (step.do === 'remove') {
            folder.delete(step.file)
            forget(step.id)
          } else if (step.do === 'write') know(step.id, step.file ?? `${step.id}.yaml`)
          else if (step.do === 'create') {
            const id = `report ${next++}`
            library.set(id, { versions: [folder.get(step.file)!], draft: 0 })
            know(id, step.file)
          } else {
            own!.versions.push(folder.get(step.file)!)
            if (own!.draft === step.basedOn) own!.draft = own!.versions.length - 1
            know(step.id, step.file)
          }
        }
        expect(stepsBetween(common, listed(), folder, left)).toEqual([])
        for (const { id, file } of common) expect(folder.get(file)).toBe(library.get(id)!.versions[library.get(id)!.draft])
      }
      const nth = <T>(each: Iterable<T>, at: number): T | undefined => {
        const all = [...each]
        return all[at % Math.max(1, all.length)]
      }
      for (const { what, which } of [...list, { what: 'look', which: 0 }]) {
        const file = nth(folder.keys(), which)
        const id = nth(library.keys(), which)
        if (what === 'look') look()
        else if (what === 'new file') folder.set(`file ${next++}.yaml`, text())
        else if (what === 'new report') library.set(`report ${next++}`, { versions: [text()], draft: 0 })
        else if (what === 'edit file' && file) {
          // a text that nobody has seen yet is whoever overwrites it to answer for
          written.delete(folder.get(file)!)
          folder.set(file, text())
        } else if (what === 'drop file' && file) {
          written.delete(folder.get(file)!)
          folder.delete(file)
        } else if (what === 'edit report' && id) {
          const own = library.get(id)!
          own.versions.push(text())
          own.draft = own.versions.length - 1
        } else if (what === 'put away' && id) {
          for (const each of library.get(id)!.versions) away.add(each)
          library.delete(id)
        }
      }
      const kept = new Set([...folder.values(), ...[...library.values()].flatMap(each => each.versions), ...away])
      expect([...written].filter(each => !kept.has(each))).toEqual([])
    }),
    { numRuns: 500 },
  )
})
