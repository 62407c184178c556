<script setup lang="ts">
import type { PackInfo } from '../../../core/api/packs'

/** All packs: reports that run together, with when they are due and how the last run went. */
useHead({ title: t('packsPage.packsEstante') })
const packs = shallowRef<PackInfo[]>()
const problem = ref('')
const name = ref('')
const adding = ref(false)
async function load(): Promise<void> {
  try {
    packs.value = await api<PackInfo[]>('/api/packs')
    problem.value = ''
  } catch (error) {
    problem.value = (error as Error).message
  }
}
onMounted(load)
const busy = computed(() => packs.value?.some(({ last }) => last && packGrows(last)) ?? false)
const { pause, resume } = useIntervalFn(load, 1000, { immediate: false })
watch(busy, now => (now ? resume() : pause()), { immediate: true })
// packs also begin by themselves
useIntervalFn(load, 10_000)
async function add(): Promise<void> {
  try {
    const { id } = await api<{ id: string }>('/api/packs', { method: 'POST', body: { name: name.value } })
    await navigateTo(`/packs/${id}`)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
async function run(pack: PackInfo, dry: boolean): Promise<void> {
  try {
    const { id } = await api<{ id: string }>(`/api/packs/${pack.id}/run`, { method: 'POST', body: { answers: {}, dry } })
    await navigateTo(`/packs/runs/${id}`)
  } catch (error) {
    problem.value = (error as Error).message
  }
}
</script>

<template>
  <div class="flex min-h-dvh flex-col">
    <TopBar home />
    <Notice v-if="problem" :text="problem" kind="error" />
    <main class="desk grow px-10 py-6">
      <div class="mb-3 flex items-center gap-3">
        <h1 class="font-display text-lg font-semibold">{{ t('common.packs') }}</h1>
        <p class="text-sm text-muted">{{ t('packsPage.reportsThatRunTogether') }}</p>
        <UPopover v-model:open="adding" :content="{ align: 'end' }">
          <UButton size="sm" icon="i-lucide-plus" class="ml-auto">{{ t('packsPage.newPack') }}</UButton>
          <template #content>
            <form class="flex w-80 gap-2 p-3" @submit.prevent="add">
              <UInput v-model="name" size="sm" autofocus class="grow" :placeholder="t('packsPage.nameOfThePack')" />
              <UButton type="submit" size="sm" :disabled="!name.trim()">{{ t('packsPage.make') }}</UButton>
            </form>
          </template>
        </UPopover>
      </div>
      <div v-if="packs && !packs.length" class="rounded-md border border-default bg-default p-8 text-center text-sm">
        <p class="mb-1 font-display text-lg">{{ t('packsPage.thereAreNoPacksYet') }}</p>
        <p class="text-muted">{{ t('packsPage.aPackRunsReports') }}</p>
      </div>
      <table
        v-else-if="packs"
        class="w-full border-separate border-spacing-0 overflow-hidden rounded-md border border-default bg-default text-sm"
        data-packs
      >
        <thead>
          <tr class="text-left text-muted">
            <th class="px-4 py-2 font-medium">{{ t('packsPage.pack') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('packsPage.reports') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('packsPage.goesTo') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('packsPage.due') }}</th>
            <th class="px-3 py-2 font-medium">{{ t('packsPage.lastRun') }}</th>
            <th class="px-4 py-2" />
          </tr>
        </thead>
        <tbody>
          <tr v-for="pack in packs" :key="pack.id" class="align-top [&>td]:border-t [&>td]:border-default" :data-pack="pack.name">
            <td class="px-4 py-2.5">
              <NuxtLink :to="`/packs/${pack.id}`" class="font-semibold hover:underline">{{ pack.name }}</NuxtLink>
            </td>
            <td class="max-w-md px-3 py-2.5 text-muted">
              {{ [...new Set(pack.definition.reports.map(each => each.name))].join(' · ') || t('packsPage.noneYet') }}
            </td>
            <td class="px-3 py-2.5 text-muted">{{ pack.definition.to.map(recipientWords).join(' · ') || t('packsPage.nobody') }}</td>
            <td class="px-3 py-2.5 text-muted">{{ dueWords(pack) }}</td>
            <td class="px-3 py-2.5">
              <NuxtLink v-if="pack.last" :to="`/packs/runs/${pack.last.id}`" class="hover:underline"
                ><PacksPackRunState :run="pack.last"
              /></NuxtLink>
              <span v-else class="text-muted">{{ t('packsPage.notRunYet') }}</span>
            </td>
            <td class="px-4 py-1.5">
              <span class="flex items-center justify-end gap-1">
                <UButton
                  size="xs"
                  variant="ghost"
                  color="neutral"
                  class="whitespace-nowrap"
                  :disabled="!pack.definition.reports.length"
                  :aria-label="t('packsPage.dryRunOf', { name: pack.name })"
                  @click="run(pack, true)"
                  >{{ t('packsPage.dryRun') }}</UButton
                >
                <UButton
                  size="xs"
                  icon="i-lucide-play"
                  :disabled="!pack.definition.reports.length"
                  :aria-label="t('packsPage.runNamed', { name: pack.name })"
                  @click="run(pack, false)"
                  >{{ t('packsPage.run') }}</UButton
                ></span
              >
            </td>
          </tr>
        </tbody>
      </table>
    </main>
  </div>
</template>
