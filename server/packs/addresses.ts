import { ownContext } from '../access/context'
import type { Store } from '../store/store'
import type { Addresses } from './prepare'

/** Mail addresses of people: what they sign in with, where that is one. */
export class PackAddresses implements Addresses {
  constructor(private readonly store: Store) {}

  async of(who: string): Promise<{ name: string; address: string | undefined }[]> {
    const [kind, id] = [who.slice(0, who.indexOf(' ')), who.slice(who.indexOf(' ') + 1)]
    const people = await this.store.people.list(ownContext)
    const found = people.filter(each => (kind === 'person' ? each.id === id : each.teams.includes(id)))
    return found.map(({ name, signIn }) => ({ name, address: signIn?.includes('@') ? signIn : undefined }))
  }
}
