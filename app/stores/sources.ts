import { defineStore } from 'pinia'
import type { SourceInfo } from '../../core/api/answers'
import type { SourceSettings } from '../../core/books/settings'

/** The sources that there are, and the one at hand: that of the report being edited or run, or the one looked at. */
export const useSources = defineStore('sources', () => {
  const all = shallowRef<SourceInfo[]>([])
  /** those that people choose from: a source under the names of a report is that source */
  const list = computed(() => all.value.filter(each => !each.of))
  const chosen = ref('')
  const current = computed(() => all.value.find(each => each.id === chosen.value) ?? list.value[0])
  /** the day of the source at hand; what a formula reads as today() */
  const today = computed(() => current.value?.today ?? Math.floor(Date.now() / 86_400_000))

  async function load(): Promise<void> {
    all.value = await api<SourceInfo[]>('/api/sources')
  }
  /** From now on this source is at hand. */
  function use(id: string | undefined): void {
    chosen.value = id ?? ''
  }
  /** The address of something of the source at hand. */
  const path = (rest: string) => `/api/sources/${encodeURIComponent(current.value?.id ?? '')}/${rest}`

  /** What is kept with the source at hand. */
  const settings = () => api<{ value: SourceSettings; version: number }>(path('settings'))
  /** Changes it, on the version that is there; told where somebody else changes it at the same moment. */
  async function changeSettings(change: (settings: SourceSettings) => SourceSettings): Promise<SourceSettings> {
    const { value, version } = await settings()
    const { value: kept } = await api<{ value: SourceSettings }>(path('settings'), {
      method: 'PUT',
      body: { settings: change(value), basedOn: version },
    })
    return kept
  }
  return { all, list, current, today, load, use, path, settings, changeSettings }
})
