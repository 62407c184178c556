import { ledgerAskers, statementsOf } from '../../core/model/ledger'
import { nestedReads } from '../../core/model/nested'
import { defineStore } from 'pinia'
import type { Catalog } from '../../core/books/catalog'
import { modelOf } from '../../core/compose/assemble'
import { readRecordsOf } from '../../core/value/nestedEnvelope'
import type { DataRecords } from '../../core/value/records'
import { layoutNamed } from '../../core/definition/walk'
import type { PanelBlock } from '../../core/definition/blocks/panel'
import type { ReportDefinition } from '../../core/definition/report'
import { useMe } from './me'
import { useSources } from './sources'

export interface Rows {
  records: DataRecords
  /** the records as they came, for whoever else needs them */
  bytes: Uint8Array<ArrayBuffer>
  /** how many roots there are, where that is known; about how many, where it is not */
  total?: number
  about?: number
  sql: string[]
  ms: number
  empty?: string
  /** what has changed in the source since the report was made, in sentences */
  changes?: string[]
  labels?: Record<string, Record<string, string>>
  /** they were taken in from a file */
  fromFile?: boolean
}
/** Rows as they come from the server: see packEnvelope. */
export function unpackRows(bytes: Uint8Array<ArrayBuffer>): Rows {
  const { head, records } = readRecordsOf<Omit<Rows, 'records' | 'bytes'>>(bytes)
  return { ...head, records, bytes }
}
interface Loaded {
  id: string
  name: string
  shelf: string
  version: number
  published: number | null
  definition: ReportDefinition
}

