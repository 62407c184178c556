import type { Library } from '../../core/plain/folder'
import type { Context } from '../access/context'
import { mayBe } from '../access/need'
import type { Store } from '../store/store'

/** What arranging did: names of shelves and reports, and what was left as it was, a sentence each. */
export interface Arranged {
  changed: string[]
  left: string[]
}

/** Puts up the shelves of a folder that are not in the library, in the folder's order and after those that are. */
export async function addShelves(context: Context, store: Store, told: Library): Promise<void> {
  const known = new Set((await store.library(context)).map(each => each.name))
  for (const { name } of told.shelves) if (!known.has(name)) await store.shelving.addShelf(context, name)
}

/**
 * Puts shelves and their reports into the order of a folder, and says of each shelf whether a second person releases what is published
 * there. What the folder does not hold stands after what it does.
 */
export async function arrange(context: Context, store: Store, told: Library): Promise<Arranged> {
  const done: Arranged = { changed: [], left: [] }
  const now = await store.library(context)
  const ids = new Map(now.flatMap(shelf => shelf.reports.filter(each => each.edit !== false).map(each => [each.name, each.id] as const)))
  for (const { name, release } of told.shelves) {
    const shelf = now.find(each => each.name === name)
    if (!shelf) {
      done.left.push(`The shelf “${name}” is a team’s that you are not in; it was left as it is.`)
      continue
    }
    const wanted = told.reports.filter(each => each.shelf === name && ids.has(each.name)).map(each => each.name)
    const present = shelf.reports.map(each => each.name).filter(each => wanted.includes(each))
    if (wanted.join('\n') !== present.join('\n')) {
      for (const report of wanted) await store.shelving.place(context, ids.get(report)!, shelf.id)
      const others = shelf.reports.filter(each => ids.has(each.name) && !wanted.includes(each.name))
      for (const { id, name: other } of others)
        if (!told.reports.some(each => each.name === other)) await store.shelving.place(context, id, shelf.id)
      done.changed.push(name)
    }
    if ((shelf.release === true) === release) continue
    if (mayBe(context, 'administrator')) {
      await store.shelving.changeShelf(context, shelf.id, { release })
      if (!done.changed.includes(name)) done.changed.push(name)
    } else done.left.push(`Whether a second person releases what is published on “${name}” is for administrators; it was left as it is.`)
  }
  const order = told.shelves.map(each => each.name)
  const all = now.map(each => each.name)
  const mine = order.filter(each => all.includes(each))
  if (mine.join('\n') === all.filter(each => mine.includes(each)).join('\n')) return done
  for (const [at, name] of mine.entries()) {
    const from = all.indexOf(name)
    if (from !== at) await store.shelving.changeShelf(context, now.find(each => each.name === name)!.id, { move: at - from })
    all.splice(at, 0, ...all.splice(from, 1))
  }
  return { ...done, changed: [...done.changed, 'the order of shelves'] }
}
