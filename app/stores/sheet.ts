import equal from 'fast-deep-equal'
import { isTies } from '../../core/definition/blocks/ties'
import { defineStore } from 'pinia'
import * as edits from '../../core/definition/edits/edits'
import * as statementEdits from '../../core/definition/edits/statement'
import { blocksOf } from '../../core/definition/walk'
import { withLetterhead } from '../../core/definition/edits/layout'
import type { TieOutResult } from '../../core/definition/tieOuts'
import { statementsOf } from '../../core/model/ledger'
import type { Box, Page } from '../../core/compose/page'
import type { LayoutNotice } from '../../core/compose/notices'
import type { LayoutProblem } from '../../core/compose/prepared'
import type { BehindFigure } from '../../core/compose/behind'
import type { ComposeReply, ComposeRequest, Sought } from '../workers/compose.worker'

/** What is selected on the sheet: a place of the layout, and where it was clicked. */
export interface Selection {
  block: string
  part: Box['part']
  /** the table's row */
  rowId?: string
  cell?: string
  page: number
  /** the record it was clicked on */
  row: number
  /** more items of the same panel, or more columns of the same row */
  more?: string[]
}

/** The moment, as pages print it. */
export function printedNow(language: string): string {
  let format = moments.get(language)
  if (!format) moments.set(language, (format = new Intl.DateTimeFormat(language, { dateStyle: 'medium', timeStyle: 'short' })))
  return format.format(new Date())
}
const moments = new Map<string, Intl.DateTimeFormat>()

function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false
  for (let at = 0; at < a.length; at++) if (a[at] !== b[at]) return false
  return true
}

