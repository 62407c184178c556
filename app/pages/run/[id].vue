<script setup lang="ts">
import type { RunInfo } from '../../../core/api/runs'
import equal from 'fast-deep-equal'
import { useVirtualizer } from '@tanstack/vue-virtual'
import type { Box, Page } from '../../../core/compose/page'
import { statementsOf } from '../../../core/model/ledger'
import { lineOfRow } from '../../../core/definition/edits/statement'
import { readStatementRow } from '../../../core/definition/blocks/statement'
import { pageSize } from '../../../core/compose/paperSize'
import { footnotePrefix, footnotesOf } from '../../../core/definition/edits/footnotes'
import { layoutNamed } from '../../../core/definition/walk'
import type { ReportDefinition } from '../../../core/definition/report'
import { emptySentence } from '../../../core/parameter/sentences'
import { answerText, readAnswers } from '../../../core/parameter/answers'
import type { FiscalCalendar } from '../../../core/books/calendar'
import type { TieOutResult } from '../../../core/definition/tieOuts'

const sources = useSources()
const me = useMe()

interface Loaded {
  id: string
  name: string
  shelf: string
  definition: ReportDefinition
}
interface RunState {
  /** its one page came before all records were read */
  early: boolean
  state: RunInfo['state']
  pages: number
  outline: { page: number; label: string }[]
  startedAt: string
  rows?: Record<string, number>
  sentences?: string[]
  tieOuts?: TieOutResult[]
  /** what has changed in the source since the report was made */
  changes?: string[]
  earlier?: string
  /** records read so far; what it may come to, and what may be left, in milliseconds */
  read?: number
  about?: RunInfo['about']
  left?: number
}

const route = useRoute()
const router = useRouter()
const report = shallowRef<Loaded>()
const answers = ref<Record<string, string>>({})
const runId = ref('')
const state = ref<RunState['state']>()
const grows = computed(() => state.value === 'running' || state.value === 'waiting')
/** how far the reading is */
const reading = shallowRef<Pick<RunInfo, 'rows' | 'about' | 'left'>>({})
const startedAt = ref('')
const ties = shallowRef<TieOutResult[]>([])
const changes = shallowRef<string[]>([])
/** id of the run of this report before this one, as long as it is kept */
const earlier = ref('')
const count = ref(0)
const outline = ref<{ page: number; label: string }[]>([])
const problem = ref('')
const { pages, want, wantInView, renew } = useRunPages(runId, count, problem)
const slow = ref(false)
/** the pages in view are those of the run before, until the first of this one comes */
const stale = ref(false)
const search = ref('')
const plainZoom = 1.12
const zoom = ref(plainZoom)
const view = useTemplateRef<{ current: number; width: number; scrollTo: (page: number) => void }>('view')
useHead({ title: () => t('runIdPage.estante', { what: report.value?.name ?? t('common.run') }) })

const size = computed(() =>
  report.value ? pageSize(layoutNamed(report.value.definition, layout.value || undefined).page) : { width: 595, height: 842 },
)
// a page that is wider than the view is fitted into it, whenever another size of page comes
watch([() => size.value.width, () => view.value?.width ?? 0], ([width, room], [before]) => {
  if (room > 300 && (width !== before || zoom.value === plainZoom))
    zoom.value = Math.min(plainZoom, Math.floor(((room - 60) / width) * 100) / 100)
})
const parameters = computed(() => report.value?.definition.parameters ?? [])
/** the layout asked for in the address; "" is the default */
const layout = ref('')
const layouts = computed(() =>
  report.value && report.value.definition.layouts.length > 1 ? report.value.definition.layouts.map(each => each.name) : [],
)
const calendar = shallowRef<FiscalCalendar>()
const around = computed(() => ({
  today: sources.today,
  language: report.value?.definition.language ?? 'en-GB',
  ...(calendar.value ? { calendar: calendar.value } : {}),
}))
const problems = computed(() =>
  Object.fromEntries(readAnswers(parameters.value, answers.value, around.value).problems.map(each => [each.parameter, each.sentence])),
)
const found = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  return wanted ? outline.value.filter(entry => entry.label.toLowerCase().includes(wanted)) : outline.value
})
const current = computed(() => {
  const page = view.value?.current ?? 0
  return outline.value.findLast(entry => entry.page <= page)
})

