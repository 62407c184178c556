<script setup lang="ts">
import { type RunInfo, type RunList, type RunState, runStates } from '../../core/api/runs'

/** All runs that are kept: those that still grow, and those that can be looked at again. */
const list = shallowRef<RunList>()
const runs = computed(() => list.value?.runs)
const problem = ref('')
const me = useMe()
useHead({ title: t('runsPage.runsEstante') })
const any = 'any'
const filter = reactive({ report: any, person: any, state: any, day: '' })
const narrowed = computed(() => new URLSearchParams(Object.entries(filter).filter(([, value]) => value && value !== any)))
let turn = 0
async function load(): Promise<void> {
  const mine = ++turn
  try {
    const found = await api<RunList>(`/api/runs?${narrowed.value}`)
    if (mine !== turn) return
    list.value = found
    problem.value = ''
  } catch (error) {
    if (mine === turn) problem.value = (error as Error).message
  }
}
onMounted(load)
watch(narrowed, load)
const grows = ({ state }: RunInfo) => state === 'running' || state === 'waiting'
const busy = computed(() => runs.value?.some(run => grows(run) || run.files.some(file => file.state === 'making')) ?? false)
const { pause, resume } = useIntervalFn(load, 700, { immediate: false })
watch(busy, now => (now ? resume() : pause()), { immediate: true })
async function change(work: Promise<unknown>): Promise<void> {
  await work.catch((error: Error) => (problem.value = error.message))
  await load()
}
const cancel = (run: RunInfo) => change(api(`/api/runs/${run.id}`, { method: 'DELETE' }))
const pin = (run: RunInfo) => change(api(`/api/runs/${run.id}`, { method: 'PUT', body: { pinned: !run.pinned } }))
const to = (run: RunInfo) => ({
  path: `/run/${run.report}`,
  query: { ...run.answers, ...(run.layout ? { 'page-layout': run.layout } : {}), 'kept-run': run.id },
})
const again = (run: RunInfo) => ({
  path: `/run/${run.report}`,
  query: { ...run.answers, ...(run.layout ? { 'page-layout': run.layout } : {}) },
})
const withAny = (label: string, items: { id: string; name: string }[]) => [
  { value: any, label },
  ...items.map(({ id, name }) => ({ value: id, label: name })),
]
const reportItems = computed(() => withAny(t('runsPage.allReports'), list.value?.reports ?? []))
const personItems = computed(() => withAny(t('runsPage.everybody'), list.value?.people ?? []))
const words: Record<RunState, string> = {
  waiting: t('runsPage.waiting'),
  running: t('runsPage.running'),
  done: t('runsPage.done'),
  failed: t('runsPage.failed'),
  cancelled: t('runsPage.cancelled'),
}
const stateItems = [
  { value: any, label: t('runsPage.anyState') },
  ...runStates.map(state => ({ value: state as string, label: words[state] })),
]
const clear = () => Object.assign(filter, { report: any, person: any, state: any, day: '' })
/** how long runs are kept, while it is being changed */
const keeping = reactive({ runs: 0, days: 0, open: false })
watch(
  () => keeping.open,
  open => open && list.value && Object.assign(keeping, { runs: list.value.keeping.runs, days: list.value.keeping.days }),
)
async function keep(): Promise<void> {
  const { runs, days } = keeping
  await change(api('/api/runs/keeping', { method: 'PUT', body: { runs, days, basedOn: list.value!.keeping.version } }))
  keeping.open = !!problem.value
}
const pages = (count: number) => `${grouped(count)} ${t('common.pagePages', count)}`
const marks: Record<RunState, string> = {
  waiting: 'i-lucide-hourglass',
  running: 'i-lucide-loader-circle',
  done: 'i-lucide-check',
  failed: 'i-lucide-triangle-alert',
  cancelled: 'i-lucide-circle-slash',
}
const colours: Record<RunState, string> = {
  waiting: 'text-muted',
  running: 'text-petrol-700 dark:text-petrol-300',
  done: 'text-moss-700 dark:text-moss-300',
  failed: 'text-error',
  cancelled: 'text-muted',
}
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home
      ><UButton size="sm" variant="outline" color="neutral" icon="i-lucide-refresh-cw" :aria-label="t('runsPage.lookAgain')" @click="load"
    /></TopBar>
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="desk grow px-10 py-6">
      <div class="mb-3 flex flex-wrap items-center gap-2">
        <h1 class="mr-3 font-display text-lg font-semibold">{{ t('common.runs') }}</h1>
        <USelectMenu
          v-model="filter.report"
          :items="reportItems"
          value-key="value"
          size="sm"
          class="w-56"
          :aria-label="t('common.report')"
        />
        <USelect
          v-if="(list?.people.length ?? 0) > 1"
          v-model="filter.person"
          :items="personItems"
          size="sm"
          class="w-44"
          :aria-label="t('runsPage.ranBy')"
        />
        <USelect v-model="filter.state" :items="stateItems" size="sm" class="w-36" :aria-label="t('runsPage.state')" />
        <DayField v-model="filter.day" size="sm" :label="t('runsPage.day')" />
        <UButton v-if="narrowed.size" size="sm" variant="ghost" color="neutral" icon="i-lucide-x" @click="clear">{{
          t('runsPage.showAll')
        }}</UButton>
      </div>
      <div v-if="runs && !runs.length && narrowed.size" class="rounded-md border border-default bg-default p-8 text-center">
        <p class="mb-3">{{ t('runsPage.noRunIsLikeThat') }}</p>
        <UButton size="sm" variant="outline" color="neutral" @click="clear">{{ t('runsPage.showAll') }}</UButton>
      </div>
      <div v-else-if="runs && !runs.length" class="rounded-md border border-default bg-default p-8 text-center">
        <p class="mb-3 font-display text-lg">{{ t('runsPage.nothingHasBeenRunSince') }}</p>
        <UButton to="/" icon="i-lucide-library">{{ t('common.toTheLibrary') }}</UButton>
      </div>
      <table
        v-else-if="runs"
        class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default text-sm"
        data-runs
      >
        <thead>
          <tr class="text-left text-muted">
            <th class="px-4 py-2 font-medium">{{ t('common.report') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('runsPage.asked') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('runsPage.begun') }}</th>
            <th class="px-3 py-2 text-right font-medium">{{ t('runsPage.pages') }}</th>
            <th class="px-3 py-2 text-right font-medium">{{ t('runsPage.took') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('runsPage.state') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('runsPage.files') }}</th>
            <th class="px-4 py-2" />
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="run in runs"
            :key="run.id"
            class="align-top [&>td]:border-t [&>td]:border-default"
            :data-run="run.id"
            :data-state="run.state"
          >
            <td class="px-4 py-2">
              <NuxtLink :to="to(run)" class="font-semibold hover:underline">{{ run.name }}</NuxtLink>
              <p v-if="run.layout || (run.person && !run.mine)" class="text-xs text-muted">
                {{ [run.layout, run.mine ? undefined : run.person].filter(Boolean).join(' · ') }}
              </p>
            </td>
            <td class="max-w-md px-3 py-2 text-muted">{{ run.asked.join(' · ') || t('runsPage.allAtTheirDefaults') }}</td>
            <td class="whitespace-nowrap px-3 py-2">{{ recentWords(run.startedAt) }}</td>
            <td class="whitespace-nowrap px-3 py-2 text-right tabular-nums">
              {{ grows(run) ? (run.pages ? t('runsPage.soFar', { pages: grouped(run.pages) }) : '') : grouped(run.pages) }}
            </td>
            <td class="whitespace-nowrap px-3 py-2 text-right tabular-nums">{{ run.ms === undefined ? '' : secondsWords(run.ms) }}</td>
            <td class="px-3 py-2">
              <span class="flex items-center gap-1.5 whitespace-nowrap" :class="colours[run.state]"
                ><UIcon :name="marks[run.state]" class="size-4" :class="run.state === 'running' ? 'animate-spin' : ''" />{{
                  words[run.state]
                }}</span
              >
              <p
                v-if="run.ties"
                class="flex items-center gap-1.5 whitespace-nowrap text-xs"
                :class="run.ties.failed.length ? 'text-error' : 'text-muted'"
                :title="run.ties.failed.join('\n')"
              >
                <UIcon :name="run.ties.failed.length ? 'i-lucide-x' : 'i-lucide-check'" class="size-3.5" />{{
                  run.ties.failed.length
                    ? t('runsPage.ofTieOuts', {
                        count: run.ties.failed.length,
                        count2: run.ties.count,
                        what: t('runsPage.failsFail', run.ties.failed.length),
                      })
                    : t('runsPage.tiesOut')
                }}
              </p>
              <p v-if="grows(run)" class="max-w-xs text-xs text-muted" data-progress>{{ progressWords(run) }}</p>
              <p v-if="run.sentences" class="max-w-xs text-xs text-error">{{ run.sentences.map(tell).join(' ') }}</p>
            </td>
            <td class="px-3 py-2 text-muted">
              <template v-for="file in run.files" :key="file.query"
                ><span v-if="file.state === 'making'" class="mr-2 whitespace-nowrap">{{ file.format.toUpperCase() }} …</span
                ><a
                  v-else
                  class="mr-2 whitespace-nowrap text-petrol-700 hover:underline dark:text-petrol-300"
                  :href="`/api/runs/${run.id}/file?${file.query}`"
                  download
                  >{{ file.format.toUpperCase() }}</a
                ></template
              >
            </td>
            <td class="px-4 py-1.5">
              <span class="flex items-center justify-end gap-1">
                <UButton v-if="grows(run)" size="xs" variant="outline" color="neutral" @click="cancel(run)">{{
                  t('common.cancel')
                }}</UButton>
                <UButton
                  size="xs"
                  variant="outline"
                  color="neutral"
                  :to="to(run)"
                  :aria-label="t('runsPage.open', { name: run.name, pages: pages(run.pages) })"
                  >{{ t('runsPage.open2') }}</UButton
                >
                <UButton
                  v-if="run.earlier"
                  size="xs"
                  variant="outline"
                  color="neutral"
                  :to="{ path: '/changes', query: { before: run.earlier, now: run.id } }"
                  :aria-label="t('runsPage.whatChangedInSinceThe', { name: run.name })"
                  >{{ t('runsPage.whatChanged') }}</UButton
                >
                <UTooltip :text="run.pinned ? t('runsPage.staysUntilLetGo') : t('runsPage.keepForGood')"
                  ><UButton
                    v-if="!grows(run)"
                    size="xs"
                    :variant="run.pinned ? 'soft' : 'ghost'"
                    :color="run.pinned ? 'primary' : 'neutral'"
                    icon="i-lucide-pin"
                    :aria-pressed="run.pinned"
                    :aria-label="t('runsPage.keepForGoodOf', { name: run.name })"
                    @click="pin(run)"
                /></UTooltip>
                <UButton
                  v-if="!grows(run)"
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-rotate-cw"
                  :to="again(run)"
                  :aria-label="t('runsPage.runAgain', { name: run.name })"
                />
              </span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="list" class="mt-3 flex items-center gap-2 text-sm text-muted">
        <span v-if="list.more">{{ t('runsPage.moreThanThese', { more: grouped(list.more) }, list.more) }}</span>
        {{ t('runsPage.keptForDays', { runs: grouped(list.keeping.runs), days: grouped(list.keeping.days) }) }}
        <UPopover v-if="me.administrator" v-model:open="keeping.open">
          <UButton size="xs" variant="outline" color="neutral">{{ t('runsPage.changeThat') }}</UButton>
          <template #content>
            <form class="w-72 space-y-3 p-4 text-sm" @submit.prevent="keep">
              <label class="flex items-center justify-between gap-3"
                ><span>{{ t('runsPage.runsAtMost') }}</span
                ><UInputNumber v-model="keeping.runs" :min="1" :max="100000" size="sm" class="w-32"
              /></label>
              <label class="flex items-center justify-between gap-3"
                ><span>{{ t('runsPage.daysAtMost') }}</span
                ><UInputNumber v-model="keeping.days" :min="1" :max="36500" size="sm" class="w-32"
              /></label>
              <UButton type="submit" size="sm">{{ t('common.keep') }}</UButton>
            </form>
          </template>
        </UPopover>
      </p>
    </main>
  </div>
</template>
