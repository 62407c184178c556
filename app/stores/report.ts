import { defineStore } from 'pinia'
import type { Catalog } from '../../core/catalog/types'
import { levelTree } from '../../core/dataset/levels'
import type { Column, DataRecords } from '../../core/dataset/records'
import type { ReportDefinition } from '../../core/definition/types'
import { clock } from '../../demo/clock'

export interface Rows { records: DataRecords, total: number, sql: string[], ms: number, empty?: string }
interface Loaded { id: string, name: string, shelf: string, version: number, published: number | null, definition: ReportDefinition }

const pinned = 200

/** The report being edited: one immutable definition, its history, its rows, and the state of saving. */
export const useReport = defineStore('report', () => {
  const id = ref('')
  const name = ref('')
  const shelf = ref('')
  const version = ref(0)
  const published = ref<number | null>(null)
  const definition = shallowRef<ReportDefinition>()
  const catalog = shallowRef<Catalog>()
  const rows = shallowRef<Rows>()
  const answers = ref<Record<string, string>>({})
  const reading = ref(false)
  const problem = ref('')
  const saving = ref<'saved' | 'waiting' | 'saving' | 'failed' | 'conflict'>('saved')
  const saveProblem = ref('')
  const past = shallowRef<{ definition: ReportDefinition, label: string }[]>([])
  const future = shallowRef<{ definition: ReportDefinition, label: string }[]>([])
  let merging = ''

  const tree = computed(() => definition.value && catalog.value ? levelTree(definition.value.dataSets[0]!, catalog.value) : undefined)
  const unpublished = computed(() => published.value !== version.value || saving.value !== 'saved')

  async function load(wanted: string): Promise<void> {
    if (id.value === wanted && definition.value) return
    definition.value = undefined
    rows.value = undefined
    const [report, found] = await Promise.all([api<Loaded>(`/api/reports/${encodeURIComponent(wanted)}`), api<Catalog>('/api/catalog')])
    catalog.value = found
    id.value = report.id
    name.value = report.name
    shelf.value = report.shelf
    version.value = report.version
    published.value = report.published
    past.value = []
    future.value = []
    saving.value = 'saved'
    definition.value = report.definition
    restoreUnsaved()
    await readRows()
  }

  /** Changes made while the server was away, or refused by it, come back from the browser's own store. */
  function restoreUnsaved(): void {
    const kept = localStorage.getItem(keptAs())
    if (!kept) return
    try {
      const { basedOn, definition: unsaved } = JSON.parse(kept) as { basedOn: number, definition: ReportDefinition }
      if (basedOn === version.value) edit('Changes kept from last time', () => unsaved)
      else {
        // the draft has moved on: the server keeps the changes as a version beside it and says so
        api(`/api/reports/${id.value}`, { method: 'PUT', body: { basedOn, definition: unsaved } }).catch((error: Error) => saveProblem.value = error.message)
        localStorage.removeItem(keptAs())
      }
    } catch {
      localStorage.removeItem(keptAs())
    }
  }
  const keptAs = () => `estante unsaved ${id.value}`

  let readTurn = 0
  let stop: AbortController | undefined
  /** Reads the first records for the definition as it stands. */
  async function readRows(): Promise<void> {
    const turn = ++readTurn
    stop?.abort()
    stop = new AbortController()
    reading.value = true
    try {
      const found = await api<Rows & { levels: PackedLevel[] }>('/api/rows', { method: 'POST', body: { definition: definition.value, answers: answers.value, limit: pinned }, signal: stop.signal })
      if (turn !== readTurn) return
      rows.value = { records: { levels: found.levels.map(unpack) }, total: found.total, sql: found.sql, ms: found.ms, ...(found.empty ? { empty: found.empty } : {}) }
      problem.value = ''
    } catch (error) {
      if (turn === readTurn && !stop.signal.aborted) problem.value = (error as Error).message
    } finally {
      if (turn === readTurn) reading.value = false
    }
  }

  // whatever changes what is read (an edit, undo, redo) reads again
  watch(() => definition.value?.dataSets[0]?.root, (now, before) => {
    if (now && before) void readRows()
  })

  /** Makes an edit; edits that follow one another with the same `merge` word are one step of undo. */
  function edit(label: string, change: (definition: ReportDefinition) => ReportDefinition, merge = ''): void {
    const before = definition.value!
    const after = change(before)
    if (after === before) return
    if (!merge || merge !== merging || !past.value.length) past.value = [...past.value, { definition: before, label }]
    merging = merge
    future.value = []
    definition.value = after
    changed()
  }

  function undo(): void {
    const last = past.value.at(-1)
    if (!last) return
    future.value = [...future.value, { definition: definition.value!, label: last.label }]
    past.value = past.value.slice(0, -1)
    definition.value = last.definition
    merging = ''
    changed()
  }

  function redo(): void {
    const next = future.value.at(-1)
    if (!next) return
    past.value = [...past.value, { definition: definition.value!, label: next.label }]
    future.value = future.value.slice(0, -1)
    definition.value = next.definition
    merging = ''
    changed()
  }

  let timer: ReturnType<typeof setTimeout> | undefined
  function changed(): void {
    localStorage.setItem(keptAs(), JSON.stringify({ basedOn: version.value, definition: definition.value }))
    if (saving.value !== 'conflict') saving.value = 'waiting'
    clearTimeout(timer)
    timer = setTimeout(() => void save(), 700)
  }

  let running: Promise<void> | undefined
  /** Saves the draft; a save that fails is tried again with the next edit, and the changes stay in this browser. */
  async function save(): Promise<void> {
    clearTimeout(timer)
    if (running) await running
    if (saving.value === 'conflict' || saving.value === 'saved') return
    running = (async () => {
      const sent = definition.value!
      saving.value = 'saving'
      try {
        const result = await api<{ version: number }>(`/api/reports/${id.value}`, { method: 'PUT', body: { basedOn: version.value, definition: sent } })
        version.value = result.version
        saveProblem.value = ''
        if (definition.value === sent) {
          saving.value = 'saved'
          localStorage.removeItem(keptAs())
        } else changed()
      } catch (error) {
        saveProblem.value = (error as Error).message
        saving.value = error instanceof ApiError && error.status === 409 ? 'conflict' : 'failed'
      }
    })()
    await running
    running = undefined
  }

  /** After a conflict: takes the current version and lets go of what stands here (which is kept as a version). */
  async function takeCurrent(): Promise<void> {
    localStorage.removeItem(keptAs())
    const wanted = id.value
    id.value = ''
    saveProblem.value = ''
    await load(wanted)
  }

  async function publish(): Promise<void> {
    await save()
    if (saving.value !== 'saved') return
    published.value = (await api<{ published: number }>(`/api/reports/${id.value}/publish`, { method: 'POST' })).published
  }

  return { id, name, shelf, version, published, unpublished, definition, catalog, tree, rows, answers, reading, problem, saving, saveProblem, past, future, today: clock, load, readRows, edit, undo, redo, save, takeCurrent, publish }
})

interface PackedLevel { count: number, starts: number[], columns: Record<string, { kind: Column['kind'], scale?: number, values: (number | string | null)[], wide?: [number, string][] }> }

function unpack(level: PackedLevel): DataRecords['levels'][number] {
  const columns: Record<string, Column> = {}
  for (const [path, column] of Object.entries(level.columns)) {
    if (column.kind === 'text') columns[path] = { kind: 'text', values: column.values as (string | null)[] }
    else if (column.kind === 'boolean') columns[path] = { kind: 'boolean', values: Uint8Array.from(column.values as number[]) }
    else {
      const values = Float64Array.from(column.values, value => value === null ? NaN : value === 'wide' ? Infinity : value as number)
      columns[path] = column.kind === 'date' ? { kind: 'date', values }
        : { kind: 'number', scale: column.scale!, values, ...(column.wide ? { wide: new Map(column.wide.map(([row, units]) => [row, BigInt(units)])) } : {}) }
    }
  }
  return { count: level.count, starts: Int32Array.from(level.starts), columns }
}