onMounted(async () => {
  try {
    const loaded = await api<Loaded>(`/api/reports/${encodeURIComponent(String(route.params.id))}?which=published`)
    sources.use(loaded.definition.dataSets[0]?.source)
    const known = await api<{ calendar?: FiscalCalendar }>(sources.path('calendar'))
    calendar.value = known.calendar
    report.value = loaded
    const given: Record<string, string> = {}
    // a name that stands more than once holds several answers; one given blank is empty
    for (const [name, value] of Object.entries(route.query))
      if (name !== 'page-layout' && name !== 'kept-run') given[name] = Array.isArray(value) ? value.join(',') : (value ?? '')
    // defaults are shown as answers, so that the form says what the pages stand on
    const { values } = readAnswers(loaded.definition.parameters, given, around.value)
    for (const parameter of loaded.definition.parameters)
      if (!parameter.hidden && !(parameter.name in given)) given[parameter.name] = answerText(parameter, values)
    answers.value = given
    const asked = String(route.query['page-layout'] ?? '')
    if (asked && loaded.definition.layouts.some(each => each.name === asked)) layout.value = asked
    else if (asked) problem.value = t('runIdPage.thereIsNoLayoutAny', { layout: asked })
    await run(String(route.query['kept-run'] ?? ''))
  } catch (error) {
    problem.value = (error as Error).message
  }
})
watch(layout, () => report.value && state.value && void run())
watch(answers, (now, before) => {
  if (report.value && Object.keys(before).length && !equal(now, before)) void run()
})

/** What stands in the address: an answer that was emptied though it has a default stands there blank. */
function shownAnswers(): Record<string, string> {
  return Object.fromEntries(
    Object.entries(answers.value).filter(
      ([name, value]) => value !== '' || name.startsWith(footnotePrefix) || parameters.value.find(each => each.name === name)?.default,
    ),
  )
}

let turn = 0
/** Runs the report; with the id of a run that is kept, opens that one again. */
async function run(kept = ''): Promise<void> {
  const mine = ++turn
  printing.value = false
  if (grows.value) void api(`/api/runs/${runId.value}`, { method: 'DELETE' }).catch(() => {})
  void router.replace({
    query: { ...shownAnswers(), ...(layout.value ? { 'page-layout': layout.value } : {}), ...(kept ? { 'kept-run': kept } : {}) },
  })
  if (!/^There is no layout/.test(problem.value)) problem.value = ''
  if (Object.keys(problems.value).length) {
    const strange = Object.entries(problems.value).find(([name]) => !parameters.value.some(parameter => parameter.name === name))
    if (strange) problem.value = strange[1]
    return
  }
  slow.value = false
  stale.value = count.value > 0
  const timer = setTimeout(() => (slow.value = true), 500)
  try {
    const { id } = kept
      ? { id: kept }
      : await api<{ id: string }>('/api/runs', {
          method: 'POST',
          body: { report: report.value!.id, answers: answers.value, ...(layout.value ? { layout: layout.value } : {}) },
        })
    if (mine !== turn) return
    runId.value = id
    state.value = 'running'
    outline.value = []
    ties.value = []
    changes.value = []
    followed.value = undefined
    behind.value = undefined
    let fresh = true
    let early = false
    while (mine === turn) {
      const news = await api<RunState>(
        `/api/runs/${id}?${new URLSearchParams({ wait: '1', pages: String(fresh ? 0 : count.value), seen: String(outline.value.length) })}`,
      )
      if (mine !== turn) return
      if (fresh) pages.value = new Map()
      fresh = stale.value = false
      outline.value.push(...news.outline)
      count.value = news.pages
      startedAt.value = news.startedAt
      if (news.pages) await wantInView()
      if (early && !news.early) await renew(0)
      early = news.early
      state.value = news.state
      reading.value = { rows: news.read ?? 0, about: news.about, left: news.left }
      if (news.state !== 'running' && news.state !== 'waiting') {
        ties.value = news.tieOuts ?? []
        changes.value = news.changes ?? []
        earlier.value = news.earlier ?? ''
        if (news.state === 'failed') problem.value = news.sentences!.join(' ')
        break
      }
    }
  } catch (error) {
    if (mine === turn) {
      problem.value = (error as Error).message
      state.value = 'failed'
    }
  } finally {
    clearTimeout(timer)
    if (mine === turn) slow.value = stale.value = false
  }
}

