<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import type { RowChange } from '../../core/compare/changes'
import { pageSize } from '../../core/compose/paperSize'
import { layoutNamed } from '../../core/definition/walk'
import type { ReportDefinition } from '../../core/definition/report'
import { parseDecimal } from '../../core/value/decimal'
import { numberFormat } from '../../core/value/numberFormat'
import type { RunChanges } from '../../core/api/answers'

/** Two runs of a report side by side: rows that are new, gone or changed, in a list and marked on the pages. */
interface Kept {
  id: string
  report: string
  name: string
  layout?: string
  asked: string[]
  state: string
  pages: number
  startedAt: string
}
const route = useRoute()
const router = useRouter()
const problem = ref('')
const runs = shallowRef<Kept[]>([])
const definition = shallowRef<ReportDefinition>()
const changes = shallowRef<RunChanges>()
const [before, now] = [ref(String(route.query.before ?? '')), ref(String(route.query.now ?? ''))]
const run = (id: string) => runs.value.find(each => each.id === id)
const [countBefore, countNow] = [computed(() => run(before.value)?.pages ?? 0), computed(() => run(now.value)?.pages ?? 0)]
const older = useRunPages(before, countBefore, problem)
const newer = useRunPages(now, countNow, problem)
const sides = [
  { id: before, count: countBefore, pages: older.pages, want: older.want, words: t('changesPage.before3'), which: 'before' as const },
  { id: now, count: countNow, pages: newer.pages, want: newer.want, words: t('changesPage.now2'), which: 'now' as const },
]
const views = useTemplateRef<{ scrollTo: (page: number) => void; width: number }[]>('views')
const size = computed(() =>
  definition.value ? pageSize(layoutNamed(definition.value, run(now.value)?.layout).page) : { width: 595, height: 842 },
)
const zoom = computed(() => Math.max(0.3, Math.min(1.1, ((views.value?.[0]?.width || 480) - 40) / size.value.width)))
const name = computed(() => run(now.value)?.name ?? t('common.report'))
useHead({ title: () => t('changesPage.whatChangedEstante', { value: name.value }) })
/** earlier runs of the same report that can be compared with */
const others = computed(() =>
  runs.value.filter(each => each.report === run(now.value)?.report && each.state === 'done' && each.id !== now.value),
)

onMounted(async () => {
  try {
    runs.value = (await api<{ runs: Kept[] }>('/api/runs')).runs
    const own = run(now.value)
    if (!own) throw new Error(t('changesPage.thisRunIsNotKept'))
    const path = `/api/reports/${encodeURIComponent(own.report)}`
    // runs of a proof of sameness are of a report that may not be published yet
    const found = await api<{ definition: ReportDefinition }>(`${path}?which=published`).catch(() =>
      api<{ definition: ReportDefinition }>(path),
    )
    definition.value = found.definition
    before.value ||= others.value.find(each => each.startedAt < own.startedAt)?.id ?? others.value[0]?.id ?? ''
    if (!before.value) throw new Error(t('changesPage.noOtherRunOfThis'))
    await compare()
  } catch (error) {
    problem.value = (error as Error).message
  }
})
async function compare(): Promise<void> {
  changes.value = undefined
  chosen.value = -1
  problem.value = ''
  void router.replace({ query: { before: before.value, now: now.value } })
  try {
    changes.value = await api<RunChanges>(`/api/runs/${now.value}/changes?since=${encodeURIComponent(before.value)}`)
    await nextTick()
    for (const side of sides) void side.want(0, 3)
    setTimeout(() => choose(0), 50)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
watch(before, (_, old) => old && void compare())

const rows = computed(() => changes.value?.rows ?? [])
const chosen = ref(-1)
const row = computed<RowChange | undefined>(() => rows.value[chosen.value])
function choose(index: number): void {
  if (index < 0 || index >= rows.value.length) return
  chosen.value = index
  const change = rows.value[index]!
  const [a, b] = [change.before?.page ?? change.now!.page, change.now?.page ?? change.before!.page]
  views.value?.[0]?.scrollTo(Math.min(a, countBefore.value - 1))
  views.value?.[1]?.scrollTo(Math.min(b, countNow.value - 1))
  virtual.value.scrollToIndex(index, { align: 'auto' })
}
defineShortcuts({ n: () => choose(chosen.value + 1), p: () => choose(Math.max(0, chosen.value - 1)) })

const list = useTemplateRef('list')
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => list.value,
    estimateSize: (index: number) => 46 + Math.min(3, rows.value[index]!.cells.length) * 20,
    overscan: 10,
  })),
)

