import type { JoinMatch, JoinSample } from '../../core/sql/match'
import { defineStore } from 'pinia'
import type { LevelInfo } from '../../core/formula/typed'
import type { FieldProfile } from '../../core/sql/profile'
import type { JoinPair } from '../../core/catalog/types'
import { type Rows, unpackRows } from './report'

/** What stands at the right of the rows. */
export type DataPanel =
  | { kind: 'profile'; level: string; path: string }
  | { kind: 'join'; level: string; record: string }
  | { kind: 'related'; level: string; record: string }
  | { kind: 'calculated'; level: string; name?: string }
  | { kind: 'total'; level: string; name?: string }
  | { kind: 'table'; table: 'sql' | 'summary' | 'stack'; name?: string; base?: string; parent?: string }
  | { kind: 'ageing'; level: string; name?: string }
  | { kind: 'openItems'; name?: string }
  | { kind: 'elsewhere'; name?: string }
  | { kind: 'ledger'; name: string }
  | { kind: 'nested'; block: string }
  | { kind: 'pinned' }

/** The Data stage: which data set is looked at, its rows, and what is open beside them. */
export const useData = defineStore('data', () => {
  const report = useReport()
  const index = ref(0)
  const panel = shallowRef<DataPanel>()
  const other = shallowRef<Rows>()
  const problem = ref('')
  const reading = ref(false)
  const counted = ref<number>()

  const current = computed(() => Math.min(index.value, (report.definition?.dataSets.length ?? 1) - 1))
  const tree = computed(() => report.model?.trees[current.value])
  const rows = computed(() => (current.value ? other.value : report.rows))
  const busy = computed(() => (current.value ? reading.value : report.reading))
  const level = (name: string): LevelInfo | undefined => tree.value?.levels.find(each => each.name === name)

  let stop: AbortController | undefined
  async function readOther(): Promise<void> {
    stop?.abort()
    if (!current.value || !report.definition) return
    const mine = (stop = new AbortController())
    reading.value = true
    try {
      const found = await apiBytes('/api/rows', {
        method: 'POST',
        body: { definition: report.definition, answers: report.answers, limit: report.pinned, dataSet: current.value },
        signal: mine.signal,
      })
      if (mine === stop) {
        other.value = unpackRows(found)
        problem.value = ''
      }
    } catch (error) {
      if (mine === stop && !mine.signal.aborted) problem.value = (error as Error).message
    } finally {
      if (mine === stop) reading.value = false
    }
  }
  watch([current, () => report.rows, () => report.id], () => {
    counted.value = undefined
    if (current.value) void readOther()
  })
  watch(
    () => report.id,
    () => {
      index.value = 0
      panel.value = undefined
    },
  )

  function cancel(): void {
    if (current.value) stop?.abort()
    else report.stopReading()
    reading.value = false
  }

  /** Counts all roots, not only those that are shown. */
  async function count(): Promise<void> {
    try {
      counted.value = await countOf(report.definition)
    } catch (error) {
      problem.value = (error as Error).message
    }
  }
  const countOf = async (definition: unknown): Promise<number> =>
    (await api<{ count: number }>('/api/count', { method: 'POST', body: { definition, answers: report.answers, dataSet: current.value } }))
      .count

  const profile = (of: string, path: string, search: string, signal?: AbortSignal) =>
    api<FieldProfile>('/api/profile', {
      method: 'POST',
      body: { definition: report.definition, answers: report.answers, dataSet: current.value, level: of, path, search },
      signal,
    })

  interface Joining {
    from: string
    to: string
    on: JoinPair[]
    direction: 'related' | 'detail'
  }
  const asked = (joining: Joining) => ({ definition: report.definition, answers: report.answers, dataSet: current.value, ...joining })
  const match = (joining: Joining, signal?: AbortSignal) => api<JoinMatch>('/api/match', { method: 'POST', body: asked(joining), signal })
  /** a first look, at some rows */
  const sample = (joining: Joining, signal?: AbortSignal) =>
    api<JoinSample>('/api/match', { method: 'POST', body: { ...asked(joining), sample: true }, signal })

  return { index, current, panel, tree, rows, busy, problem, counted, level, readOther, cancel, count, countOf, profile, match, sample }
})
