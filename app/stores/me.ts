import { defineStore } from 'pinia'
import type { DemoPerson, Me, Person } from '../../core/api/people'

/** Who is signed in, as far as it has been asked. */
export const useMe = defineStore('me', () => {
  const person = shallowRef<Person>()
  /** somebody can sign in here */
  const people = ref(false)
  const known = ref(false)
  const demo = shallowRef<DemoPerson[]>([])
  const closed = ref(false)
  const second = ref(false)
  const password = ref(false)
  const provider = shallowRef<Me['provider']>()
  /** They may build reports; so may whoever sits at the machine where nobody signs in. */
  const author = computed(() => !person.value || person.value.role !== 'reader')
  const administrator = computed(() => !person.value || person.value.role === 'administrator')
  async function read(): Promise<void> {
    const found = await api<Me>('/api/me')
    ;[person.value, people.value, known.value] = [found.person, found.people, true]
    demo.value = found.demo ?? []
    closed.value = found.closed === true
    second.value = found.second === true
    password.value = found.password === true
    provider.value = found.provider
    // what was put together in another language is put together anew
    if (found.language && (await speak(found.language))) window.location.reload()
  }
  async function signOut(): Promise<void> {
    const { to } = await api<{ to?: string }>('/api/session', { method: 'DELETE' })
    person.value = undefined
    // what was read for somebody stays with nobody: the page begins anew
    window.location.assign(to ?? '/sign-in')
  }
  return { person, people, known, demo, closed, second, password, provider, author, administrator, read, signOut }
})
