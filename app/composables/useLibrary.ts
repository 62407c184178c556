import type { LibraryHit, LibraryShelf } from '../../core/api/answers'

type Listed = LibraryShelf['reports'][number]

/** The shelves with what can be done to them: each change is sent, and the library read again. */
export function useLibrary() {
  const shelves = ref<LibraryShelf[]>()
  const problem = ref('')
  const toast = useToast()

  async function load(): Promise<void> {
    try {
      shelves.value = await api<LibraryShelf[]>('/api/library')
      problem.value = ''
    } catch (error) {
      problem.value = (error as Error).message
    }
  }
  /** Sends a change; what failed is said, and the library stands as it is. */
  async function change<T>(path: string, method: 'POST' | 'PUT' | 'DELETE', body?: object): Promise<T | undefined> {
    try {
      const answer = await api<T>(path, { method, ...(body ? { body } : {}) })
      await load()
      return answer
    } catch (error) {
      toast.add({ title: (error as Error).message, color: 'error' })
      await load()
      return undefined
    }
  }
  const of = (id: string, rest = '') => `/api/reports/${id}${rest}`

  async function copy(report: Listed): Promise<void> {
    const made = await change<{ name: string }>(of(report.id, '/copy'), 'POST')
    if (made) toast.add({ title: t('library.standsBesideIt', { name: made.name }), icon: 'i-lucide-copy' })
  }
  const rename = (report: Listed, name: string) => change(of(report.id, '/name'), 'PUT', { name })
  const place = (report: string, shelf: string, before?: string) =>
    change(of(report, '/place'), 'PUT', { shelf, ...(before ? { before } : {}) })
  /** Puts a report away and offers to bring it back. */
  async function putAway(report: Listed): Promise<void> {
    if (!(await change(of(report.id), 'DELETE'))) return
    toast.add({
      title: t('library.isPutAwayItCan', { name: report.name }),
      icon: 'i-lucide-trash-2',
      duration: 20_000,
      actions: [
        { label: t('common.undo'), color: 'neutral', variant: 'outline', onClick: () => void change(of(report.id, '/restore'), 'POST') },
      ],
    })
  }
  async function usesOf(report: Listed): Promise<string> {
    const { addresses, nestedIn } = await api<{ addresses: number; nestedIn: string[] }>(of(report.id, '/uses'))
    const names = new Intl.ListFormat(locale()).format(nestedIn.map(each => `“${each}”`))
    return [
      ...(nestedIn.length ? [t('library.itIsNestedInWhich', { names })] : []),
      ...(addresses ? [t('library.refreshItAndWillStop', { addresses, what: t('library.addressReadsAddressesRead', addresses) })] : []),
    ].join(' ')
  }
  const addShelf = (name: string) => change<{ id: string }>('/api/shelves', 'POST', { name })
  const changeShelf = (id: string, to: { name?: string; move?: number; team?: string; release?: boolean }) =>
    change(`/api/shelves/${id}`, 'PUT', to)
  const removeShelf = (id: string) => change(`/api/shelves/${id}`, 'DELETE')

  const search = ref('')
  const hits = shallowRef<LibraryHit[]>()
  let stop: AbortController | undefined
  watch(
    search,
    useDebounceFn(async () => {
      stop?.abort()
      const text = search.value.trim()
      if (!text) {
        hits.value = undefined
        return
      }
      const mine = (stop = new AbortController())
      try {
        const found = await api<LibraryHit[]>(`/api/find?${new URLSearchParams({ text })}`, { signal: mine.signal })
        if (mine === stop) hits.value = found
      } catch (error) {
        if (!mine.signal.aborted) problem.value = (error as Error).message
      }
    }, 150),
  )
  /** The shelves with what the search found; all of them where nothing is searched. */
  const shown = computed(() =>
    hits.value && shelves.value
      ? shelves.value
          .map(shelf => ({ ...shelf, reports: shelf.reports.filter(report => hits.value!.some(hit => hit.id === report.id)) }))
          .filter(shelf => shelf.reports.length)
      : shelves.value,
  )
  const found = (id: string) => {
    const hit = hits.value?.find(each => each.id === id)
    return !hit || hit.why === 'name'
      ? ''
      : hit.why === 'table'
        ? t('library.reads', { what: hit.what })
        : t('library.says', { what: hit.what })
  }
  return { shelves, shown, problem, load, copy, rename, place, putAway, usesOf, addShelf, changeShelf, removeShelf, search, hits, found }
}
