<script setup lang="ts">
import type { GuardsInfo } from '../../core/api/guards'
import type { TeamInfo } from '../../core/api/people'
import type { Guard } from '../../core/guard/guards'
import { readable } from '../../core/catalog/types'

/** What teams see of a source: guards of its tables, columns that are hidden, SQL texts that are released. */
const sources = useSources()
useHead({ title: t('guardsPage.guardsEstante') })
const info = shallowRef<GuardsInfo>()
const teams = shallowRef<TeamInfo[]>()
const team = ref('')
const guards = ref<Guard[]>([])
const released = ref<string[]>([])
/** texts are taken apart for people with guards */
const parsed = ref(false)
const problem = ref('')
const saved = ref('')
const search = ref('')
const toast = useToast()

async function load(): Promise<void> {
  problem.value = ''
  try {
    if (!sources.all.length) await sources.load()
    if (!sources.current) return
    const [found, list] = await Promise.all([api<GuardsInfo>(sources.path('guards')), api<TeamInfo[]>('/api/teams')])
    info.value = found
    teams.value = list
    guards.value = structuredClone(found.guards)
    released.value = found.texts.filter(each => each.released).map(each => each.text)
    parsed.value = found.parsed
    if (!list.some(each => each.id === team.value)) team.value = list[0]?.id ?? ''
    saved.value = told()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
void load()
watch(() => sources.current?.id, load)
const told = () => JSON.stringify([guards.value, released.value, parsed.value])
const changed = computed(() => saved.value !== '' && told() !== saved.value)
const current = computed(() => teams.value?.find(each => each.id === team.value))
const own = computed(() => guards.value.map((guard, at) => ({ guard, at })).filter(each => each.guard.team === team.value))
/** Tables that the team's guards are about, in the order of the source. */
const guarded = computed(() => (info.value?.tables ?? []).filter(table => own.value.some(each => each.guard.table === table.name)))
const gone = computed(() => own.value.filter(({ guard }) => !info.value?.tables.some(table => table.name === guard.table)))
const choices = computed(() =>
  (info.value?.tables ?? []).filter(table => `${table.name} ${readable(table.name)}`.toLowerCase().includes(search.value.toLowerCase())),
)
const orphans = computed(() => guards.value.filter(each => teams.value && !teams.value.some(known => known.id === each.team)).length)
function add(table: string): void {
  guards.value.push({ team: team.value, table, is: 'records', formula: '' })
  search.value = ''
}
async function keep(): Promise<void> {
  problem.value = ''
  try {
    await api(sources.path('guards'), {
      method: 'PUT',
      body: {
        basedOn: info.value!.version,
        guards: guards.value.filter(each => teams.value!.some(known => known.id === each.team)),
        released: released.value,
        parsed: parsed.value,
      },
    })
    toast.add({ title: t('guardsPage.theGuardsHoldFromNow'), icon: 'i-lucide-check', color: 'success' })
    await load()
  } catch (error) {
    problem.value = (error as Error).message
  }
}
function release(text: string, on: boolean): void {
  released.value = on ? [...released.value, text] : released.value.filter(each => each !== text)
}
</script>

<template>
  <div class="flex h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error"
      ><UButton size="xs" variant="outline" color="neutral" @click="load">{{ t('guardsPage.openAgain') }}</UButton></Notice
    >
    <div class="flex shrink-0 items-center gap-3 border-b border-default px-4 py-1.5">
      <h1 class="font-display text-lg font-semibold">{{ t('common.guards') }}</h1>
      <USelect
        v-if="sources.list.length > 1"
        :model-value="sources.current?.id ?? ''"
        :items="sources.list.map(each => ({ value: each.id, label: each.name }))"
        size="sm"
        class="w-48"
        :aria-label="t('common.source')"
        @update:model-value="(id: string) => sources.use(id)"
      />
      <span v-else class="text-sm text-muted">{{ sources.current?.name }}</span>
      <span class="ml-auto flex gap-2">
        <UButton size="sm" variant="ghost" color="neutral" :disabled="!changed" @click="load">{{ t('common.takeBack') }}</UButton>
        <UButton size="sm" icon="i-lucide-shield-check" :disabled="!changed" @click="keep">{{ t('common.keep') }}</UButton>
      </span>
    </div>
    <p v-if="teams && !teams.length" class="desk grow p-8">
      {{ t('guardsPage.guardsSayWhatATeam') }} <NuxtLink to="/people" class="underline">{{ t('guardsPage.addOneUnderPeople') }}</NuxtLink>
      {{ t('guardsPage.first') }}
    </p>
    <div v-else-if="info && teams" class="flex min-h-0 grow">
      <nav class="w-56 shrink-0 overflow-auto border-r border-default p-3 text-sm" :aria-label="t('common.teams')">
        <button
          v-for="each in teams"
          :key="each.id"
          class="flex w-full items-baseline gap-2 rounded-md px-2 py-1.5 text-left"
          :class="each.id === team ? 'bg-petrol-100 dark:bg-petrol-900' : 'hover:bg-elevated'"
          :aria-current="each.id === team ? 'true' : undefined"
          @click="team = each.id"
        >
          <span class="font-semibold">{{ each.name }}</span><span class="ml-auto text-xs text-muted">{{
            guards.filter(guard => guard.team === each.id).length || t('common.all')
          }}</span>
        </button>
      </nav>
      <main class="desk min-w-0 grow overflow-auto p-5">
        <div v-if="current" class="max-w-6xl space-y-5">
          <p class="text-sm text-muted">
            {{ t('guardsPage.ofTablesWithoutAGuard', { name: current.name }) }}
            <span v-if="orphans">{{
              t('guardsPage.ofATeamThatIs', {
                orphans,
                what: t('guardsPage.guardIsGuardsAre', orphans),
                what2: t('guardsPage.goesGo', orphans),
              })
            }}</span>
          </p>
          <div v-if="guarded.length" class="divide-y divide-default rounded-md border border-default bg-default px-3">
            <section
              v-for="table in guarded"
              :key="table.name"
              class="flex gap-2"
              :aria-label="t('guardsPage.guardsOf', { name: table.name })"
            >
              <h2 class="flex h-9 w-48 shrink-0 items-center gap-1 text-sm font-semibold" :title="table.name">
                <span class="truncate">{{ readable(table.name) }}</span>
                <UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  icon="i-lucide-plus"
                  :aria-label="t('guardsPage.oneMoreGuardOf', { name: table.name })"
                  @click="add(table.name)"
                />
              </h2>
              <div class="min-w-0 grow">
                <template v-for="{ guard, at } in own" :key="at">
                  <GuardsGuardLine
                    v-if="guard.table === table.name"
                    v-model="guards[at]!"
                    :table="table"
                    :team="current"
                    :all="guards"
                    @remove="guards.splice(at, 1)"
                  />
                </template>
              </div>
            </section>
          </div>
          <Notice v-for="{ guard, at } in gone" :key="at" :text="t('guardsPage.aGuardIsOfWhich', { table: guard.table })"
            ><UButton size="xs" variant="outline" color="neutral" @click="guards.splice(at, 1)">{{
              t('guardsPage.takeItAway')
            }}</UButton></Notice
          >
          <section :aria-label="t('guardsPage.guardAnotherTable')">
            <UInput
              v-model="search"
              size="sm"
              icon="i-lucide-search"
              class="w-72"
              :placeholder="t('guardsPage.guardAnotherTable')"
              :aria-label="t('guardsPage.findATableToGuard')"
              @keydown.enter="choices[0] && add(choices[0].name)"
              @keydown.esc="search = ''"
            />
            <div class="mt-2 flex flex-wrap gap-1.5">
              <UButton
                v-for="table in choices"
                :key="table.name"
                size="xs"
                variant="outline"
                color="neutral"
                :aria-label="t('guardsPage.guard', { name: table.name })"
                @click="add(table.name)"
                >{{ readable(table.name) }}</UButton
              >
            </div>
          </section>
          <section v-if="!info.guardsTexts" class="space-y-2 text-sm" :aria-label="t('guardsPage.sqlTexts')">
            <h2 class="text-base font-semibold">{{ t('guardsPage.sqlTexts') }}</h2>
            <USwitch
              v-model="parsed"
              size="sm"
              :label="t('guardsPage.takeTextsApart')"
              :description="t('guardsPage.takenApart')"
              :ui="{ root: 'max-w-3xl' }"
            />
            <p v-if="info.texts.length" class="max-w-3xl text-muted">
              {{ parsed ? t('guardsPage.whatIsRefusedYouMay') : t('guardsPage.noGuardCanHoldWhat') }}
            </p>
            <details
              v-for="each in info.texts"
              :key="`${each.report} ${each.name}`"
              class="rounded-md border border-default bg-default p-3"
            >
              <summary class="flex cursor-pointer items-center gap-3">
                <span class="font-semibold">{{ each.report }}</span><span class="text-muted">{{ each.name }}</span>
                <span v-if="each.released" class="text-muted">{{ t('guardsPage.releasedBy', { by: each.released.by }) }}</span>
                <USwitch
                  class="ml-auto"
                  size="sm"
                  :model-value="released.includes(each.text)"
                  :aria-label="t('guardsPage.releaseTheTextOf', { name: each.name, report: each.report })"
                  @click.stop
                  @update:model-value="(on: boolean) => release(each.text, on)"
                />
              </summary>
              <pre class="mt-2 overflow-auto whitespace-pre-wrap font-mono text-xs">{{ each.text }}</pre>
            </details>
          </section>
        </div>
      </main>
    </div>
  </div>
</template>
