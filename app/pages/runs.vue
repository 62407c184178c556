<script setup lang="ts">
/** All runs that are kept: those that still grow, and those that can be looked at again. */
interface Kept {
  id: string
  report: string
  name: string
  layout?: string
  answers: Record<string, string>
  state: 'running' | 'done' | 'failed' | 'cancelled'
  pages: number
  startedAt: string
  sentences?: string[]
  rows?: number
  ms?: number
  ties?: { count: number; failed: string[] }
  asked: string[]
  files: { format: string; state: string; query: string }[]
}
const runs = ref<Kept[]>()
const problem = ref('')
useHead({ title: t('runsPage.runsEstante') })
async function load(): Promise<void> {
  try {
    runs.value = await api<Kept[]>('/api/runs')
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
const busy = computed(() => runs.value?.some(run => run.state === 'running' || run.files.some(file => file.state === 'making')) ?? false)
const { pause, resume } = useIntervalFn(load, 700, { immediate: false })
watch(busy, now => (now ? resume() : pause()), { immediate: true })
async function cancel(run: Kept): Promise<void> {
  await api(`/api/runs/${run.id}`, { method: 'DELETE' }).catch((error: Error) => (problem.value = error.message))
  await load()
}
const to = (run: Kept) => ({
  path: `/run/${run.report}`,
  query: { ...run.answers, ...(run.layout ? { 'page-layout': run.layout } : {}), 'kept-run': run.id },
})
const again = (run: Kept) => ({
  path: `/run/${run.report}`,
  query: { ...run.answers, ...(run.layout ? { 'page-layout': run.layout } : {}) },
})
/** The run of the same report before this one. */
const earlier = (run: Kept) =>
  run.state === 'done'
    ? runs.value?.find(each => each.report === run.report && each.state === 'done' && each.startedAt < run.startedAt)
    : undefined
const pages = (count: number) => `${grouped(count)} ${t('common.pagePages', count)}`
const seconds = (ms: number) => (ms < 1000 ? `${ms} ms` : `${(ms / 1000).toFixed(1)} s`)
const words = { running: t('runsPage.running'), done: t('runsPage.done'), failed: t('runsPage.failed'), cancelled: t('runsPage.cancelled') }
const marks = {
  running: 'i-lucide-loader-circle',
  done: 'i-lucide-check',
  failed: 'i-lucide-triangle-alert',
  cancelled: 'i-lucide-circle-slash',
}
const colours = {
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
      <h1 class="mb-3 font-display text-lg font-semibold">{{ t('common.runs') }}</h1>
      <div v-if="runs && !runs.length" class="rounded-md border border-default bg-default p-8 text-center">
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
              <p v-if="run.layout" class="text-xs text-muted">{{ run.layout }}</p>
            </td>
            <td class="max-w-md px-3 py-2 text-muted">{{ run.asked.join(' · ') || t('runsPage.allAtTheirDefaults') }}</td>
            <td class="whitespace-nowrap px-3 py-2">{{ recentWords(run.startedAt) }}</td>
            <td class="whitespace-nowrap px-3 py-2 text-right tabular-nums">
              {{ run.state === 'running' ? t('runsPage.soFar', { pages: grouped(run.pages) }) : grouped(run.pages) }}
            </td>
            <td class="whitespace-nowrap px-3 py-2 text-right tabular-nums">{{ run.ms === undefined ? '' : seconds(run.ms) }}</td>
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
            <td class="whitespace-nowrap px-4 py-1.5 text-right">
              <UButton v-if="run.state === 'running'" size="xs" variant="outline" color="neutral" class="mr-1" @click="cancel(run)">{{
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
                v-if="earlier(run)"
                size="xs"
                variant="outline"
                color="neutral"
                class="ml-1"
                :to="{ path: '/changes', query: { before: earlier(run)!.id, now: run.id } }"
                :aria-label="t('runsPage.whatChangedInSinceThe', { name: run.name })"
                >{{ t('runsPage.whatChanged') }}</UButton
              >
              <UButton
                v-if="run.state !== 'running'"
                size="xs"
                variant="ghost"
                color="neutral"
                icon="i-lucide-rotate-cw"
                class="ml-1"
                :to="again(run)"
                :aria-label="t('runsPage.runAgain', { name: run.name })"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="mt-3 text-sm text-muted">
        {{ t('runsPage.theLastTwentyRunsAre') }}
      </p>
    </main>
  </div>
</template>
