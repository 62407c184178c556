<script setup lang="ts">
import equal from 'fast-deep-equal'
import type { PackInfo } from '../../../core/api/packs'
import type { PackDefinition } from '../../../core/pack/definition'
import type { FiscalCalendar } from '../../../core/books/calendar'
import type { ReportDefinition } from '../../../core/definition/report'
import type { LibraryShelf } from '../../../core/api/answers'

/** A pack as it is built: its reports and what they are asked, what has to tie out, what is made of it and whom it goes to. */
const route = useRoute()
const pack = shallowRef<PackInfo>()
const name = ref('')
const draft = ref<PackDefinition>()
const problem = ref('')
const definitions = reactive(new Map<string, ReportDefinition>())
const library = shallowRef<LibraryShelf[]>([])
const teams = shallowRef<{ id: string; name: string }[]>([])
const people = shallowRef<{ id: string; name: string }[]>([])
const toast = useToast()
useHead({ title: computed(() => `${name.value} · Estante`) })

async function load(): Promise<void> {
  try {
    const found = await api<PackInfo>(`/api/packs/${String(route.params.id)}`)
    pack.value = found
    name.value = found.name
    draft.value = structuredClone(found.definition)
    await Promise.all(found.definition.reports.map(each => need(each.report)))
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(async () => {
  await load()
  library.value = await api<LibraryShelf[]>('/api/library').catch(() => [])
  teams.value = await api<{ id: string; name: string }[]>('/api/teams').catch(() => [])
  people.value = await api<{ id: string; name: string }[]>('/api/people').catch(() => [])
})
/** Packs run by themselves too: what they came to is looked at again, and what is being changed stays. */
useIntervalFn(async () => {
  if (!pack.value) return
  const found = await api<PackInfo>(`/api/packs/${pack.value.id}`).catch(() => undefined)
  if (found && found.version === pack.value.version) pack.value = { ...pack.value, runs: found.runs, left: found.left, next: found.next }
}, 10_000)
/** The definition of a report, to choose its parameters and figures from. */
async function need(report: string): Promise<void> {
  if (definitions.has(report)) return
  const { definition } = await api<{ definition: ReportDefinition }>(`/api/reports/${report}`)
  definitions.set(report, definition)
}
const changed = computed(() => !!pack.value && (name.value !== pack.value.name || !equal(draft.value, pack.value.definition)))
async function keep(): Promise<boolean> {
  try {
    await api(`/api/packs/${pack.value!.id}`, {
      method: 'PUT',
      body: { name: name.value, definition: draft.value, basedOn: pack.value!.version },
    })
    toast.add({ title: t('packPage.kept'), icon: 'i-lucide-check', color: 'success' })
    await load()
    return true
  } catch (error) {
    problem.value = (error as Error).message
    return false
  }
}
async function remove(): Promise<void> {
  try {
    await api(`/api/packs/${pack.value!.id}`, { method: 'DELETE' })
    await navigateTo('/packs')
  } catch (error) {
    problem.value = (error as Error).message
  }
}
const asking = ref(false)
const asked = shallowRef<ReportDefinition['parameters']>([])
const answers = ref<Record<string, string>>({})
const calendar = shallowRef<FiscalCalendar>()
async function ask(): Promise<void> {
  if (changed.value && !(await keep())) return
  try {
    const { parameters, calendar: periods } = await api<{
      parameters: (ReportDefinition['parameters'][number] & { answer: string })[]
      calendar?: FiscalCalendar
    }>(`/api/packs/${pack.value!.id}/parameters`)
    asked.value = parameters
    calendar.value = periods
    answers.value = Object.fromEntries(parameters.map(each => [each.name, each.answer]))
    asking.value = true
  } catch (error) {
    problem.value = (error as Error).message
  }
}
async function run(dry: boolean): Promise<void> {
  try {
    const { id } = await api<{ id: string }>(`/api/packs/${pack.value!.id}/run`, { method: 'POST', body: { answers: answers.value, dry } })
    await navigateTo(`/packs/runs/${id}`)
  } catch (error) {
    problem.value = (error as Error).message
    asking.value = false
  }
}
const holdItems = [
  { value: 'failed', label: t('packPage.heldWhereATieOut') },
  { value: 'always', label: t('packPage.alwaysHeld') },
  { value: 'never', label: t('packPage.neverHeld') },
]
const made = [
  { key: 'pdf', label: t('packPage.onePdf') },
  { key: 'cover', label: t('packPage.withCover') },
  { key: 'numbered', label: t('packPage.pagesNumbered') },
  { key: 'xlsx', label: t('packPage.oneWorkbook') },
  { key: 'zip', label: t('packPage.zipOfPdfs') },
] as const
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar :crumbs="[{ label: t('common.packs'), to: '/packs' }, { label: name }]">
      <UButton size="sm" variant="ghost" color="neutral" :disabled="!changed" @click="load">{{ t('common.takeBack') }}</UButton>
      <UButton size="sm" variant="outline" color="neutral" :disabled="!changed" @click="keep">{{ t('common.keep') }}</UButton>
      <UButton size="sm" icon="i-lucide-play" :disabled="!draft?.reports.length" @click="ask">{{ t('packPage.run') }}</UButton>
    </TopBar>
    <Notice v-if="problem" :text="problem" kind="error" />
    <main v-if="draft && pack" class="desk grid grow grid-cols-[minmax(0,1fr)_20rem] items-start gap-8 px-10 py-6 text-sm">
      <div class="space-y-7">
        <UInput v-model="name" size="lg" class="w-full max-w-md font-display font-semibold" :aria-label="t('packPage.nameOfThePack')" />
        <PacksPackReports v-model="draft" :library="library" :definitions="definitions" :need="need" />
        <PacksPackTies v-model="draft" :definitions="definitions" />
        <PacksPackRecipients v-model="draft" :teams="teams" :people="people" :definitions="definitions" />
        <PacksPackWhen v-model="draft" />
      </div>
      <aside class="space-y-6">
        <section :aria-label="t('packPage.whatIsMade')">
          <h2 class="mb-2 font-semibold">{{ t('packPage.whatIsMade') }}</h2>
          <div class="space-y-2">
            <UCheckbox
              v-for="each in made"
              :key="each.key"
              :model-value="draft.out[each.key] ?? false"
              :label="each.label"
              :disabled="(each.key === 'cover' || each.key === 'numbered') && !draft.out.pdf"
              :class="each.key === 'cover' || each.key === 'numbered' ? 'ml-6' : ''"
              @update:model-value="value => (draft!.out[each.key] = value === true)"
            />
            <label class="block pt-1"
              ><span class="mb-1 block text-muted">{{ t('packPage.nameOfTheFiles') }}</span
              ><UInput v-model="draft.out.name" size="sm" class="w-full font-mono" :placeholder="name"
            /></label>
          </div>
        </section>
        <section :aria-label="t('packPage.holding')">
          <h2 class="mb-2 font-semibold">{{ t('packPage.holding') }}</h2>
          <USelect v-model="draft.hold" :items="holdItems" size="sm" class="w-full" :aria-label="t('packPage.holding')" />
          <p class="mt-1 text-xs text-muted">{{ t('packPage.heldSendsNothing') }}</p>
        </section>
        <section :aria-label="t('packPage.history')">
          <h2 class="mb-2 font-semibold">{{ t('packPage.history') }}</h2>
          <ol v-if="pack.runs.length" class="divide-y divide-default rounded-md border border-default bg-default">
            <li v-for="each in pack.runs" :key="each.id" class="px-3 py-1.5">
              <NuxtLink :to="`/packs/runs/${each.id}`" class="block hover:underline"><PacksPackRunState :run="each" /></NuxtLink>
              <p v-if="each.asked.length" class="truncate text-xs text-muted">{{ each.asked.join(' · ') }}</p>
            </li>
          </ol>
          <p v-else class="text-muted">{{ t('packPage.notRunYet') }}</p>
          <p v-if="pack.left.length" class="mt-2 text-xs text-muted">
            {{
              t('packPage.leftOut', {
                times: pack.left
                  .slice(0, 5)
                  .map(each => each.replace('T', ' '))
                  .join(', '),
              })
            }}
          </p>
        </section>
        <UButton size="xs" variant="ghost" color="error" icon="i-lucide-trash-2" @click="remove">{{ t('packPage.deletePack') }}</UButton>
      </aside>
    </main>
    <UModal v-model:open="asking" :title="t('packPage.runNamed', { name })" :description="t('packPage.allReportsShow')">
      <template #body>
        <AnswerFields
          v-if="asked.length"
          v-model="answers"
          :parameters="asked"
          :problems="{}"
          v-bind="calendar ? { calendar } : {}"
          form
          class="mb-4"
        />
        <div class="flex justify-end gap-2">
          <UButton size="sm" variant="outline" color="neutral" @click="run(true)">{{ t('packPage.dryRun') }}</UButton>
          <UButton size="sm" icon="i-lucide-play" @click="run(false)">{{ t('packPage.runAndSend') }}</UButton>
        </div>
      </template>
    </UModal>
  </div>
</template>
