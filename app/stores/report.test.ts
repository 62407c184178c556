// @vitest-environment happy-dom
import { createPinia, setActivePinia } from 'pinia'
import * as vue from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { setColumnWidth } from '../../core/definition/edits/edits'
import { setFilter } from '../../core/definition/edits/levels'
import type { ReportDefinition } from '../../core/definition/report'
import { salesInvoice } from '../../demo/reports/invoice'
import { packEnvelope } from '../../core/value/envelope'
import type { LevelRecords } from '../../core/value/records'
import '../../tests/appWords'
import { api, apiBytes, ApiError } from '../composables/api'
import { lookingAs } from '../composables/lookingAs'

// what Nuxt gives every file of app/ without an import
Object.assign(globalThis, {
  ref: vue.ref,
  shallowRef: vue.shallowRef,
  computed: vue.computed,
  watch: vue.watch,
  toRaw: vue.toRaw,
  api,
  apiBytes,
  ApiError,
  lookingAs,
})
const { useReport } = await import('./report')

/** A server that keeps one report, as the real one does. */
class FakeServer {
  versions: ReportDefinition[] = [salesInvoice()]
  draft = 1
  saves: { basedOn: number; definition: ReportDefinition }[] = []
  reads = 0
  lastAnswers: object = {}
  pinned: Uint8Array<ArrayBuffer> | undefined
  fail: { status: number; message: string } | 'unreachable' | undefined

  answer = async (path: string, options: { method?: string; body?: string } = {}): Promise<Response> => {
    const json = (data: unknown, status = 200) => new Response(JSON.stringify(data), { status })
    if (this.fail === 'unreachable') throw new TypeError('fetch failed')
    if (path === '/api/sources') return json([{ id: 'caisvelho', name: 'Cais Velho', kind: 'demo', today: 20757, desk: false }])
    if (path.includes('/catalog')) return json({ tables: [], foreignKeys: [] })
    if (path.endsWith('/pinned') && options.method === 'GET') return new Response(this.pinned ?? new Uint8Array())
    if (path.endsWith('/pinned') && options.method === 'PUT')
      return new Response(packEnvelope({ pinnedAt: '2026-10-03T10:00:00Z', sql: [], ms: 0, fromFile: true }, []))
    if (path.endsWith('/pinned')) {
      this.reads++
      this.lastAnswers = (JSON.parse(options.body!) as { answers: object }).answers
      const level: LevelRecords = {
        count: 1,
        starts: Int32Array.of(0, 1),
        columns: {
          id: { kind: 'number', scale: 0, values: Float64Array.of(7) },
          due: { kind: 'date', values: Float64Array.of(NaN) },
          big: { kind: 'number', scale: 2, values: Float64Array.of(Infinity), wide: new Map([[0, 12345678901234567890n]]) },
        },
      }
      return new Response(packEnvelope({ total: 1, sql: [], ms: 1 }, [level]))
    }
    if (options.method === 'PUT') {
      if (this.fail) return json({ message: this.fail.message }, this.fail.status)
      const save = JSON.parse(options.body!) as FakeServer['saves'][number]
      this.saves.push(save)
      this.versions.push(save.definition)
      if (save.basedOn !== this.draft)
        return json({ message: 'Somebody else saved this report in the meantime.', current: this.draft, kept: this.versions.length }, 409)
      this.draft = this.versions.length
      return json({ version: this.draft })
    }
    if (path.endsWith('/publish')) return json({ published: this.draft })
    return json({
      id: 'r1',
      name: 'Sales invoice',
      shelf: 'Invoicing',
      version: this.draft,
      published: 1,
      definition: this.versions[this.draft - 1],
    })
  }
}

let server: FakeServer
beforeEach(() => {
  vi.useFakeTimers()
  localStorage.clear()
  server = new FakeServer()
  vi.stubGlobal('fetch', server.answer)
  setActivePinia(createPinia())
})
const widen = (width: number) => (definition: ReportDefinition) => setColumnWidth(definition, 'lines', 'amount', width)
const settle = () => vi.advanceTimersByTimeAsync(1500)