/** Marks on a page: whole rows that are new or gone, cells that changed. */
interface Mark {
  key: string
  kind: RowChange['kind']
  place: { x: number; y: number; width: number; height: number }
  index: number
  hint: string
}
function marksOf(which: 'before' | 'now'): Map<number, Mark[]> {
  const found = new Map<number, Mark[]>()
  const put = (page: number, mark: Mark) => found.get(page)?.push(mark) ?? found.set(page, [mark])
  rows.value.forEach((change, index) => {
    const own = change[which]
    if (!own) return
    if (change.kind !== 'changed')
      put(own.page, {
        key: String(index),
        kind: change.kind,
        place: own.place,
        index,
        hint: change.kind === 'new' ? t('changesPage.new') : t('changesPage.gone'),
      })
    else
      for (const cell of change.cells) {
        const place = which === 'now' ? cell.placeNow : cell.placeBefore
        if (place)
          put(own.page, {
            key: `${index} ${cell.cell}`,
            kind: 'changed',
            place,
            index,
            hint:
              which === 'now'
                ? t('changesPage.was', { what: cell.before || t('changesPage.empty') })
                : t('changesPage.now3', { what: cell.now || t('changesPage.empty') }),
          })
      }
  })
  return found
}
const marks = computed(() => ({ before: marksOf('before'), now: marksOf('now') }))
const markLook: Record<RowChange['kind'], string> = {
  new: 'bg-moss-500/20 border-moss-600',
  gone: 'bg-brick-500/20 border-brick-600',
  changed: 'bg-apricot-400/30 border-apricot-600',
}
const words: Record<RowChange['kind'], string> = {
  new: t('changesPage.new'),
  gone: t('changesPage.gone'),
  changed: t('changesPage.changed'),
}
const glyphs: Record<RowChange['kind'], string> = { new: 'i-lucide-plus', gone: 'i-lucide-minus', changed: 'i-lucide-pen-line' }
const inks: Record<RowChange['kind'], string> = {
  new: 'text-moss-700 dark:text-moss-300',
  gone: 'text-error',
  changed: 'text-apricot-700 dark:text-apricot-300',
}

const title = (block: string, cell: string) =>
  changes.value?.titles[block]?.[cell] || (cell === 'caption' ? t('changesPage.caption') : cell)