/** the panel of footnotes, where the layout has any */
const noting = ref(false)
const hasNotes = computed(
  () =>
    !!report.value && footnotesOf(report.value.definition, layoutNamed(report.value.definition, layout.value || undefined).name).length > 0,
)
/** the panel of refresh addresses */
const addresses = ref(false)
// figures of statements are followed back from here too
const shownZoom = computed(() => (addresses.value || noting.value ? Math.min(zoom.value, 840 / size.value.width) : zoom.value))
const statements = computed(() => (report.value ? statementsOf(report.value.definition) : []))
const followed = ref<{ block: string; row: string; line: string; column: string; account: string; caption: string }>()
const figures = (page: Page | undefined) =>
  page?.boxes.filter(
    box =>
      box.cell &&
      box.cell !== 'caption' &&
      box.part !== 'titles' &&
      statements.value.some(
        each => each.id === box.block && ['accounts', 'formula', 'sum'].includes(lineOfRow(each, box.rowId)?.kind ?? ''),
      ),
  ) ?? []
/** All else that is printed: marks of charts say their figures, and records may stand behind each. */
const printedIn = (page: Page | undefined) =>
  page?.boxes.filter(box => box.cell && box.part !== 'titles' && !statements.value.some(each => each.id === box.block)) ?? []
const { behind, follow: followBox } = useRunTrace(runId)
function follow(page: number, box: Box): Promise<void> {
  followed.value = undefined
  return followBox(page, box)
}
const {
  folded,
  folds,
  toggle: toggleFold,
  all: foldAll,
} = useFolds(
  pages,
  computed(() => new Set(statements.value.map(each => each.id))),
)
const foldable = computed(() => [...folded.value.values()].flatMap(folds))
const lineOf = (box: Box) =>
  lineOfRow(
    statements.value.find(each => each.id === box.block)!,
    box.rowId,
  )!
const captionOf = (box: Box) => lineOf(box).caption || lineOf(box).id
const key = (box: Box) => `${box.block} ${box.rowId} ${box.cell}`
const traced = computed(() => followed.value && `${followed.value.block} ${followed.value.row} ${followed.value.column}`)
function trace(box: Box): void {
  behind.value = undefined
  followed.value = {
    block: box.block,
    row: box.rowId!,
    line: lineOf(box).id,
    column: box.cell!,
    account: readStatementRow(box.rowId!).path.at(-1) ?? '',
    caption: captionOf(box),
  }
}

const cancel = () => api(`/api/runs/${runId.value}`, { method: 'DELETE' })
const print = () => (printing.value = true)
const printing = ref(false)
/** The PDF of this run goes to the printer through a frame of its own. */
const printed = (event: Event) => {
  const frame = event.target as HTMLIFrameElement
  frame.contentWindow?.focus()
  frame.contentWindow?.print()
}
function goTo(page: number): void {
  view.value?.scrollTo(page)
}
function next(by: 1 | -1): void {
  const list = found.value
  const page = view.value?.current ?? 0
  const at = by > 0 ? list.find(entry => entry.page > page) : list.findLast(entry => entry.page < (current.value?.page ?? 0))
  if (at) goTo(at.page)
}