/** The pages of the report being edited, made in a web worker from its pinned rows. */
export const useSheet = defineStore('sheet', () => {
  const report = useReport()
  /** what the tie-outs came to, where the layout prints them */
  const ties = shallowRef<TieOutResult[]>()
  const pages = shallowRef<ReadonlyMap<number, Page>>(new Map())
  const statements = computed<ReadonlySet<string>>(
    () => new Set(report.definition ? statementsOf(report.definition).map(block => block.id) : []),
  )
  const { folded, folds, toggle: toggleFold, all: foldAll } = useFolds(pages, statements)
  const count = ref(0)
  const total = ref<number>()
  const problems = shallowRef<LayoutProblem[]>([])
  const notices = shallowRef<LayoutNotice[]>([])
  const needsAll = ref(false)
  const traced = shallowRef<BehindFigure[]>()
  const failed = ref('')
  const selection = shallowRef<Selection>()
  const editing = ref(false)
  let worker: Worker | undefined
  let turn = 0
  let range = { from: 0, to: 3 }
  let inView = 0
  /** pages that have come since the last edit */
  const made = new Set<number>()
  let shown = 0

  // for tests and the console: what is drawn, without touching it
  const drawn = new Set<() => void>()
  Object.assign(window, {
    estanteSheet: () => ({
      pages: pages.value,
      undo: report.undo,
      edit: (name: string, ...args: unknown[]) =>
        report.edit(name, now =>
          (({ ...edits, ...statementEdits }) as unknown as Record<string, (definition: typeof now, ...rest: unknown[]) => typeof now>)[
            name
          ]!(now, ...args),
        ),
      painted: () => new Promise<void>(resolve => drawn.add(resolve)),
    }),
  })

  function start(): void {
    worker ??= new Worker(new URL('../workers/compose.worker.ts', import.meta.url), { type: 'module' })
    worker.onmessage = ({ data }: MessageEvent<ComposeReply>) => receive(data)
    if (report.rows) sendRows()
  }

  function stop(): void {
    worker?.terminate()
    worker = undefined
    ties.value = undefined
    pages.value = new Map()
    count.value = 0
  }

  const post = (request: ComposeRequest) => worker?.postMessage(request)

  /** What the worker has: rows that were read again and are the same stay where they are. */
  let sent: { rows: NonNullable<typeof report.rows>; catalog: typeof report.catalog; today: number } | undefined
  /** the answers that the pages were made with last */
  let answered: Record<string, string> = {}
  const isSent = () =>
    sent &&
    sent.catalog === report.catalog &&
    sent.today === report.today &&
    equal(answered, report.answers) &&
    equal(sent.rows.labels, report.rows!.labels) &&
    sameBytes(sent.rows.bytes, report.rows!.bytes)

  function sendRows(): void {
    sent = { rows: report.rows!, catalog: report.catalog, today: report.today }
    post({
      kind: 'rows',
      rows: toRaw(report.rows!.bytes),
      catalog: toRaw(report.catalog!),
      today: report.today,
      ...(report.rows!.labels ? { labels: toRaw(report.rows!.labels) } : {}),
    })
    compose()
  }

  function compose(): void {
    if (!report.definition) return
    const above = pages.value.get(range.from)
    const anchor = above && above.record >= 0 && range.from > 0 ? { record: above.record, page: range.from - above.number + 1 } : undefined
    post({
      kind: 'compose',
      turn: ++turn,
      definition: withLetterhead(toRaw(report.definition), toRaw(report.letterhead)),
      layout: report.layout!.name,
      printed: printedNow(report.definition.language),
      ...(ties.value ? { tieOuts: ties.value } : {}),
      answers: (answered = { ...report.answers }),
      ...range,
      view: inView,
      ...(anchor ? { anchor } : {}),
    })
  }

  function receive(reply: ComposeReply): void {
    if (reply.turn !== turn) return
    if (reply.kind === 'missing') {
      if (!report.reading) void report.readRows()
      return
    }
    if (reply.kind === 'trace') {
      traced.value = reply.traced
      return
    }
    if (reply.kind === 'found') {
      onFound?.(reply)
      onFound = undefined
      return
    }
    if (reply.kind === 'failed') {
      failed.value = reply.sentence
      return
    }
    failed.value = ''
    // what says the same is not drawn anew
    if (!equal(problems.value, reply.problems)) problems.value = reply.problems
    if (!equal(notices.value, reply.notices)) notices.value = reply.notices
    needsAll.value = reply.needsAll
    // pages of an older turn stay in view until their new ones come
    if (shown !== turn) made.clear()
    shown = turn
    const next = new Map(pages.value)
    reply.pages.forEach((page, index) => {
      next.set(reply.from + index, page)
      made.add(reply.from + index)
    })
    if (reply.total !== undefined) for (const index of next.keys()) if (index >= reply.total) next.delete(index)
    // far pages of older edits are let go
    if (next.size > 60) for (const index of next.keys()) if (!made.has(index)) next.delete(index)
    pages.value = next
    if (drawn.size) {
      void nextTick(() => {
        drawn.forEach(tell => tell())
        drawn.clear()
      })
    }
    if (reply.total !== undefined) {
      count.value = reply.total
      total.value = reply.total
    } else if (reply.known > count.value) count.value = reply.known
  }

  /** Pages that are to be there, with the first of them that can be seen. */
  function want(from: number, to: number, view = from): void {
    inView = view
    range = { from, to: Math.max(to, from + 2) }
    if (shown === turn && Array.from({ length: to - from }, (_, index) => from + index).every(page => made.has(page))) return
    post({ kind: 'pages', turn, ...range })
  }

  let onFound: ((reply: ComposeReply & { kind: 'found' }) => void) | undefined
  /** Looks through all pages, from the one after `after` on; selects what it finds and gives its page, or −1. */
  function seek(what: Sought, after = -1): Promise<number> {
    return new Promise(resolve => {
      onFound = ({ page, box }) => {
        if (box)
          selection.value = {
            block: box.block,
            part: box.part,
            page,
            row: box.row,
            ...(box.cell ? { cell: box.cell } : {}),
            ...(box.rowId ? { rowId: box.rowId } : {}),
          }
        resolve(page)
      }
      post({ kind: 'seek', turn, what, after })
    })
  }

  /** Asks for the records behind the figure of a box. */
  function trace(box: Box): void {
    traced.value = undefined
    if (box.cell && box.standing !== undefined)
      post({ kind: 'trace', turn, block: box.block, cell: box.cell, standing: box.standing, ...(box.rowId ? { rowId: box.rowId } : {}) })
  }

  const printsTies = computed(() => !!report.layout && blocksOf(report.layout).some(block => isTies(block)))
  watchDebounced(
    () => [printsTies.value, JSON.stringify(report.definition?.tieOuts), report.pinnedAt],
    async () => {
      if (!worker || !printsTies.value || !report.definition?.tieOuts?.length) return
      try {
        ties.value = await api<TieOutResult[]>('/api/tieouts', {
          method: 'POST',
          body: { definition: report.definition, answers: report.answers },
        })
        compose()
      } catch {
        // the Tie-out stage says what is wrong; here they stand as not yet checked
        ties.value = undefined
      }
    },
    { debounce: 300, immediate: true },
  )
  watch(
    () => report.rows,
    rows => rows && worker && !isSent() && sendRows(),
  )
  watch(
    () => [report.definition, report.layout?.name, report.letterhead],
    () => worker && report.rows && compose(),
  )

  return {
    pages: folded,
    folds,
    toggleFold,
    foldAll,
    count,
    total,
    problems,
    notices,
    needsAll,
    traced,
    trace,
    seek,
    failed,
    selection,
    editing,
    start,
    stop,
    want,
  }
})