function signed(text: string): string {
  const value = parseDecimal(text)!
  const decimals = Math.max(value.scale, 0)
  const pattern = `#,##0${decimals ? `.${'0'.repeat(decimals)}` : ''}`
  return numberFormat(`+${pattern};−${pattern}`, definition.value?.language ?? 'en-GB')(value)
}
const counted = (count: number, kind: RowChange['kind']) => `${grouped(count)} ${words[kind]}`
const summary = computed(() => {
  const { counts } = changes.value!
  const parts = (['changed', 'new', 'gone'] as const).filter(kind => counts[kind]).map(kind => counted(counts[kind], kind))
  const total = counts.changed + counts.new + counts.gone
  return total
    ? t('changesPage.theSame', { parts: parts.join(', '), same: grouped(counts.same), what: t('common.rowRows', counts.same) })
    : t('changesPage.nothingChangedAllRowsSay')
})
const hidden = computed(() =>
  changes.value ? changes.value.counts.changed + changes.value.counts.new + changes.value.counts.gone - rows.value.length : 0,
)
const moment = (each: Kept | undefined) =>
  each
    ? new Intl.DateTimeFormat(locale(), { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', second: '2-digit' }).format(
        new Date(each.startedAt),
      )
    : ''
const optionWords = (each: Kept) => [moment(each), ...each.asked].join(' · ')
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar
      :crumbs="[
        { label: t('common.runs'), to: '/runs' },
        { label: name, to: now ? `/run/${run(now)?.report}?kept-run=${now}` : '/runs' },
        { label: t('changesPage.whatChanged') },
      ]"
    />
    <Notice v-if="problem" :text="problem" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" to="/runs">{{ t('changesPage.toTheRuns') }}</UButton></Notice
    >
    <div class="flex min-h-0 grow">
      <aside class="bar flex w-[300px] shrink-0 flex-col border-r border-default" :aria-label="t('changesPage.changes')">
        <div class="border-b border-default p-3 text-sm">
          <p v-if="changes" data-changes>{{ summary }}</p>
          <p v-else-if="!problem" class="flex items-center gap-2 text-muted">
            <UIcon name="i-lucide-loader-circle" class="size-4 animate-spin" />{{ t('changesPage.theTwoRunsAreBeing') }}
          </p>
          <dl v-if="changes?.sums.length" class="pt-2">
            <div v-for="sum in changes.sums" :key="`${sum.block} ${sum.column}`" class="flex justify-between gap-2">
              <dt class="truncate text-muted">{{ t('changesPage.allLines', { title: title(sum.block, sum.column) }) }}</dt>
              <dd class="tabular-nums" data-sum>{{ signed(sum.difference) }}</dd>
            </div>
          </dl>
        </div>
        <div ref="list" class="grow overflow-auto px-2 py-2">
          <div class="relative" :style="{ height: `${virtual.getTotalSize()}px` }">
            <button
              v-for="item in virtual.getVirtualItems()"
              :key="item.index"
              class="absolute inset-x-0 rounded px-2 py-1 text-left text-sm hover:bg-elevated"
              :class="item.index === chosen ? 'bg-petrol-100 dark:bg-petrol-900' : ''"
              :style="{ top: `${item.start}px`, height: `${item.size}px` }"
              :aria-current="item.index === chosen ? 'true' : undefined"
              data-change
              @click="choose(item.index)"
            >
              <span class="flex items-center gap-1.5"
                ><UIcon :name="glyphs[rows[item.index]!.kind]" class="size-3.5 shrink-0" :class="inks[rows[item.index]!.kind]" /><span
                  class="truncate font-medium"
                  >{{ rows[item.index]!.label || t('changesPage.aRowWithoutText') }}</span
                ></span
              >
              <span class="flex items-center gap-2 pl-5 text-xs text-muted"
                ><span :class="inks[rows[item.index]!.kind]">{{ words[rows[item.index]!.kind] }}</span
                ><span>{{
                  t('changesPage.page', {
                    what: (rows[item.index]!.now ?? rows[item.index]!.before)!.page + 1,
                    what2: rows[item.index]!.now ? '' : t('changesPage.before'),
                  })
                }}</span></span
              >
              <span
                v-for="cell in rows[item.index]!.cells.slice(0, 3)"
                :key="cell.cell"
                class="flex justify-between gap-2 pl-5 text-xs leading-5"
                ><span class="truncate text-muted">{{ title(rows[item.index]!.block, cell.cell) }}</span
                ><span class="shrink-0 tabular-nums">{{
                  cell.difference === undefined
                    ? `${cell.before || t('changesPage.empty')} → ${cell.now || t('changesPage.empty')}`.slice(0, 34)
                    : signed(cell.difference)
                }}</span></span
              >
            </button>
          </div>
          <p v-if="hidden > 0" class="px-2 pt-2 text-xs text-muted">
            {{ t('changesPage.moreAreCountedAndNot', { hidden: grouped(hidden) }) }}
          </p>
        </div>
        <div v-if="row" class="border-t border-default p-3 text-sm" data-chosen>
          <p class="truncate pb-1 font-medium">{{ row.label }}</p>
          <table v-if="row.cells.length" class="w-full text-xs">
            <thead>
              <tr class="text-muted">
                <th class="text-left font-medium" />
                <th class="text-right font-medium">{{ t('changesPage.before2') }}</th>
                <th class="text-right font-medium">{{ t('changesPage.now') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="cell in row.cells" :key="cell.cell">
                <td class="max-w-24 truncate pr-2 text-muted">{{ title(row.block, cell.cell) }}</td>
                <td class="pl-2 text-right tabular-nums">{{ cell.before || '–' }}</td>
                <td class="pl-2 text-right tabular-nums">{{ cell.now || '–' }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="text-xs text-muted">
            {{ row.kind === 'new' ? t('changesPage.itStandsOnTheLater') : t('changesPage.itStoodOnTheEarlier') }}
          </p>
        </div>
      </aside>
      <main
        v-for="side in sides"
        :key="side.which"
        class="flex min-w-0 flex-1 basis-0 flex-col border-r border-default last:border-0"
        :aria-label="t('changesPage.pages', { words: side.words.toLowerCase() })"
      >
        <div class="flex h-11 items-center gap-2 border-b border-default bg-default px-3 text-sm">
          <span class="font-semibold">{{ side.words }}</span>
          <PickField
            v-if="side.which === 'before'"
            v-model="before"
            class="min-w-0 grow truncate"
            :aria-label="t('changesPage.theRunBefore')"
          >
            <option v-for="each in others" :key="each.id" :value="each.id">{{ optionWords(each) }}</option>
          </PickField>
          <span v-else class="min-w-0 grow truncate py-1 text-muted">{{ run(now) ? optionWords(run(now)!) : '' }}</span>
          <span class="shrink-0 text-muted">{{ side.count.value }} {{ t('common.pagePages', side.count.value) }}</span>
        </div>
        <div class="min-h-0 grow">
          <SheetView
            ref="views"
            :count="side.count.value"
            :pages="side.pages.value"
            :width="size.width"
            :height="size.height"
            :zoom="zoom"
            @range="side.want"
          >
            <template #default="{ index }">
              <button
                v-for="mark in marks[side.which].get(index)"
                :key="mark.key"
                class="absolute border-l-2 mix-blend-multiply"
                :class="[markLook[mark.kind], mark.index === chosen ? 'ring-2 ring-petrol-600' : '']"
                :title="mark.hint"
                :aria-label="mark.hint"
                :data-mark="mark.kind"
                tabindex="-1"
                :style="{
                  left: `${mark.place.x * zoom}px`,
                  top: `${mark.place.y * zoom}px`,
                  width: `${mark.place.width * zoom}px`,
                  height: `${mark.place.height * zoom}px`,
                }"
                @click="choose(mark.index)"
              />
            </template>
          </SheetView>
        </div>
      </main>
    </div>
  </div>
</template>