const list = useTemplateRef('list')
const virtual = useVirtualizer(
  computed(() => ({ count: found.value.length, getScrollElement: () => list.value, estimateSize: () => 28, overscan: 10 })),
)
watch(current, entry => {
  const at = entry ? found.value.indexOf(entry) : -1
  if (at >= 0) virtual.value.scrollToIndex(at, { align: 'auto' })
})
const time = computed(() =>
  startedAt.value ? new Date(startedAt.value).toLocaleTimeString(locale(), { hour: '2-digit', minute: '2-digit' }) : '',
)
defineShortcuts({ n: () => next(1), p: () => next(-1) })
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar :crumbs="report ? [{ label: report.shelf, to: '/' }, { label: report.name }] : []">
      <span v-if="grows && slow" class="flex items-center gap-2 text-sm text-muted" data-run-progress
        ><UIcon name="i-lucide-loader-circle" class="size-4 animate-spin" />{{
          progressWords({ state: state!, pages: stale ? 0 : count, ...reading })
        }}<UButton size="xs" variant="outline" color="neutral" @click="cancel">{{ t('common.cancel') }}</UButton></span
      >
      <span v-else-if="state === 'cancelled'" class="text-sm text-muted">{{
        t('runIdPage.cancelledAfterPages', { count: grouped(count) })
      }}</span>
      <span v-else-if="count" class="text-sm text-muted" data-run-count>{{
        t('runIdPage.rowsAsOf', { count: grouped(count), what: t('common.pagePages', count), time })
      }}</span>
      <RunTieOuts v-if="ties.length" :results="ties" :language="report!.definition.language" />
      <UButton
        size="sm"
        variant="outline"
        color="neutral"
        icon="i-lucide-refresh-cw"
        :aria-label="t('runIdPage.refreshReadTheRowsAgain')"
        @click="run()"
      />
      <UButton
        v-if="report && me.author"
        size="sm"
        variant="outline"
        color="neutral"
        icon="i-lucide-pencil"
        :to="`/reports/${report.id}/page`"
        >{{ t('common.edit') }}</UButton
      >
      <UTooltip :text="t('runIdPage.whatChangedSinceTheRun')"
        ><UButton
          v-if="report"
          size="sm"
          variant="outline"
          color="neutral"
          icon="i-lucide-diff"
          :aria-label="t('runIdPage.whatChangedSinceTheRun')"
          :disabled="state !== 'done' || !earlier"
          :to="{ path: '/changes', query: { before: earlier, now: runId } }"
      /></UTooltip>
      <PickField v-if="layouts.length" v-model="layout" :aria-label="t('runIdPage.layout')">
        <option value="">{{ layoutNamed(report!.definition).name }}</option>
        <option v-for="each in layouts.filter(name => name !== layoutNamed(report!.definition).name)" :key="each" :value="each">
          {{ each }}
        </option>
      </PickField>
      <UTooltip :text="foldable.some(fold => !fold.closed) ? t('runIdPage.foldAllAccountsAway') : t('runIdPage.showAllAccounts')"
        ><UButton
          v-if="foldable.length"
          size="sm"
          variant="outline"
          color="neutral"
          :icon="foldable.some(fold => !fold.closed) ? 'i-lucide-list-collapse' : 'i-lucide-list-tree'"
          :aria-label="foldable.some(fold => !fold.closed) ? t('runIdPage.foldAllAccountsAway') : t('runIdPage.showAllAccounts')"
          @click="foldAll(foldable.some(fold => !fold.closed))"
      /></UTooltip>
      <UTooltip :text="t('runIdPage.footnotesOfThisRun')"
        ><UButton
          v-if="hasNotes"
          size="sm"
          variant="outline"
          color="neutral"
          icon="i-lucide-superscript"
          :aria-label="t('runIdPage.footnotesOfThisRun')"
          :aria-pressed="noting"
          @click="[noting, addresses] = [!noting, false]"
      /></UTooltip>
      <UTooltip :text="t('runIdPage.anAddressForASpreadsheet')"
        ><UButton
          v-if="report && me.author"
          size="sm"
          variant="outline"
          color="neutral"
          icon="i-lucide-link"
          :aria-label="t('runIdPage.refreshAddressesForASpreadsheet')"
          :aria-pressed="addresses"
          @click="[addresses, noting] = [!addresses, false]"
      /></UTooltip>
      <UTooltip :text="t('runIdPage.print')"
        ><UButton
          size="sm"
          variant="outline"
          color="neutral"
          icon="i-lucide-printer"
          :aria-label="t('runIdPage.print')"
          :disabled="state !== 'done' || !count"
          @click="print"
      /></UTooltip>
      <RunDownload
        v-if="report"
        :run="runId"
        :name="report.name"
        :definition="report.definition"
        :layout="layout"
        :ready="state === 'done' && count > 0"
        @problem="text => (problem = text)"
      />
    </TopBar>
    <div v-if="report && parameters.length" class="flex items-start gap-3 border-b border-default bg-default px-4 py-2">
      <AnswerFields v-model="answers" :report="report.id" :parameters="parameters" :problems="problems" :calendar="calendar" class="grow" />
      <SavedAnswers v-if="parameters.length" v-model="answers" :report="report.id" />
    </div>
    <Notice v-if="changes.length" :text="changes.join(' ')" data-source-changes />
    <Notice v-if="problem" :text="problem" kind="error"
      ><UButton v-if="report" size="xs" variant="outline" color="neutral" @click="run()">{{ t('runIdPage.runAgain') }}</UButton
      ><UButton v-else size="xs" variant="outline" color="neutral" to="/">{{ t('common.toTheLibrary') }}</UButton></Notice
    >
    <div class="flex min-h-0 grow">
      <aside
        v-if="outline.length || grows"
        class="bar flex w-[270px] shrink-0 flex-col border-r border-default"
        :aria-label="t('runIdPage.outline')"
      >
        <div class="flex items-center gap-1 p-3 pb-2">
          <UInput
            v-model="search"
            size="sm"
            :placeholder="t('runIdPage.findInTheOutline')"
            icon="i-lucide-search"
            class="grow"
            :aria-label="t('runIdPage.findInTheOutline')"
            @keydown.enter="found[0] && goTo(found[0].page)"
          />
          <UTooltip :text="t('runIdPage.oneBefore')" :kbds="['p']"
            ><UButton
              size="sm"
              variant="ghost"
              color="neutral"
              icon="i-lucide-chevron-up"
              :aria-label="t('runIdPage.oneBefore')"
              @click="next(-1)"
          /></UTooltip>
          <UTooltip :text="t('runIdPage.next')" :kbds="['n']"
            ><UButton
              size="sm"
              variant="ghost"
              color="neutral"
              icon="i-lucide-chevron-down"
              :aria-label="t('runIdPage.next')"
              @click="next(1)"
          /></UTooltip>
        </div>
        <div ref="list" class="grow overflow-auto px-2 pb-3">
          <div class="relative" :style="{ height: `${virtual.getTotalSize()}px` }">
            <button
              v-for="row in virtual.getVirtualItems()"
              :key="row.index"
              class="absolute inset-x-0 flex h-7 items-center gap-2 truncate rounded px-2 text-left text-sm hover:bg-elevated"
              :class="found[row.index] === current ? 'bg-petrol-100 font-semibold dark:bg-petrol-900' : ''"
              :style="{ top: `${row.start}px` }"
              :aria-current="found[row.index] === current ? 'true' : undefined"
              data-outline
              @click="goTo(found[row.index]!.page)"
            >
              <span class="truncate">{{ found[row.index]!.label }}</span><span class="ml-auto shrink-0 text-xs text-dimmed">{{
                found[row.index]!.page + 1
              }}</span>
            </button>
          </div>
          <p v-if="search && !found.length" class="px-2 text-sm text-muted">{{ t('runIdPage.nothingInTheOutlineHolds', { search }) }}</p>
        </div>
      </aside>
      <main class="min-w-0 grow" :aria-label="t('runIdPage.pages')">
        <div v-if="state === 'done' && !count" class="desk grid h-full place-items-center">
          <p class="font-display text-xl" data-empty>
            {{ emptySentence(report!.definition, readAnswers(parameters, answers, around).values) }}
          </p>
        </div>
        <SheetView
          v-else
          ref="view"
          class="transition-opacity delay-150"
          :class="stale ? 'pointer-events-none opacity-40' : ''"
          :aria-busy="stale"
          :count="count"
          :pages="folded"
          :width="size.width"
          :height="size.height"
          :zoom="shownZoom"
          :gutter="24"
          @range="want"
        >
          <template #default="{ page, index }">
            <PageFigures
              v-if="page && state === 'done'"
              :boxes="printedIn(page)"
              :zoom="shownZoom"
              :traced="behind?.page === index ? behind.box : undefined"
              @trace="box => follow(index, box)"
            />
            <StatementFolds :folds="folds(page)" :zoom="shownZoom" @toggle="toggleFold" />
            <button
              v-for="box in figures(page)"
              :key="`${box.block} ${box.rowId} ${box.cell}`"
              class="absolute cursor-pointer rounded-[1px] hover:ring-1 hover:ring-petrol-500"
              :class="traced === key(box) ? 'ring-2 ring-apricot-500' : ''"
              :style="{
                left: `${box.x * shownZoom}px`,
                top: `${box.y * shownZoom}px`,
                width: `${box.width * shownZoom}px`,
                height: `${box.height * shownZoom}px`,
              }"
              :aria-label="t('runIdPage.trace', { box: captionOf(box), cell: box.cell })"
              :title="t('runIdPage.traceThisFigure')"
              data-figure
              @click="trace(box)"
            />
          </template>
        </SheetView>
      </main>
      <RunFootnotes v-if="noting && report" v-model="answers" :definition="report.definition" :layout="layout" @close="noting = false" />
      <RefreshAddresses
        v-if="addresses && report"
        :report="report.id"
        :definition="report.definition"
        :answers="answers"
        :calendar="calendar"
        @close="addresses = false"
        @problem="text => (problem = text)"
      />
    </div>
    <StatementTrace
      v-if="followed && report"
      :report="report.id"
      :run="state === 'done' ? runId : ''"
      :answers="answers"
      :statement="followed.block"
      :line="followed.line"
      :column="followed.column"
      :account="followed.account"
      :caption="followed.caption"
      @close="followed = undefined"
    />
    <FigureTrace
      v-if="behind"
      :lists="behind.lists"
      :problem="behind.problem"
      :words="t('runIdPage.ofThisRun')"
      @close="behind = undefined"
    />
    <iframe
      v-if="printing"
      :key="runId"
      :src="`/api/runs/${runId}/file?format=pdf&show=page`"
      class="invisible fixed size-0"
      :title="t('runIdPage.printing')"
      @load="printed"
    />
  </div>
</template>
