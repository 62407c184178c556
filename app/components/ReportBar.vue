<script setup lang="ts">
const report = useReport()
const route = useRoute()
const stages = [
  { label: t('reportBar.data'), path: 'data' },
  { label: t('reportBar.parameters'), path: 'parameters' },
  { label: t('reportBar.page'), path: 'page' },
  { label: t('reportBar.tieOut'), path: 'tieout' },
  { label: t('reportBar.deliver'), path: 'deliver' },
]
const stage = computed(() => route.path.split('/').at(-1))
const states = {
  saved: t('reportBar.saved'),
  waiting: t('reportBar.changed'),
  saving: t('reportBar.saving'),
  failed: t('reportBar.notSaved'),
  conflict: t('reportBar.savedBySomebodyElse'),
} as const
const me = useMe()
const audience = ref(false)
const publishing = ref(false)
const toast = useToast()

async function run(): Promise<void> {
  await report.save()
  if (report.unpublished) await publish()
  if (!report.unpublished) await navigateTo({ path: `/run/${report.id}`, query: report.answers })
}

async function publish(): Promise<void> {
  publishing.value = true
  try {
    const waiting = await report.publish()
    if (waiting !== undefined) toast.add({ title: t('reportBar.versionWaitsForASecond', { waiting }), icon: 'i-lucide-hourglass' })
    else if (!report.unpublished) {
      const { nestedIn } = await api<{ nestedIn: string[] }>(`/api/reports/${report.id}/uses`)
      const around = new Intl.ListFormat(locale()).format(nestedIn.map(each => `“${each}”`))
      toast.add({
        title: t('reportBar.readersNowRunVersion', { published: report.published }),
        ...(around ? { description: t('reportBar.itTooWhereItIs', { around, what: t('reportBar.printsPrint', nestedIn.length) }) } : {}),
        icon: 'i-lucide-check',
        color: 'success',
      })
    }
  } catch (error) {
    toast.add({ title: tell((error as Error).message), color: 'error' })
  } finally {
    publishing.value = false
  }
}
defineShortcuts({ meta_enter: () => void run() })
</script>

<template>
  <TopBar :crumbs="[{ label: report.shelf, to: '/' }, { label: report.name }]">
    <template #middle>
      <nav class="absolute left-1/2 flex -translate-x-1/2 gap-1" :aria-label="t('reportBar.stages')">
        <NuxtLink
          v-for="each in stages"
          :key="each.path"
          :to="`/reports/${report.id}/${each.path}`"
          class="rounded-md px-3.5 py-1.5 font-medium"
          :class="
            stage === each.path
              ? 'bg-petrol-100 text-petrol-800 dark:bg-petrol-900 dark:text-petrol-100'
              : 'text-muted hover:text-highlighted'
          "
          :aria-current="stage === each.path ? 'page' : undefined"
          >{{ each.label }}</NuxtLink
        >
      </nav>
    </template>
    <span
      class="text-sm"
      :class="report.saving === 'failed' || report.saving === 'conflict' ? 'font-semibold text-error' : 'text-muted'"
      data-save-state
      >{{ states[report.saving] }}</span
    >
    <UTooltip :text="t('common.undo')" :kbds="['ctrl', 'z']"
      ><UButton
        variant="ghost"
        color="neutral"
        size="sm"
        icon="i-lucide-undo-2"
        :aria-label="t('common.undo')"
        :disabled="!report.past.length"
        @click="report.undo()"
    /></UTooltip>
    <UTooltip :text="t('reportBar.redo')" :kbds="['ctrl', 'y']"
      ><UButton
        variant="ghost"
        color="neutral"
        size="sm"
        icon="i-lucide-redo-2"
        :aria-label="t('reportBar.redo')"
        :disabled="!report.future.length"
        @click="report.redo()"
    /></UTooltip>
    <UButton size="sm" variant="outline" color="neutral" :loading="publishing" :disabled="!report.unpublished" @click="publish">{{
      report.unpublished ? t('reportBar.publish') : t('reportBar.published')
    }}</UButton>
    <UTooltip v-if="me.people" :text="t('reportBar.whoRunsAndEditsIt')"
      ><UButton
        size="sm"
        variant="outline"
        color="neutral"
        icon="i-lucide-users-round"
        :aria-label="t('reportBar.whoRunsAndEditsIt')"
        @click="audience = true"
    /></UTooltip>
    <UTooltip :text="t('common.run')" :kbds="['ctrl', 'enter']"
      ><UButton size="sm" @click="run">{{ t('common.run') }}</UButton></UTooltip
    >
  </TopBar>
  <ReportAudience
    v-if="audience"
    :id="report.id"
    :name="report.name"
    @close="audience = false"
    @published="version => (report.published = version)"
  />
</template>
