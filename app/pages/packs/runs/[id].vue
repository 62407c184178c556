<script setup lang="ts">
import type { PackPartInfo, PackRunDetail } from '../../../../core/api/packs'

/** A run of a pack: its reports, what ties out, its files, and what goes out of it. */
const route = useRoute()
const run = shallowRef<PackRunDetail>()
const problem = ref('')
useHead({ title: computed(() => (run.value ? `${run.value.name} · Estante` : 'Estante')) })
let left = false
onBeforeUnmount(() => (left = true))
async function follow(): Promise<void> {
  try {
    run.value = await api<PackRunDetail>(`/api/packs/runs/${String(route.params.id)}`)
    while (!left && packGrows(run.value)) run.value = await api<PackRunDetail>(`/api/packs/runs/${run.value.id}?wait=1`)
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(follow)
async function change(work: Promise<unknown>): Promise<void> {
  try {
    await work
    await follow()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const cancel = () => change(api(`/api/packs/runs/${run.value!.id}`, { method: 'DELETE' }))
const reason = ref('')
const decide = (released: boolean) =>
  change(api(`/api/packs/runs/${run.value!.id}/decide`, { method: 'POST', body: { released, reason: reason.value } }))
const to = (part: PackPartInfo) => ({
  path: `/run/${part.report}`,
  query: { ...part.answers, ...(part.layout ? { 'page-layout': part.layout } : {}), 'kept-run': part.id },
})
const failed = computed(() => run.value?.allTies.filter(each => !each.holds) ?? [])
const holding = computed(() => run.value?.allTies.filter(each => each.holds) ?? [])
/** Who decided on a held run, when and why. */
const decided = computed(() => ({
  by: run.value?.decided?.by || t('packRunPage.somebodyHere'),
  at: run.value?.decided ? minuteWords(run.value.decided.at) : '',
  reason: run.value?.decided?.reason ?? '',
}))
/** A tie-out that fails, in a sentence. */
const fault = (each: PackRunDetail['allTies'][number]) =>
  each.sentence
    ? tell(each.sentence)
    : t('packRunPage.isNot', { left: each.left ?? '', right: each.right ?? '', difference: each.difference ?? '' })
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar
      :crumbs="
        run
          ? [
              { label: t('common.packs'), to: '/packs' },
              { label: run.name, to: `/packs/${run.pack}` },
              { label: recentWords(run.startedAt) },
            ]
          : []
      "
    >
      <UButton v-if="run && packGrows(run)" size="sm" variant="outline" color="neutral" @click="cancel">{{ t('common.cancel') }}</UButton>
      <UButton
        v-for="file in run?.files"
        :key="file.file"
        size="sm"
        :variant="file.format === 'pdf' ? 'solid' : 'outline'"
        :color="file.format === 'pdf' ? 'primary' : 'neutral'"
        icon="i-lucide-download"
        :to="`/api/packs/runs/${run!.id}/file?file=${encodeURIComponent(file.file)}`"
        external
        download
        >{{ file.format === 'rest' ? t('packRunPage.withoutAddress') : file.format.toUpperCase() }}</UButton
      >
    </TopBar>
    <Notice v-if="problem" :text="problem" kind="error" />
    <main v-if="run" class="desk grow px-10 py-6 text-sm">
      <div class="mb-4 flex items-start gap-6">
        <div>
          <h1 class="font-display text-lg font-semibold">{{ run.name }}</h1>
          <p class="text-muted">
            {{
              [...run.asked, run.moment ? t('packRunPage.allOf', { moment: exactWords(run.moment) }) : undefined]
                .filter(Boolean)
                .join(' · ')
            }}
          </p>
          <p v-if="run.dry" class="text-muted">{{ t('packRunPage.nothingOfItIsSent') }}</p>
        </div>
        <div class="ml-auto text-right"><PacksPackRunState :run="run" /></div>
      </div>
      <p v-for="sentence in run.sentences" :key="sentence" class="mb-2 text-error" data-sentence>{{ tell(sentence) }}</p>
      <form
        v-if="run.state === 'held'"
        class="mb-5 rounded-md border border-warning bg-default p-4"
        :aria-label="t('packRunPage.held')"
        data-held
        @submit.prevent="decide(true)"
      >
        <p class="mb-2 font-semibold">
          {{ failed.length ? t('packRunPage.heldSince', { failed: failed.length }, failed.length) : t('packRunPage.heldToBeLookedAt') }}
        </p>
        <p class="mb-3 text-muted">{{ t('packRunPage.lookAtItThen') }}</p>
        <div class="flex gap-2">
          <UInput v-model="reason" size="sm" class="w-96" :placeholder="t('packRunPage.why')" :aria-label="t('packRunPage.why')" />
          <UButton type="submit" size="sm" icon="i-lucide-send" :disabled="!reason.trim()">{{ t('packRunPage.letItGo') }}</UButton>
          <UButton size="sm" variant="outline" color="error" :disabled="!reason.trim()" @click="decide(false)">{{
            t('packRunPage.dropIt')
          }}</UButton>
        </div>
      </form>
      <p v-if="run.decided" class="mb-4 text-muted">
        {{ run.state === 'dropped' ? t('packRunPage.droppedBy', decided) : t('packRunPage.releasedBy', decided) }}
      </p>
      <div class="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] items-start gap-6">
        <section :aria-label="t('packRunPage.reports')">
          <h2 class="mb-1.5 font-semibold">{{ t('packRunPage.reports') }}</h2>
          <table class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default" data-parts>
            <tbody>
              <tr
                v-for="(part, index) in run.parts"
                :key="part.id"
                class="align-top"
                :class="index ? '[&>td]:border-t [&>td]:border-default' : ''"
              >
                <td class="px-4 py-1.5">
                  <NuxtLink :to="to(part)" class="font-medium hover:underline">{{ part.name }}</NuxtLink>
                  <span v-if="part.layout" class="text-muted"> · {{ part.layout }}</span>
                </td>
                <td class="px-3 py-1.5 text-muted">{{ part.asked.join(' · ') }}</td>
                <td class="whitespace-nowrap px-4 py-1.5 text-right tabular-nums">
                  {{ grouped(part.pages) }} {{ t('common.pagePages', part.pages) }}
                </td>
              </tr>
              <tr v-if="!run.parts.length">
                <td class="px-4 py-3 text-muted">{{ packGrows(run) ? t('packRunPage.notBegunYet') : t('packRunPage.noReportWasRun') }}</td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="run.allTies.length" :aria-label="t('packRunPage.tieOuts')" data-ties>
          <h2 class="mb-1.5 font-semibold">{{ t('packRunPage.tieOuts') }}</h2>
          <ul class="divide-y divide-default rounded-md border border-default bg-default">
            <li v-for="each in failed" :key="`${each.report} ${each.id}`" class="px-4 py-2">
              <p class="flex items-start gap-2"><UIcon name="i-lucide-x" class="mt-0.5 size-4 shrink-0 text-error" />{{ each.name }}</p>
              <p class="ml-6 text-xs text-error">{{ fault(each) }}</p>
              <p class="ml-6 text-xs text-muted">{{ each.report ?? t('packRunPage.acrossReports') }}</p>
            </li>
            <li v-for="each in holding" :key="`${each.report} ${each.id}`" class="flex items-baseline gap-2 px-4 py-1.5">
              <UIcon name="i-lucide-check" class="size-4 shrink-0 self-center text-moss-700 dark:text-moss-300" />{{ each.name }}
              <span class="ml-auto shrink-0 text-xs text-muted">{{ each.report ?? t('packRunPage.acrossReports') }}</span>
            </li>
          </ul>
        </section>
      </div>
      <PacksPackDeliveries v-if="run.counts.length" :run="run" @changed="follow" />
    </main>
  </div>
</template>