describe('the report being edited', () => {
  it('reads its rows, exact ones beyond the safe integers too', async () => {
    const report = useReport()
    await report.load('r1')
    const { columns } = report.rows!.records.levels[0]!
    expect(columns.big).toMatchObject({ kind: 'number', scale: 2, wide: new Map([[0, 12345678901234567890n]]) })
    expect(columns.due!.values[0]).toBeNaN()
  })
  it('saves by itself a moment after the last edit, once for a burst of them', async () => {
    const report = useReport()
    await report.load('r1')
    for (const width of [50, 60, 70]) report.edit('Width', widen(width))
    expect(report.saving).toBe('waiting')
    await settle()
    expect(report.saving).toBe('saved')
    expect(server.saves.map(save => save.basedOn)).toEqual([1])
    expect(server.versions.at(-1)).toEqual(widen(70)(salesInvoice()))
    expect(localStorage.length).toBe(0)
  })
  it('undo and redo go through every step; a drag is one step', async () => {
    const report = useReport()
    await report.load('r1')
    report.edit('Width', widen(50))
    for (const width of [51, 52, 53]) report.edit('Width', widen(width), 'drag 1')
    report.edit('Nothing', definition => definition)
    expect(report.past.length).toBe(2)
    report.undo()
    expect(report.definition).toEqual(widen(50)(salesInvoice()))
    report.undo()
    expect(report.definition).toEqual(salesInvoice())
    report.undo()
    report.redo()
    report.redo()
    expect(report.definition).toEqual(widen(53)(salesInvoice()))
    report.undo()
    report.edit('Other', widen(99))
    expect(report.future).toEqual([])
  })
  it('a save that is refused keeps the changes here, and the next one takes them along', async () => {
    const report = useReport()
    await report.load('r1')
    server.fail = { status: 507, message: 'The disk of the data folder is full.' }
    report.edit('Width', widen(50))
    await settle()
    expect([report.saving, report.saveProblem]).toEqual(['failed', 'The disk of the data folder is full.'])
    server.fail = undefined
    report.edit('Width', widen(55))
    await settle()
    expect([report.saving, report.saveProblem, server.saves.length]).toEqual(['saved', '', 1])
    expect(server.versions.at(-1)).toEqual(widen(55)(salesInvoice()))
  })
  it('changes made while the server is away come back after a reload', async () => {
    const report = useReport()
    await report.load('r1')
    server.fail = 'unreachable'
    report.edit('Width', widen(50))
    await settle()
    expect(report.saveProblem).toContain('The server cannot be reached; your changes are kept here')
    server.fail = undefined
    setActivePinia(createPinia())
    const again = useReport()
    await again.load('r1')
    expect(again.definition).toEqual(widen(50)(salesInvoice()))
    await settle()
    expect(server.versions.at(-1)).toEqual(widen(50)(salesInvoice()))
  })
  it('a conflict is told, nothing more is sent, and the current version can be taken', async () => {
    const report = useReport()
    await report.load('r1')
    server.versions.push(widen(33)(salesInvoice()))
    server.draft = 2
    report.edit('Width', widen(50))
    await settle()
    expect(report.saving).toBe('conflict')
    expect(report.saveProblem).toBe('Somebody else saved this report in the meantime.')
    report.edit('Width', widen(51))
    await settle()
    expect(server.saves.length).toBe(1)
    await report.takeCurrent()
    expect(report.definition).toEqual(widen(33)(salesInvoice()))
    expect(report.saveProblem).toBe('')
  })
  it('reads again when what is read has changed, by an edit or by undoing it, and not for the layout', async () => {
    const report = useReport()
    await report.load('r1')
    const before = server.reads
    report.edit('Width', widen(50))
    await settle()
    expect(server.reads).toBe(before)
    report.edit('Filter', definition => setFilter(definition, 'invoice', 3, 'total > 5'))
    await settle()
    expect(server.reads).toBe(before + 1)
    report.undo()
    await settle()
    expect(server.reads).toBe(before + 2)
  })
  it('begins with the rows that are pinned, without reading; another answer reads again', async () => {
    const levels = (function count(level: { details: unknown[] }): number {
      return 1 + (level.details as { details: unknown[] }[]).reduce((sum, each) => sum + count(each), 0)
    })(salesInvoice().dataSets[0]!.root)
    const empty = Array.from({ length: levels }, (): LevelRecords => ({ count: 0, starts: new Int32Array(1), columns: {} }))
    server.pinned = packEnvelope({ answers: { month: '2026-08' }, pinnedAt: '2026-10-03T10:00:00Z', sql: [], ms: 3 }, empty)
    const report = useReport()
    await report.load('r1')
    expect(server.reads).toBe(0)
    expect(report.answers).toEqual({ month: '2026-08' })
    expect(report.pinnedAt?.toISOString()).toBe('2026-10-03T10:00:00.000Z')
    report.setAnswers({ month: '2026-09' })
    await settle()
    expect([server.reads, server.lastAnswers]).toEqual([1, { month: '2026-09' }])
  })
  it('rows from a file stay through edits, until they are pinned anew', async () => {
    const report = useReport()
    await report.load('r1')
    const { reads } = server
    await report.importRows('json', '[]')
    report.edit('Filter', definition => setFilter(definition, 'invoice', 3, 'total > 5'))
    await settle()
    expect([server.reads, report.rows!.fromFile]).toEqual([reads, true])
    await report.readRows()
    expect([server.reads, report.rows!.fromFile]).toEqual([reads + 1, undefined])
  })
  it('publishes what is saved', async () => {
    const report = useReport()
    await report.load('r1')
    expect(report.unpublished).toBe(false)
    report.edit('Width', widen(50))
    expect(report.unpublished).toBe(true)
    await report.publish()
    expect([report.published, report.unpublished]).toEqual([2, false])
  })
})