/** The report being edited: one immutable definition, its history, its rows, and the state of saving. */
export const useReport = defineStore('report', () => {
  const sources = useSources()
  const me = useMe()
  const id = ref('')
  const name = ref('')
  const shelf = ref('')
  const version = ref(0)
  const published = ref<number | null>(null)
  const definition = shallowRef<ReportDefinition>()
  const catalog = shallowRef<Catalog>()
  const rows = shallowRef<Rows>()
  const answers = ref<Record<string, string>>({})
  /** how many roots are pinned */
  const pinned = ref(200)
  const reading = ref(false)
  const problem = ref('')
  const saving = ref<'saved' | 'waiting' | 'saving' | 'failed' | 'conflict'>('saved')
  const saveProblem = ref('')
  const past = shallowRef<{ definition: ReportDefinition; label: string }[]>([])
  const future = shallowRef<{ definition: ReportDefinition; label: string }[]>([])
  let merging = ''

  const sourceProblem = ref('')
  const pinnedAt = ref<Date>()
  // an edit of a layout leaves the data sets as they are, and with them all that is worked out from them
  const model = computed(() => (definition.value && catalog.value ? modelOf(definition.value, catalog.value) : undefined))
  const tree = computed(() => model.value?.trees[0])
  const layoutName = ref<string>()
  /** the layout being edited, and the one that its name stands for */
  const layout = computed(() => (definition.value ? layoutNamed(definition.value, layoutName.value) : undefined))
  /** the letterhead that all reports share */
  const letterhead = shallowRef<PanelBlock>()
  let letterheadVersion = 0
  async function keepLetterhead(panel: PanelBlock): Promise<void> {
    const { version: kept } = await api<{ version: number }>('/api/letterhead', {
      method: 'PUT',
      body: { panel, basedOn: letterheadVersion },
    })
    letterheadVersion = kept
    letterhead.value = panel
  }
  const unpublished = computed(() => published.value !== version.value || saving.value !== 'saved')

  async function load(wanted: string): Promise<void> {
    if (id.value === wanted && definition.value) return
    definition.value = undefined
    rows.value = undefined
    const [report, shared] = await Promise.all([
      api<Loaded>(`/api/reports/${encodeURIComponent(wanted)}`),
      api<{ letterhead: PanelBlock | null; version: number }>('/api/letterhead'),
      // whose unsaved changes they are
      me.known || me.read().catch(() => {}),
    ])
    sources.use(report.definition.dataSets[0]?.source)
    await readCatalog()
    letterhead.value = shared.letterhead ?? undefined
    letterheadVersion = shared.version
    id.value = report.id
    name.value = report.name
    shelf.value = report.shelf
    version.value = report.version
    published.value = report.published
    layoutName.value = undefined
    past.value = []
    future.value = []
    saving.value = 'saved'
    definition.value = report.definition
    answers.value = {}
    restoreUnsaved()
    await usePinned()
    if (!rows.value) await readRows()
  }

  async function readCatalog(again = false): Promise<void> {
    const { problem: away, ...found } = await api<Catalog & { problem: string }>(sources.path(`catalog${again ? '?again=1' : ''}`))
    catalog.value = found
    sourceProblem.value = away
  }

  /** The rows that were pinned last, so that work begins at once, and with no source at all. */
  async function usePinned(): Promise<void> {
    const bytes = await apiBytes(`/api/reports/${id.value}/pinned`)
    if (!bytes.length) return
    const kept = unpackRows(bytes) as Rows & { answers?: Record<string, string>; pinnedAt?: string }
    if (kept.records.levels.length !== tree.value?.levels.length) return
    answers.value = kept.answers ?? {}
    pinnedAt.value = new Date(kept.pinnedAt!)
    rows.value = kept
  }

  /** Takes rows from a file as the pinned ones. */
  async function importRows(format: 'json' | 'csv', text: string, level?: string): Promise<void> {
    const bytes = await apiBytes(`/api/reports/${id.value}/pinned`, {
      method: 'PUT',
      body: { definition: definition.value, answers: answers.value, format, text, level },
    })
    const kept = unpackRows(bytes) as Rows & { pinnedAt: string }
    pinnedAt.value = new Date(kept.pinnedAt)
    rows.value = kept
    problem.value = ''
  }

  /** Changes made while the server was away, or refused by it, come back from the browser's own store. */
  function restoreUnsaved(): void {
    const kept = localStorage.getItem(keptAs())
    if (!kept) return
    try {
      const { basedOn, definition: unsaved } = JSON.parse(kept) as { basedOn: number; definition: ReportDefinition }
      if (basedOn === version.value) edit(t('report.changesKeptFromLastTime'), () => unsaved)
      else {
        // the draft has moved on: the server keeps the changes as a version beside it and says so
        api(`/api/reports/${id.value}`, { method: 'PUT', body: { basedOn, definition: unsaved } }).catch(
          (error: Error) => (saveProblem.value = error.message),
        )
        forgetUnsaved()
      }
    } catch {
      forgetUnsaved()
    }
  }
  /** On a machine that several people use, each finds their own. */
  const keptAs = () => `estante unsaved ${me.person ? `${me.person.id} ` : ''}${id.value}`
  let keeping: ReturnType<typeof setTimeout> | undefined
  function forgetUnsaved(): void {
    clearTimeout(keeping)
    keeping = undefined
    localStorage.removeItem(keptAs())
  }

  let readTurn = 0
  let stop: AbortController | undefined
  /** Reads the first records for the definition as it stands. */
  async function readRows(): Promise<void> {
    const turn = ++readTurn
    stop?.abort()
    stop = new AbortController()
    reading.value = true
    try {
      const found = await apiBytes(`/api/reports/${id.value}/pinned`, {
        method: 'POST',
        body: { definition: definition.value, answers: answers.value, limit: pinned.value },
        signal: stop.signal,
      })
      if (turn !== readTurn) return
      rows.value = unpackRows(found)
      pinnedAt.value = new Date()
      problem.value = ''
    } catch (error) {
      if (turn === readTurn && !stop.signal.aborted) problem.value = (error as Error).message
    } finally {
      if (turn === readTurn) reading.value = false
    }
  }

  // whatever changes what is read (an edit, undo, redo) reads again
  let keyed: { from: unknown[]; text: string } | undefined
  const readKey = computed(() => {
    if (!definition.value) return undefined
    const { dataSets, tables, parameters } = definition.value
    const statements = statementsOf(definition.value)
    const roots = dataSets.map(dataSet => dataSet.root)
    const askers = ledgerAskers(definition.value)
    const nested = nestedReads(definition.value)
    const from = [nested, tables, parameters, ...roots, ...statements, ...askers]
    if (keyed?.from.length !== from.length || keyed.from.some((each, at) => each !== from[at])) {
      const read = statements.map(block => [
        block.columns.map(({ kind, span, repeat, version, branches, departments }) => [
          kind,
          span,
          repeat,
          version,
          branches?.length,
          departments?.length,
        ]),
        block.lines.map(line => line.accounts),
        block.lines.some(line => line.branches?.length),
        block.lines.some(line => line.departments?.length),
      ])
      const asked = askers.slice(statements.length)
      keyed = {
        from,
        text: JSON.stringify([nested, roots, tables, read, asked, parameters.map(({ label: _, help: __, ...rest }) => rest)]),
      }
    }
    return keyed.text
  })
  watch(readKey, (now, before) => {
    // rows from a file stay until they are refreshed by hand
    if (now && before && !rows.value?.fromFile) void readRows()
  })

  /** Other answers to design with. */
  function setAnswers(next: Record<string, string>): void {
    answers.value = next
    if (!rows.value?.fromFile) void readRows()
  }

  const stopReading = () => stop?.abort(new Error('cancelled'))

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
  /** Changes that the server does not have yet stand in the browser's own store. */
  function keepUnsaved(): void {
    clearTimeout(keeping)
    keeping = undefined
    localStorage.setItem(keptAs(), JSON.stringify({ basedOn: version.value, definition: definition.value }))
  }
  // a tab that is closed or put aside has them at once
  if (typeof window !== 'undefined') window.addEventListener('pagehide', () => keeping && keepUnsaved())

  function changed(): void {
    // not at every move of a drag
    keeping ??= setTimeout(keepUnsaved, 150)
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
        const result = await api<{ version: number }>(`/api/reports/${id.value}`, {
          method: 'PUT',
          body: { basedOn: version.value, definition: sent },
        })
        version.value = result.version
        saveProblem.value = ''
        if (definition.value === sent) {
          saving.value = 'saved'
          forgetUnsaved()
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
    forgetUnsaved()
    const wanted = id.value
    id.value = ''
    saveProblem.value = ''
    await load(wanted)
  }

  /** Publishes the draft; comes back with its version where that waits for a second person. */
  async function publish(): Promise<number | undefined> {
    await save()
    if (saving.value !== 'saved') return undefined
    const outcome = await api<{ published: number } | { waiting: number }>(`/api/reports/${id.value}/publish`, { method: 'POST' })
    if ('waiting' in outcome) return outcome.waiting
    published.value = outcome.published
    return undefined
  }

  return {
    id,
    name,
    shelf,
    version,
    published,
    unpublished,
    definition,
    catalog,
    model,
    tree,
    sourceProblem,
    layout,
    layoutName,
    letterhead,
    keepLetterhead,
    pinned,
    pinnedAt,
    rows,
    answers,
    reading,
    problem,
    saving,
    saveProblem,
    past,
    future,
    today: computed(() => sources.today),
    load,
    readCatalog,
    readRows,
    stopReading,
    importRows,
    setAnswers,
    edit,
    undo,
    redo,
    save,
    takeCurrent,
    publish,
  }
})
